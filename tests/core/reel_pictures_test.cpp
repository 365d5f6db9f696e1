// What is seen of shots in a row, picture by picture, against each shot made on its own and mixed slowly; whatever they are.
#include <gtest/gtest.h>

#include <random>

#include "core/engine/evaluator.h"
#include "core/engine/render_job.h"
#include "core/picture/accumulator.h"
#include "core/project/project_file.h"
#include "core/stages/echoes.h"
#include "core/stages/finish.h"
#include "core/stages/framing.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::sampleAt;
using test::TempFolder;

struct Clip {
  std::string path;
  std::shared_ptr<const Footage> footage;
};

/// Clips of two rates, three shapes and several formats.
class ReelPictures : public ::testing::Test {
 protected:
  static void SetUpTestSuite() {
    folder_ = new TempFolder;
    const auto add = [](const char* name, int frames, Size size, const char* format, const char* more) {
      const std::string path = *folder_ / name;
      test::makeNoiseClip(path, frames, size, format, more);
      clips_.push_back({path, test::openFootage(path)});
    };
    add("a.mkv", 40, {48, 32}, "yuv420p", "");
    add("b.mkv", 31, {48, 32}, "yuv420p", "");
    add("c.mkv", 36, {48, 32}, "yuv420p", "-r 24");
    add("tall.mkv", 25, {31, 57}, "yuv444p", "");
    add("deep.mkv", 25, {48, 32}, "yuv422p10le", "");
    add("clear.mkv", 20, {48, 32}, "rgba", "");
    add("gray.mkv", 20, {64, 32}, "gray", "");
    add("one.mkv", 1, {48, 32}, "yuv420p", "");
  }
  static void TearDownTestSuite() {
    clips_.clear();
    delete folder_;
  }

  struct Reel {
    Project project;
    std::vector<std::size_t> clips;  ///< of each shot
  };
  Reel random(std::mt19937& random, std::size_t kinds) {
    static const std::vector<std::vector<std::string>> chains = {
        {}, {}, {"pace:spans=0.3s@150%~0.1s+1s@40%"}, {"time-field:back=0.3s"}, {"loop"}, {"step-rate:rate=8"}, {"finish:exposure=0.4"},
        {"echoes:repeats=2,spacing=0.1s"}, {"pace:from=0.5s,spans=1s@-60%", "strips:count=3"}, {"framing:zoom=150%"}};
    Reel reel;
    const std::size_t count = 2 + random() % 4;
    std::vector<Shot> shots;
    for (std::size_t i = 0; i < count; ++i) {
      const std::size_t clip = random() % kinds;
      reel.clips.push_back(clip);
      Shot shot;
      shot.source.path = clips_[clip].path;
      shot.source.between = static_cast<InBetween>(random() % 2);
      shot.chain = chainOf(chains[random() % chains.size()]);
      const auto tenths = [&](unsigned most) { return Rational(static_cast<std::int64_t>(random() % most), 25); };
      if (random() % 2) shot.place.from = tenths(12);
      if (random() % 2) shot.place.to = shot.place.from.value_or(0) + Rational(3, 25) + tenths(15);
      if (random() % 2) shot.place.cut = {tenths(12), random() % 2 == 0};
      shot.place.fills = random() % 2;
      if (i > 0 && random() % 7 == 0) shot.place.on = false;
      shots.push_back(std::move(shot));
    }
    reel.project = withShots({}, std::move(shots));
    return reel;
  }

  /// All pictures of a render that loses nothing.
  std::vector<Picture> rendered(const Project& project, int threads, std::optional<Span> pictures = std::nullopt) {
    RenderSettings settings;
    settings.footage = test::openFootage(project.source.path);
    settings.project = project;
    settings.project.output.path = *folder_ / "made.mkv";
    settings.pictures = pictures;
    settings.threads = threads;
    const auto done = render(settings, nullptr, {});
    EXPECT_TRUE(done) << done.error().message;
    return done ? test::readAll(*test::openFootage(settings.project.output.path)) : std::vector<Picture>();
  }

  static TempFolder* folder_;
  static std::vector<Clip> clips_;
};
TempFolder* ReelPictures::folder_ = nullptr;
std::vector<Clip> ReelPictures::clips_;

/// One shot by itself, with its own evaluator: what leaves its chain at a moment in seconds, held at its end.
class Alone {
 public:
  Alone(const Clip& clip, const Shot& shot) : evaluator_(std::make_shared<FrameFeed>(clip.footage, std::size_t(1) << 28, 1), 1) {
    plan_.emplace(evaluator_.plan(shot.chain, {1, shot.source.between, 0, {}}));
    for (const Stage& stage : shot.chain) makesPictures_ |= stage.kind == &echoes() || stage.kind == &finish() || stage.kind == &framing();
  }
  /// True if a stage of the shot's changes or mixes values, and does not only choose times.
  bool makesPictures() const { return makesPictures_; }
  Rational seconds() const { return plan_->outgoing().seconds(); }
  bool endless() const { return plan_->outgoing().endless; }
  const VideoDescription& video() const { return plan_->outgoing(); }
  Picture at(Rational moment) {
    Rational position = moment * plan_->rate();
    const Rational length = plan_->outgoing().pictures();
    if (endless())
      while (position >= length) position = position - length;
    else
      position = std::min(position, Rational(plan_->length() - 1));
    const auto picture = evaluator_.picture(*plan_, Moment::ofPictures(position), {});
    EXPECT_TRUE(picture) << picture.error().message;
    return *picture;
  }

 private:
  Evaluator evaluator_;
  std::optional<PicturePlan> plan_;
  bool makesPictures_ = false;
};

/// R G B as they are shown, black where nothing is.
std::vector<float> colours(const Picture& picture) {
  const WorkingFormat takes(picture.shape(), Light::Display);
  const Size size = picture.shape().size;
  std::vector<float> all(static_cast<std::size_t>(size.width * size.height) * 3);
  overTiles(size, [&](const PixelBox& box, WorkingTile& tile) {
    takes.take(picture, box, tile);
    for (int y = box.top; y < box.bottom; ++y)
      for (int x = box.left; x < box.right; ++x)
        for (int c = 0; c < 3; ++c) {
          const auto value = [&](int channel) { return tile.row(channel, y - box.top + WorkingTile::margin)[x - box.left + WorkingTile::margin]; };
          const float there = picture.format().alpha ? value(3) : 1.0f;
          all[static_cast<std::size_t>((y * size.width + x) * 3 + c)] = value(c) * there;
        }
  });
  return all;
}

/// The mean difference; samples that were rounded, and chroma that was spread, differ by a little.
double meanDifference(const std::vector<float>& a, const std::vector<float>& b) {
  double sum = 0;
  for (std::size_t i = 0; i < a.size(); ++i) sum += std::abs(static_cast<double>(a[i]) - static_cast<double>(b[i]));
  return sum / static_cast<double>(a.size());
}

/// Two 8-bit pictures of one shape differ by one at most, and in fewer than one of a thousand samples.
::testing::AssertionResult sameButForRounding(const Picture& a, const Picture& b) {
  if (!(a.shape() == b.shape())) return ::testing::AssertionFailure() << "the shapes differ";
  int samples = 0, off = 0;
  for (int p = 0; p < a.format().planes(); ++p)
    for (int y = 0; y < a.planeHeight(p); ++y)
      for (int x = 0; x < a.planeWidth(p); ++x, ++samples) {
        const auto one = static_cast<int>(sampleAt(a, p, x, y)), other = static_cast<int>(sampleAt(b, p, x, y));
        if (std::abs(one - other) > 1) return ::testing::AssertionFailure() << one << " is not " << other << " in plane " << p << " at " << x << ", " << y;
        off += one != other;
      }
  if (off * 1000 > samples) return ::testing::AssertionFailure() << off << " of " << samples << " samples differ";
  return ::testing::AssertionSuccess();
}

/// Shots of one shape, with hard cuts or within dissolves: to the sample where stages choose times alone. What a stage makes is
/// handed to the reel in floats and rounded there, so that a value between two whole ones may come out as the other one.
TEST_F(ReelPictures, AreThoseOfTheShotThatLiesThere) {
  std::mt19937 random(1);
  int exact = 0, mixed = 0;
  for (int round = 0; round < 25; ++round) {
    const Reel reel = this->random(random, 3);
    std::vector<std::unique_ptr<Alone>> alone;
    std::vector<ShotLength> lengths;
    for (std::size_t i = 0; i < reel.clips.size(); ++i) {
      alone.push_back(std::make_unique<Alone>(clips_[reel.clips[i]], shotOf(reel.project, i)));
      lengths.push_back({alone.back()->seconds(), alone.back()->endless()});
    }
    const Rational rate = alone[0]->video().rate;
    const auto times = shotTimes(reel.project, lengths, rate);
    const std::vector<Picture> pictures = rendered(reel.project, 2);
    ASSERT_EQ(Rational(static_cast<std::int64_t>(pictures.size())), times.back().end() * rate) << round;
    for (std::size_t n = 0; n < pictures.size(); ++n) {
      const Rational seconds = Rational(static_cast<std::int64_t>(n)) / rate;
      std::vector<const ShotTime*> there;
      for (const ShotTime& time : times)
        if (seconds >= time.begin && seconds < time.end()) there.push_back(&time);
      const Picture first = alone[there[0]->shot]->at(there[0]->from + seconds - there[0]->begin);
      if (there.size() == 1 || seconds == there[1]->begin) {
        const Picture wanted = narrowed(first, pictures[n].shape());
        const bool made = alone[there[0]->shot]->makesPictures();
        ASSERT_TRUE(made ? sameButForRounding(wanted, pictures[n]) : test::samePicture(wanted, pictures[n])) << round << " at " << n;
        ++exact;
        continue;
      }
      const Picture second = alone[there[1]->shot]->at(there[1]->from + seconds - there[1]->begin);
      const auto a = colours(first), b = colours(second), is = colours(pictures[n]);
      const float share = static_cast<float>(((seconds - there[1]->begin) / there[1]->comes).toDouble());
      // Noise in every chroma sample goes farther than light can.
      if (shotOf(reel.project, there[0]->shot).place.cut.linearLight) continue;
      std::vector<float> wanted(a.size());
      for (std::size_t i = 0; i < a.size(); ++i) wanted[i] = a[i] * (1 - share) + b[i] * share;
      ASSERT_LT(meanDifference(wanted, is), 0.02) << round << " at " << n << " share " << share;
      ++mixed;
    }
  }
  EXPECT_GT(exact, 500);
  EXPECT_GT(mixed, 30);
}

/// Gray as it is shown, or as light is: the nearest whole value.
TEST_F(ReelPictures, DissolvesMixWhatIsShownOrLight) {
  const auto level = [](int shot, int frame, int x) { return (shot * 90 + frame * 3 + x * 5) % 256; };
  Project reel;
  for (const int shot : {0, 1}) {
    const std::string path = *folder_ / ("level" + std::to_string(shot) + ".mkv");
    test::makeGrayClip(path, 20, {40, 16}, [&](int frame, int x, int) { return level(shot, frame, x); });
    if (shot == 0)
      reel.source.path = path;
    else
      reel.more.push_back({.source = {path, {}, {}}});
  }
  const Rational rate = test::openFootage(reel.source.path)->clock().rate();
  for (const bool linear : {false, true}) {
    reel.place.cut = {Rational(8) / rate, linear};
    const auto pictures = rendered(reel, 2);
    ASSERT_EQ(pictures.size(), 32u);
    for (int n = 12; n < 20; ++n)
      for (int x = 0; x < 40; ++x) {
        const auto light = [&](double v) { return linear ? std::pow(v / 255, 2.4) : v / 255; };
        const double share = (n - 12) / 8.0;
        const double mix = light(level(0, n, x)) * (1 - share) + light(level(1, n - 12, x)) * share;
        EXPECT_NEAR(sampleAt(pictures[static_cast<std::size_t>(n)], 0, x, 7), 255 * (linear ? std::pow(mix, 1 / 2.4) : mix), 0.51) << n << " " << x << linear;
      }
  }
}

/// What has another shape lies fitted over black, or is cut to the row's; what has another format has the same colours.
TEST_F(ReelPictures, OtherShapesAreConformed) {
  Project reel;
  reel.source.path = clips_[0].path;
  for (const std::size_t clip : {3, 4, 5, 6}) reel.more.push_back({.source = {clips_[clip].path, {}, {}}});
  for (const bool fills : {false, true}) {
    for (Shot& shot : reel.more) shot.place.fills = fills;
    const auto pictures = rendered(reel, 2);
    ASSERT_EQ(pictures.size(), 40u + 25 + 25 + 20 + 20);
    for (const Picture& picture : pictures) ASSERT_EQ(picture.shape(), pictures[0].shape());
    // Tall: bars at both sides, or none.
    const Picture tall = pictures[45];
    for (int y = 0; y < 32; ++y)
      for (const int x : {0, 8, 39, 47}) {
        if (!fills) {
          EXPECT_EQ(sampleAt(tall, 0, x, y), 16u) << x << " " << y;
        }
      }
    double bright = 0;
    for (int y = 0; y < 32; ++y) bright += sampleAt(tall, 0, 2, y);
    EXPECT_EQ(bright > 32 * 40, fills);
    // Ten bits become eight, and nothing else happens to them.
    const auto deep = test::readAll(*clips_[4].footage);
    EXPECT_LT(meanDifference(colours(narrowed(deep[7], pictures[0].shape())), colours(pictures[40 + 25 + 7])), 1e-6);
    // What is clear lies over black.
    const auto clear = test::readAll(*clips_[5].footage);
    EXPECT_LT(meanDifference(colours(clear[3]), colours(pictures[40 + 25 + 25 + 3])), 0.2);
    Project alone = reel;
    alone.more.erase(alone.more.begin(), alone.more.begin() + 2);
    EXPECT_TRUE(test::samePicture(rendered(alone, 1)[40 + 3], pictures[40 + 25 + 25 + 3])) << "what stands before changes nothing";
  }
}

TEST_F(ReelPictures, PiecesAndThreadsMakeTheSame) {
  std::mt19937 random(3);
  for (int round = 0; round < 8; ++round) {
    Reel reel = this->random(random, clips_.size());
    if (round % 2) reel.project.reelChain = chainOf({"echoes:repeats=2,spacing=0.12s", "finish:exposure=0.3"});
    if (round % 4 == 3) reel.project.output.rate = Rational(30);
    if (round % 3 == 2) reel.project.output.size = Size{40, 40};
    const auto whole = rendered(reel.project, 2), single = rendered(reel.project, 1);
    ASSERT_EQ(whole.size(), single.size());
    for (std::size_t n = 0; n < whole.size(); ++n) ASSERT_TRUE(test::samePicture(whole[n], single[n])) << round << " at " << n;
    const auto last = static_cast<std::int64_t>(whole.size()) - 1, middle = last / 2;
    std::vector<Picture> pieces = rendered(reel.project, 2, Span{0, middle});
    if (middle < last)
      for (Picture& picture : rendered(reel.project, 2, Span{middle + 1, last})) pieces.push_back(std::move(picture));
    ASSERT_EQ(pieces.size(), whole.size());
    for (std::size_t n = 0; n < whole.size(); ++n) ASSERT_TRUE(test::samePicture(whole[n], pieces[n])) << round << " at " << n;
  }
}

/// A stage after the last cut reads in the reel's time: an echo of the first shot stands in the second.
TEST_F(ReelPictures, WhatComesAfterTheLastCutReadsAcrossIt) {
  Project reel;
  reel.source.path = clips_[0].path;
  reel.more.push_back({.source = {clips_[1].path, {}, {}}});
  reel.place.to = Rational(10, 30);
  const auto plain = rendered(reel, 2);
  reel.reelChain = chainOf({"pace:from=0.2s,spans=0.6s@100%"});
  const auto moved = rendered(reel, 2);
  ASSERT_EQ(moved.size(), 18u);
  for (std::size_t n = 0; n < moved.size(); ++n) EXPECT_TRUE(test::samePicture(moved[n], plain[n + 6])) << n;
  reel.reelChain = chainOf({"time-field:back=0.2s"});
  const auto field = rendered(reel, 2);
  // The last row reads the present, the first one what was 6 pictures ago.
  for (std::size_t n = 10; n < 14; ++n)
    for (int x = 0; x < 48; ++x) {
      EXPECT_EQ(sampleAt(field[n], 0, x, 31), sampleAt(plain[n], 0, x, 31)) << n;
      EXPECT_EQ(sampleAt(field[n], 0, x, 0), sampleAt(plain[n - 6], 0, x, 0)) << n;
    }
}

/// By choice it reads none of another shot: as each by itself with the same stages.
TEST_F(ReelPictures, WhatComesAfterTheLastCutStopsAtCutsIfItIsToldTo) {
  std::mt19937 random(9);
  const std::vector<std::vector<std::string>> chains = {{"time-field:back=0.3s"}, {"echoes:repeats=3,spacing=0.12s"}, {"time-field:ahead=0.2s", "finish:exposure=0@0s+2@3/2s"}};
  for (int round = 0; round < 9; ++round) {
    Reel reel = this->random(random, 5);
    const std::size_t count = shotCount(reel.project);
    std::vector<Shot> shots;
    for (std::size_t i = 0; i < count; ++i) {
      shots.push_back(shotOf(reel.project, i));
      shots.back().place.cut = {};
      shots.back().place.on = true;
    }
    reel.project = withShots({}, shots);
    reel.project.output.size = Size{48, 32};
    reel.project.output.rate = 25;
    const auto plain = rendered(reel.project, 2);
    reel.project.reelChain = chainOf(chains[static_cast<std::size_t>(round) % chains.size()]);
    const auto across = rendered(reel.project, 2);
    reel.project.stopsAtCuts = true;
    const auto made = rendered(reel.project, 2);
    ASSERT_EQ(made.size(), plain.size());
    std::size_t n = 0, differ = 0;
    for (Shot& shot : shots) {
      Project one = withShots({}, {shot});
      if (!isReel(one)) one.place.from = 0;
      one.output = reel.project.output;
      one.output.path.clear();
      one.reelChain = reel.project.reelChain;
      for (Stage& stage : one.reelChain)
        for (auto& [parameter, track] : stage.keys)
          for (Key& key : track) key.at = key.at - Rational(static_cast<std::int64_t>(n), 25);
      for (const Picture& wanted : rendered(one, 1)) {
        ASSERT_LT(n, made.size());
        // The reel has the format of its first shot. What is mixed of several, and values
        // between keys, may differ in their last digit.
        if (made[n].shape() == wanted.shape()) {
          if (shot.source.between == InBetween::Whole && shots[0].source.between == InBetween::Whole && round % 3 == 0) {
            ASSERT_TRUE(test::samePicture(made[n], wanted)) << round << " picture " << n << " of " << shot.source.path;
          } else {
            for (int y = 0; y < 32; ++y)
              for (int x = 0; x < 48; ++x) ASSERT_NEAR(sampleAt(made[n], 0, x, y), sampleAt(wanted, 0, x, y), 1) << round << " picture " << n;
          }
        }
        differ += !test::samePicture(made[n], across[n]);
        ++n;
      }
    }
    EXPECT_EQ(n, made.size());
    EXPECT_GT(differ, 0u) << "across cuts it is something else";
    // Made in pieces it is the same.
    const auto part = rendered(reel.project, 1, Span{2, static_cast<std::int64_t>(made.size()) - 2});
    for (std::size_t k = 0; k < part.size(); ++k) ASSERT_TRUE(test::samePicture(part[k], made[k + 2])) << round;
  }
}

/// The pictures beside the cut are those of the hard one, and what lies between is passed over faster and faster.
TEST_F(ReelPictures, ThroughACutTheyRace) {
  Project reel;
  for (const int shot : {0, 1}) {
    const std::string path = *folder_ / ("count" + std::to_string(shot) + ".mkv");
    test::makeNumberedClip(path, 60, {64, 64}, "-c:v ffv1");
    if (shot == 0)
      reel.source.path = path;
    else
      reel.more.push_back({.source = {path, {}, {}}});
  }
  reel.place.cut.through = {4, Rational(1, 2)};
  const auto pictures = rendered(reel, 2);
  std::vector<int> numbers;
  for (const Picture& picture : pictures) numbers.push_back(test::numberShown(picture));
  ASSERT_LT(numbers.size(), 120u);
  const auto cut = std::find(numbers.begin() + 1, numbers.end(), 0);
  ASSERT_NE(cut, numbers.end());
  EXPECT_EQ(*(cut - 1), 59);
  EXPECT_EQ(numbers.front(), 0);
  EXPECT_EQ(numbers.back(), 59);
  EXPECT_EQ(*(cut + 1), 4);
  EXPECT_TRUE(std::is_sorted(numbers.begin(), cut) && std::is_sorted(cut, numbers.end()));
  EXPECT_EQ(numbers[1], 1) << "at its own speed far from the cut";
  EXPECT_NEAR(*(cut - 1) - *(cut - 2), 4, 1);
}

/// Two shots so alike that nothing tells them apart but where the cut lies: what is slowed down after it shows one or the other.
TEST_F(ReelPictures, FlowNeverBlendsOverACut) {
  Project reel;
  for (const int shot : {0, 1}) {
    const std::string path = *folder_ / ("like" + std::to_string(shot) + ".mkv");
    test::makeGrayClip(path, 12, {64, 64}, [&](int frame, int x, int y) { return 90 + shot * 12 + ((x + frame) / 8 + y / 8) % 2 * 60; });
    Source source{path, {}, InBetween::Flow};
    if (shot == 0)
      reel.source = source;
    else
      reel.more.push_back({.source = source});
  }
  const Rational rate = test::openFootage(reel.source.path)->clock().rate();
  reel.reelChain = chainOf({"pace:spans=" + rationalText(Rational(96) / rate) + "s@25%"});
  const auto pictures = rendered(reel, 2);
  ASSERT_EQ(pictures.size(), 96u);
  int first = 0, second = 0;
  for (const Picture& picture : pictures) {
    // No sample of the one is as dark as any of the other's are.
    unsigned darkest = 255;
    for (int y = 8; y < 56; ++y)
      for (int x = 8; x < 56; ++x) darkest = std::min(darkest, sampleAt(picture, 0, x, y));
    EXPECT_TRUE(darkest < 92 || (darkest > 100 && darkest < 104)) << darkest;
    (darkest < 92 ? first : second) += 1;
  }
  EXPECT_NEAR(first, 48, 3);
  EXPECT_GT(second, 40);
}

/// A reel's result is laid into another project as a clip is.
TEST_F(ReelPictures, AReelIsASource) {
  Project reel;
  reel.source.path = clips_[0].path;
  reel.place.to = Rational(5, 30);
  reel.more.push_back({.source = {clips_[1].path, {}, {}}});
  ASSERT_TRUE(saveProject(reel, *folder_ / "reel.molten"));
  const auto pictures = rendered(reel, 2);
  Project outer;
  outer.source.path = clips_[0].path;
  outer.chain = chainOf({"insert:source=" + (*folder_ / "reel.molten")});
  const auto laid = rendered(outer, 2);
  for (const std::size_t n : {0u, 4u, 5u, 20u})
    EXPECT_LT(meanDifference(colours(pictures[n]), colours(laid[n])), 0.02) << n;
  EXPECT_GT(meanDifference(colours(pictures[4]), colours(laid[5])), 0.1) << "noise tells pictures apart";
}

TEST_F(ReelPictures, WhatCannotBeShownIsSaid) {
  Project reel;
  reel.source.path = clips_[0].path;
  reel.more.push_back({.source = {*folder_ / "none.mkv", {}, {}}});
  RenderSettings settings;
  settings.footage = clips_[0].footage;
  settings.project = reel;
  settings.project.output.path = *folder_ / "none-made.mkv";
  auto done = render(settings, nullptr, {});
  ASSERT_FALSE(done);
  EXPECT_NE(done.error().message.find("none.mkv"), std::string::npos) << done.error().message;
  settings.project.place.on = false;
  settings.project.more[0].place.on = false;
  done = render(settings, nullptr, {});
  ASSERT_FALSE(done);
  EXPECT_NE(done.error().message.find("off"), std::string::npos) << done.error().message;
  EXPECT_EQ(std::filesystem::exists(*folder_ / "none-made.mkv"), false);
  settings.project = reel;
  settings.project.output.path = clips_[1].path;
  settings.project.more[0].source.path = clips_[1].path;
  EXPECT_FALSE(render(settings, nullptr, {})) << "footage of a later shot is written over";
}

}  // namespace
}  // namespace molten

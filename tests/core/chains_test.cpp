// Any chain on any clip: it gives pictures or a sentence, and all that tells about it agrees.
#include <tbb/global_control.h>

#include <chrono>
#include <cstdlib>
#include <filesystem>
#include <iostream>

#include "core/engine/evaluator.h"
#include "core/engine/source_material.h"
#include "core/engine/render_job.h"
#include "core/project/piece.h"
#include "core/project/project_file.h"
#include "core/project/starter.h"
#include "support/clips.h"
#include "support/random_chains.h"

namespace molten {
namespace {

using test::TempFolder;

/// More threads than the machine has, so that rows of nested loops are met by each other; and an end to a test that
/// waits for itself.
class Crowded {
 public:
  explicit Crowded(int seconds) {
#ifdef MOLTEN_SANITIZED
    constexpr int slower = 12;
#else
    constexpr int slower = 1;
#endif
    watchdog_ = std::jthread([seconds](std::stop_token stop) {
      for (int i = 0; i < seconds * slower * 20 && !stop.stop_requested(); ++i)
        std::this_thread::sleep_for(std::chrono::milliseconds(50));
      if (stop.stop_requested()) return;
      std::cerr << "the threads wait for each other\n";
      std::_Exit(3);
    });
  }

 private:
  tbb::global_control many_{tbb::global_control::max_allowed_parallelism, 8};
  std::jthread watchdog_;
};

/// Small clips of every sort.
struct Clips {
  TempFolder folder;
  std::vector<std::shared_ptr<const Footage>> all;
  std::vector<std::string> paths() const {
    std::vector<std::string> paths;
    for (const auto& footage : all) paths.push_back(footage->path());
    return paths;
  }
  explicit Clips(int frames) {
    struct Sort {
      const char *name, *format;
      int frames;
      const char* arguments;
    };
    const Sort sorts[] = {
        {"opaque.mkv", "yuv420p", frames, ""},
        {"alpha.mkv", "yuva444p", frames, ""},
        {"gray.mkv", "gray", frames, ""},
        {"deep.mkv", "yuv422p10le", frames, ""},
        {"colours.mkv", "gbrap", frames, ""},
        {"varying.mkv", "yuv420p", 2 * frames, "-vf \"select='mod(n,3)+eq(n,0)'\" -vsync vfr -c:v ffv1"},
        {"one.mkv", "yuv420p", 1, ""}};
    for (const Sort& sort : sorts) {
      test::makeNoiseClip(folder / sort.name, sort.frames, {41, 27}, sort.format, sort.arguments);
      all.push_back(test::openFootage(folder / sort.name));
    }
  }
};

std::string wordsOf(const Footage& footage, const Chain& chain, InBetween between) {
  static constexpr const char* names[] = {"whole", "mixed", "flow"};
  return footage.name() + " --between " + names[static_cast<int>(between)] + " " + test::chainWords(chain);
}

/// What a plan says beforehand of its reads holds all that its pictures read.
void expectReadsAreCovered(const ChainPlan& plan, const Moment& moment, const std::string& words) {
  // Said before anything is compiled.
  const auto said = plan.framesFor(moment);
  const auto tiles = plan.tileReads(moment);
  const Gathering gathering = plan.gathering(moment);
  const GatherProgram& program = gathering.program();
  for (const std::int32_t frame : gathering.frames())
    EXPECT_TRUE(std::binary_search(said.begin(), said.end(), frame)) << words << ", frame " << frame;
  constexpr auto unused = std::numeric_limits<std::int32_t>::min();  // memory of a tile beside its samples
  const int lanes = program.picking() == Picking::Lanes ? 2 : 1;
  std::vector<std::int32_t> picks(static_cast<std::size_t>(plan.layout().partSamples(0)));
  for (int tile = 0; tile < plan.layout().tiles(); ++tile)
    for (int lane = 0; lane < lanes; ++lane) {
      std::fill(picks.begin(), picks.end(), unused);
      program.picksOfTile(0, tile, lane, picks);
      std::sort(picks.begin(), picks.end());
      picks.erase(std::unique(picks.begin(), picks.end()), picks.end());
      for (const std::int32_t number : picks) {
        if (number == unused) continue;
        const std::int32_t frame = gathering.meaning()(number);
        if (frame == noFrame) continue;
        EXPECT_TRUE(tiles[static_cast<std::size_t>(tile)].has(frame))
            << words << ", tile " << tile << ", frame " << frame;
      }
      picks.resize(static_cast<std::size_t>(plan.layout().partSamples(0)));
    }
}

/// What the reading tells of a pixel is what the picture shows there.
void expectTraceIsThePicture(const ChainReading& reading, const Picture& picture, const std::vector<Picture>& frames,
                             const Moment& moment, const std::string& words) {
  for (int y = 1; y < picture.planeHeight(0); y += 7)
    for (int x = 2; x < picture.planeWidth(0); x += 5) {
      const std::int32_t frame = reading.at(moment, x, y).frame;
      const unsigned wanted = frame == noFrame ? blackSample(picture.shape(), 0)
                                               : test::sampleAt(frames[static_cast<std::size_t>(frame)], 0, x, y);
      ASSERT_EQ(test::sampleAt(picture, 0, x, y), wanted)
          << words << " at " << moment.pictures() << ", pixel " << x << ", " << y << " is of frame " << frame;
    }
}

bool makesPictures(const ChainReading& reading) {
  for (std::size_t k = 0; k < reading.size(); ++k)
    if (reading.map(k).mixing() || reading.map(k).pixelWork() || reading.map(k).frameWork()) return true;
  return false;
}

class AnyChain : public ::testing::Test {
 protected:
  /// Pictures of a chain on a clip, with all that must hold.
  void check(const std::shared_ptr<const Footage>& footage, const Chain& chain, InBetween between,
             test::RandomChains& random) {
    const std::string words = wordsOf(*footage, chain, between);
    SCOPED_TRACE(words);
    if (std::getenv("MOLTEN_SAY_CHAINS")) std::cerr << words << std::endl;
    const PlanSettings settings{1, between, Rational(random.oneIn(2) ? 25 : random.within(10, 60))};
    const auto feed = [&] { return std::make_shared<FrameFeed>(footage, std::size_t(1) << 26, 1); };
    Evaluator many(feed(), 8), one(feed(), 1);
    const PicturePlan plan = many.plan(chain, settings), plain = one.plan(chain, settings);
    const auto material = test::sourceMaterial(footage, 1);
    const ChainReading reading(chain, footage->video(between), std::make_shared<MaterialAt>(material, settings), {},
                               footage->clock());
    const Piece piece = pieceOf(reading.outgoing(), {});
    for (const std::int64_t n : {std::int64_t(0), piece.length / 2, piece.length - 1}) {
      Moment moment = piece.moment(n);
      if (random.oneIn(2)) moment.rest = Rational(random.within(0, 5), 6);
      const auto picture = many.picture(plan, moment, {});
      const auto same = one.picture(plain, moment, {});
      ASSERT_EQ(static_cast<bool>(picture), static_cast<bool>(same));
      if (!picture) {
        EXPECT_GT(picture.error().message.size(), 10u);
        continue;
      }
      EXPECT_EQ(picture->shape(), plan.shape());
      EXPECT_TRUE(test::samePicture(*picture, *same)) << "one thread and eight, at " << moment.pictures();
      ++pictures;
      if (makesPictures(reading) || HasFailure()) continue;
      expectReadsAreCovered(plan.gather(), moment, words);
      if (between == InBetween::Whole) expectTraceIsThePicture(reading, *picture, framesOf(footage), moment, words);
    }
  }
  const std::vector<Picture>& framesOf(const std::shared_ptr<const Footage>& footage) {
    auto& frames = frames_[footage->path()];
    if (frames.empty()) frames = test::readAll(*footage);
    return frames;
  }
  int pictures = 0;

 private:
  std::map<std::string, std::vector<Picture>> frames_;
};

TEST_F(AnyChain, GivesPicturesThatAgreeWithWhatIsSaidOfThem) {
  const Crowded crowded(280);
  const Clips clips(7);
  const char* const asked = std::getenv("MOLTEN_CHAINS_SEED");
  const unsigned seed = asked ? static_cast<unsigned>(std::atoi(asked)) : 1;
  test::RandomChains random(seed, 7);
  random.offerSources(clips.paths());
  int chains = 0;
  for (int round = 0; round < 48 && !HasFailure(); ++round)
    for (const auto& footage : clips.all) {
      const Chain chain = random.chain(round < 12 ? 1 : round < 30 ? 2 : random.within(3, 5));
      check(footage, chain, static_cast<InBetween>(random.within(0, 2)), random);
      ++chains;
      if (HasFailure()) return;
    }
  std::cout << chains << " chains, " << pictures << " pictures\n";
}

/// A piece of a render is that part of the whole, whatever is cut where.
TEST_F(AnyChain, PiecesAreTheWhole) {
  const Crowded crowded(280);
  const Clips clips(7);
  test::RandomChains random(11, 7);
  random.offerSources(clips.paths());
  for (int round = 0; round < 4; ++round)
    for (const auto& footage : clips.all) {
      RenderSettings settings;
      settings.footage = footage;
      settings.project.source = {footage->path(), {}, static_cast<InBetween>(random.within(0, 2))};
      settings.project.chain = random.chain(random.within(1, 3));
      SCOPED_TRACE(wordsOf(*footage, settings.project.chain, settings.project.source.between));
      const Piece piece = pieceOf(settings.project, footage->video());
      if (piece.length > 200) continue;
      settings.project.output.path = clips.folder / "whole.mkv";
      const auto whole = render(settings, {}, {});
      if (!whole) {
        EXPECT_GT(whole.error().message.size(), 10u);
        continue;
      }
      const std::int64_t first = piece.length / 3, last = std::min(piece.length - 1, first + 2);
      settings.pictures = Span{first, last};
      settings.project.output.path = clips.folder / "part.mkv";
      settings.threads = 1;
      const auto part = render(settings, {}, {});
      ASSERT_TRUE(part) << part.error().message;
      const auto all = test::readAll(*test::openFootage(clips.folder / "whole.mkv")),
                 some = test::readAll(*test::openFootage(clips.folder / "part.mkv"));
      ASSERT_EQ(static_cast<std::int64_t>(some.size()), last - first + 1);
      for (std::size_t i = 0; i < some.size(); ++i)
        EXPECT_TRUE(test::samePicture(some[i], all[static_cast<std::size_t>(first) + i]))
            << "picture " << first + static_cast<std::int64_t>(i);
      if (HasFailure()) return;
    }
}

/// Rows of a field that is made of pictures wait for no row of a field above it.
TEST(Chains, AFieldOfMotionUnderAnotherEnds) {
  const Crowded crowded(120);
  const TempFolder folder;
  test::makeNoiseClip(folder / "a.mkv", 12, {480, 270}, "yuv420p");
  const auto footage = test::openFootage(folder / "a.mkv");
  Evaluator evaluator(std::make_shared<FrameFeed>(footage, std::size_t(1) << 28, 2), 8);
  for (const char* const upper : {"time-field:back=0.3s,end=1x1", "time-field:shape=noise,back=0.2s"}) {
    const Chain chain{*parseStage("time-field:shape=footage,measure=motion,back=0.2s", 25), *parseStage(upper, 25)};
    const PicturePlan plan = evaluator.plan(chain, {});
    for (const std::int64_t n : {5, 8, 11}) ASSERT_TRUE(evaluator.picture(plan, {n}, {}));
  }
}

/// Each of these ended a program once.
TEST_F(AnyChain, ThatCrashed) {
  const Crowded crowded(120);
  const Clips clips(6);
  test::RandomChains random(3, 6);
  const std::vector<std::vector<const char*>> chains = {
      {"pace:spans=1s@200%,past-the-ends=transparent", "echoes:repeats=2,spacing=1f"},
      {"frame-order:order=3+20:2+1,past-the-ends=transparent", "echoes:repeats=2,spacing=1f"},
      {"step-rate:rate=9,phase=2f,past-the-ends=transparent", "shutter:open=100%,moments=4"},
      {"pace:from=-3f,spans=1s@100%,past-the-ends=transparent", "shutter:built-from=motion,open=200%,moments=3"},
      {"pace:spans=1s@35%"},
      {"loop:way=dissolve,dissolve=2f"},
      {"shutter:built-from=motion,moments=4"},
      {"slit-scan:before-the-slit=transparent", "pace:spans=1s@35%"},
      {"slit-scan:before-the-slit=transparent", "echoes:repeats=2,spacing=1.5f"},
      {"strips:past-the-ends=transparent,feather=20%,count=5", "loop:way=dissolve,dissolve=2f"},
      {"strips:past-the-ends=transparent,feather=20%,count=5", "shutter:built-from=motion,moments=4"},
      {"strips:shape=tiles,count=2,rows=2,past-the-ends=transparent", "time-field:back=2f"}};
  for (const auto& footage : clips.all)
    for (const auto& texts : chains)
      for (const InBetween between : {InBetween::Whole, InBetween::Mixed, InBetween::Flow}) {
        Chain chain;
        for (const char* const text : texts) chain.push_back(*parseStage(text, 25));
        check(footage, chain, between, random);
        if (HasFailure()) return;
      }
}

/// Everything that ships renders on whatever it meets.
TEST_F(AnyChain, OfDemosAndStartersRendersOnTinyClips) {
  const Crowded crowded(280);
  const Clips clips(4);
  std::vector<std::pair<std::string, Chain>> chains;
  for (const Starter& starter : builtInStarters()) chains.push_back({starter.name, {}});
  for (const auto& file : std::filesystem::directory_iterator(std::string(MOLTEN_SOURCE) + "/demo"))
    if (file.path().extension() == ".molten") {
      const auto project = loadProject(file.path().string());
      ASSERT_TRUE(project) << project.error().message;
      chains.push_back({file.path().filename().string(), project->chain});
    }
  for (const std::size_t sort : {1, 2, 3, 6}) {
    const auto& footage = clips.all[sort];
    for (std::size_t i = 0; i < chains.size(); ++i) {
      RenderSettings settings;
      settings.footage = footage;
      settings.project.chain =
          i < builtInStarters().size() ? fitted(builtInStarters()[i], footage->video()) : chains[i].second;
      settings.project.source = {footage->path(), {}, i % 2 ? InBetween::Flow : InBetween::Whole};
      const Piece piece = pieceOf(settings.project, footage->video());
      settings.pictures = Span{0, std::min<std::int64_t>(piece.length, 3) - 1};
      settings.project.output.path = clips.folder / (piece.length == 1 ? "out.png" : "out.mkv");
      const auto rendered = render(settings, {}, {});
      EXPECT_TRUE(rendered) << chains[i].first << " on " << footage->name() << ": " << rendered.error().message;
      std::filesystem::remove(settings.project.output.path);
    }
  }
}

}  // namespace
}  // namespace molten

// Chains of stages that move pictures in time, against a slow reading of their definitions, sample by sample.
#include <cmath>
#include <random>

#include "core/engine/evaluator.h"
#include "core/engine/render_job.h"
#include "core/project/piece.h"
#include "core/time/pace_text.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

/// The source moment in seconds at an output moment, by the words of pace_curve.h. Rationals where they suffice.
struct SlowPace {
  double from;
  PaceSpans spans;

  /// In frames: a whole number and a rest, so that halves stay halves.
  std::pair<std::int64_t, double> frames(Rational t, Rational rate) const {
    Rational begin = 0, source = Rational::near(from);
    const auto glides = [&](std::size_t i) {
      return i + 1 < spans.size() && spans[i].glide > Rational(0) && spans[i].speed != spans[i + 1].speed;
    };
    const auto room = [&](std::size_t i) {
      return spans[i].length.toDouble() / (i > 0 && glides(i - 1) && glides(i) ? 2 : 1);
    };
    std::size_t i = 0;
    for (; i < spans.size(); ++i) {
      const Rational end = begin + spans[i].length;
      for (const std::size_t g : {i, i - 1}) {
        if (g >= spans.size() || !glides(g)) continue;
        const Rational mark = g == i ? end : begin;
        const double bend = spans[g].bend.toDouble(), before = 0.5 - bend / 10;
        const double length = std::min({spans[g].glide.toDouble(), room(g) / before, room(g + 1) / (1 - before)});
        const double u = (t - mark).toDouble() / length + before;
        if (u <= 1e-12 || u >= 1 - 1e-12 || t < begin || t > end) continue;
        const double a = spans[g].speed.toDouble(), b = spans[g + 1].speed.toDouble();
        const Rational atMark = g == i ? source + spans[i].length * spans[i].speed : source;
        const double beginning = atMark.toDouble() - a * before * length;
        const double moved =
            length * (a * u + (b - a) * (std::pow(u, 3) - std::pow(u, 4) / 2 +
                                         3 * bend * (std::pow(u, 3) / 3 - std::pow(u, 4) / 2 + std::pow(u, 5) / 5)));
        const double position = (beginning + moved) * rate.toDouble();
        return {static_cast<std::int64_t>(std::floor(position)), position - std::floor(position)};
      }
      if (t < end || i + 1 == spans.size()) break;
      begin = end;
      source = source + spans[i].length * spans[i].speed;
    }
    const Rational position = (source + (t - begin) * spans[i].speed) * rate;
    return {position.floor(), position.part().toDouble()};
  }
};

/// A position among the pictures of a video: a whole number and a rest, so that halves stay halves.
struct Spot {
  std::int64_t whole = 0;
  double rest = 0;
  double all() const { return static_cast<double>(whole) + rest; }
};

/// The words of past_the_ends.h, for positions.
std::optional<Spot> foldedSpot(const Spot& at, std::int64_t length, PastTheEnds past) {
  const auto last = static_cast<double>(length - 1);
  double p = at.all();
  switch (past) {
    case PastTheEnds::StandStill:
      return p < 0 ? Spot{0, 0} : p > last ? Spot{length - 1, 0} : at;
    case PastTheEnds::TurnBack: {
      if (length == 1) return Spot{};
      Spot turned = at;
      while (turned.all() < 0 || turned.all() > last) {
        const std::int64_t about = turned.all() < 0 ? 0 : 2 * (length - 1);
        turned = {about - turned.whole, -turned.rest};
      }
      return turned;
    }
    case PastTheEnds::GoRound: {
      Spot round = at;
      while (round.all() < -1e-6) round.whole += length;
      while (round.all() >= last + 1 - 1e-6) round.whole -= length;
      return round;
    }
    case PastTheEnds::Transparent:
      return p < -0.5 - 1e-6 || p >= last + 0.5 - 1e-6 ? std::nullopt : std::optional(at);
  }
  return at;
}

/// Moves the position that a stage reads at a little; that of the footage for the number of stages.
struct Nudge {
  std::size_t stage = 0;
  double by = 0;
};

/// Time through a chain without steps: the moment goes from stage to stage as it is, and becomes a frame once, at the
/// footage.
class SlowChain {
 public:
  SlowChain(const Chain& chain, const VideoDescription& footage) : chain_(chain), footage_(footage) {}

  /// In frames of the footage, not folded; none where nothing is.
  std::optional<Spot> spotAt(const Moment& moment, double x, double y, const Nudge& nudge = {}) const {
    std::optional<Spot> at = Spot{moment.whole, moment.part()};
    for (std::size_t k = chain_.size(); k-- > 0 && at;) {
      const VideoDescription in = videoAt(chain_, k, footage_);
      if (nudge.stage == k) at->rest += nudge.by;
      at = read(chain_[k], in, *at, x, y);
      if (k > 0) at = foldedSpot(*at, in.length, in.endless ? PastTheEnds::GoRound : ends(chain_[k]));
    }
    return at;
  }
  /// The nearest frame, or noFrame.
  std::int32_t frameAt(const Moment& moment, double x, double y, const Nudge& nudge = {}) const {
    auto at = spotAt(moment, x, y, nudge);
    if (!at) return noFrame;
    if (nudge.stage == chain_.size()) at->rest += nudge.by;
    return foldFrame(at->whole + static_cast<std::int64_t>(std::floor(at->rest + 0.5 + 1e-6)), footage_.length,
                     endsOfSource());
  }
  PastTheEnds endsOfSource() const { return chain_.empty() ? PastTheEnds::StandStill : ends(chain_[0]); }

 private:
  static PastTheEnds ends(const Stage& stage) {
    const auto& id = stage.kind->description().id;
    if (id == "loop") return PastTheEnds::StandStill;
    return static_cast<PastTheEnds>(valueOf<std::size_t>(stage, "past-the-ends"));
  }

  static Spot read(const Stage& stage, const VideoDescription& in, const Spot& at, double x, double y) {
    const std::string& id = stage.kind->description().id;
    const double rate = in.rate.toDouble();
    if (id == "pace") {
      PaceSpans spans = valueOf<PaceSpans>(stage, "spans");
      if (spans.empty()) spans = {{in.seconds(), 1}};
      const SlowPace pace{valueOf<double>(stage, "from"), spans};
      const auto [whole, rest] = pace.frames((Rational(at.whole) + Rational::near(at.rest)) / in.rate, in.rate);
      return {whole, rest};
    }
    if (id == "step-rate") {
      const double r = valueOf<double>(stage, "rate"), phase = valueOf<double>(stage, "phase");
      const Rational steps =
          ((Rational(at.whole) + Rational::near(at.rest)) / in.rate - Rational::near(phase)) * Rational::near(r);
      const Rational position =
          (Rational(static_cast<std::int64_t>(std::floor(steps.toDouble() + 1e-6))) / Rational::near(r) +
           Rational::near(phase)) *
          in.rate;
      return {position.floor(), position.part().toDouble()};
    }
    if (id == "frame-order") {
      std::vector<std::int64_t> all;
      for (const auto& item : valueOf<FrameOrder>(stage, "order"))
        for (std::int32_t f = item.first;; f += item.first <= item.last ? 1 : -1) {
          all.insert(all.end(), static_cast<std::size_t>(item.hold), f);
          if (f == item.last) break;
        }
      const auto picture = static_cast<std::int64_t>(std::floor(at.all() + 1e-6));
      return {all[static_cast<std::size_t>(
                  std::clamp<std::int64_t>(picture, 0, static_cast<std::int64_t>(all.size()) - 1))],
              0};
    }
    if (id == "loop") {
      // There and back is TurnBack for ever; slow about its turns where it eases.
      const double ease =
          std::min(std::round(valueOf<double>(stage, "ease") * rate * 2) / 2, static_cast<double>(in.length - 1));
      if (ease == 0) return *foldedSpot(at, in.length, PastTheEnds::TurnBack);
      const double half = static_cast<double>(in.length - 1) + ease;
      double t = std::fmod(at.all(), 2 * half);
      if (t < 0) t += 2 * half;
      if (t > half) t = 2 * half - t;
      const auto sum = [&](double until) {
        // The speed is 1 but about the turns, where it comes up as 3u² − 2u³.
        const auto way = [&](double u) { return ease * (u * u * u - u * u * u * u / 2); };
        if (until < ease) return way(until / ease);
        return ease / 2 + (until - ease);
      };
      return {0, t <= half / 2 ? sum(t) : static_cast<double>(in.length - 1) - sum(half - t)};
    }
    const Place start = valueOf<Place>(stage, "start"), end = valueOf<Place>(stage, "end");
    const double w = in.size.width, h = in.size.height, sx = start.x * w, sy = start.y * h, dx = end.x * w - sx,
                 dy = end.y * h - sy;
    const double f = ((x - sx) * dx + (y - sy) * dy) / (dx * dx + dy * dy);
    const auto single = static_cast<double>(static_cast<float>(std::clamp(f, 0.0, 1.0)));
    const double back = valueOf<double>(stage, "back"), ahead = valueOf<double>(stage, "ahead");
    return {at.whole, at.rest + (-back + single * (back + ahead)) * rate};
  }

  const Chain& chain_;
  VideoDescription footage_;
};

const char* const pasts[] = {"stand-still", "turn-back", "go-round", "transparent"};

class RandomStages {
 public:
  explicit RandomStages(unsigned seed) : random_(seed) {}
  int within(int least, int most) { return std::uniform_int_distribution<>(least, most)(random_); }
  std::string past() { return std::string("past-the-ends=") + pasts[within(0, 3)]; }

  Stage paced() {
    PaceSpans spans;
    for (int i = within(1, 4); i > 0; --i)
      spans.push_back({Rational(within(2, 9), 10), within(0, 3) ? Rational(within(-300, 300), 100) : Rational(0),
                       within(0, 1) ? Rational(within(1, 8), 10) : Rational(0), Rational(within(-100, 100), 100)});
    spans.back().glide = spans.back().bend = 0;
    return made("pace:from=" + std::to_string(within(-5, 15)) + "f,spans=" + paceSpansText(spans) + "," + past());
  }
  Stage stepped() {
    const char* rates[] = {"8", "7.5", "12", "10", "24000/1001"};
    return made(std::string("step-rate:rate=") + rates[within(0, 4)] + ",phase=" + std::to_string(within(0, 3)) + "f," +
                past());
  }
  Stage ordered() {
    return made("frame-order:order=" + std::to_string(within(0, 20)) + ":" + std::to_string(within(1, 4)) + "+" +
                std::to_string(within(0, 30)) + "-" + std::to_string(within(0, 30)) + "," + past());
  }
  Stage looped() { return made(within(0, 1) ? "loop" : "loop:ease=0." + std::to_string(within(1, 6)) + "s"); }
  Stage field() {
    return made("time-field:back=" + std::to_string(within(0, 9)) + "f,ahead=" + std::to_string(within(0, 9)) +
                "f,end=" + (within(0, 1) ? "1x0.4" : "0.3x1") + "," + past());
  }
  Stage any() {
    switch (within(0, 4)) {
      case 0:
        return paced();
      case 1:
        return stepped();
      case 2:
        return ordered();
      case 3:
        return looped();
      default:
        return field();
    }
  }

 private:
  static Stage made(const std::string& text) {
    auto stage = parseStage(text, 25);
    EXPECT_TRUE(stage) << text << ": " << stage.error().message;
    return stage ? *stage : Stage{};
  }
  std::mt19937 random_;
};

std::string textOf(const Chain& chain) {
  std::string text;
  for (const Stage& stage : chain) text += " " + stageText(stage);
  return text;
}

class Moments : public ::testing::Test {
 protected:
  Moments() {
    test::makeNoiseClip(folder / "a.mkv", 31, {40, 24}, "gray");
    footage = test::openFootage(folder / "a.mkv");
    frames = test::readAll(*footage);
    evaluator = std::make_unique<Evaluator>(std::make_shared<FrameFeed>(footage, std::size_t(1) << 26, 1), 2);
  }

  /// Where two ways of adding up doubles may come to lie on either side of a border.
  static bool isOnABorder(const SlowChain& slow, std::size_t stages, const Moment& moment, double x, double y) {
    const auto here = slow.frameAt(moment, x, y);
    for (std::size_t k = 0; k <= stages; ++k)
      for (const double by : {-1e-5, 1e-5})
        if (slow.frameAt(moment, x, y, {k, by}) != here) return true;
    return false;
  }

  void check(const Chain& chain, const Picture& picture, const Moment& moment) {
    const SlowChain slow(chain, footage->video());
    for (int y = 0; y < 24; y += 3)
      for (int x = 0; x < 40; ++x) {
        const auto frame = slow.frameAt(moment, x + 0.5, y + 0.5);
        const unsigned wanted = frame == noFrame ? blackSample(picture.shape(), 0)
                                                 : test::sampleAt(frames[static_cast<std::size_t>(frame)], 0, x, y);
        if (test::sampleAt(picture, 0, x, y) != wanted && isOnABorder(slow, chain.size(), moment, x + 0.5, y + 0.5)) continue;
        ASSERT_EQ(test::sampleAt(picture, 0, x, y), wanted)
            << textOf(chain) << " at " << moment.whole << "+" << moment.part() << ", pixel " << x << ", " << y
            << " should be of frame " << frame;
      }
  }

  void checkChain(const Chain& chain) {
    const PicturePlan plan = evaluator->plan(chain, {});
    for (const std::int64_t n : {std::int64_t(0), plan.length() / 3, plan.length() / 2, plan.length() - 1})
      for (const Rational rest : {Rational(0), Rational(2, 5)}) {
        const auto picture = evaluator->picture(plan, {n, rest}, {});
        ASSERT_TRUE(picture) << picture.error().message;
        check(chain, *picture, {n, rest});
        if (HasFatalFailure()) return;
      }
  }

  TempFolder folder;
  std::shared_ptr<const Footage> footage;
  std::vector<Picture> frames;
  std::unique_ptr<Evaluator> evaluator;
};

TEST_F(Moments, EveryStageAlone) {
  RandomStages stages(1);
  for (int round = 0; round < 60; ++round) {
    checkChain({stages.paced()});
    if (HasFatalFailure()) return;
  }
  for (int round = 0; round < 20; ++round)
    for (const Stage& stage : {stages.stepped(), stages.ordered(), stages.looped()}) {
      checkChain({stage});
      if (HasFatalFailure()) return;
    }
}

TEST_F(Moments, EveryTwoStagesInEitherOrder) {
  RandomStages stages(2);
  for (int round = 0; round < 6; ++round)
    for (int a = 0; a < 5; ++a)
      for (int b = 0; b < 5; ++b) {
        const auto one = [&](int kind) {
          return kind == 0   ? stages.paced()
                 : kind == 1 ? stages.stepped()
                 : kind == 2 ? stages.ordered()
                 : kind == 3 ? stages.looped()
                             : stages.field();
        };
        checkChain({one(a), one(b)});
        if (HasFatalFailure()) return;
      }
}

TEST_F(Moments, ChainsOfManyStages) {
  RandomStages stages(3);
  for (int round = 0; round < 120; ++round) {
    Chain chain;
    for (int i = stages.within(3, 6); i > 0; --i) chain.push_back(stages.any());
    checkChain(chain);
    if (HasFatalFailure()) return;
  }
}

/// Where fields read the footage itself, what was compiled for one moment serves all that lie alike; another Pace over
/// the field is another moment and no other program.
TEST_F(Moments, WhatWasCompiledServesAnotherPace) {
  RandomStages stages(5);
  const Stage field = *parseStage("time-field:back=5f,ahead=3f,end=1x0.4", 25);
  std::optional<PicturePlan> previous;
  std::shared_ptr<const GatherProgram> program;
  for (const char* pace :
       {"pace:spans=1s@100%", "pace:spans=1s@-100%", "pace:from=0.4s,spans=2s@200%", "pace:spans=1s@0%"}) {
    const Chain chain{field, *parseStage(pace, 25)};
    PicturePlan plan = evaluator->plan(chain, {}, previous ? &*previous : nullptr);
    for (const std::int64_t n : {2, 7}) {
      const auto picture = evaluator->picture(plan, {n}, {});
      ASSERT_TRUE(picture);
      check(chain, *picture, {n});
      if (HasFatalFailure()) return;
      if (program) {
        EXPECT_EQ(plan.gather().gathering({n}).programPointer(), program) << textOf(chain);
      }
      program = plan.gather().gathering({n}).programPointer();
    }
    previous.emplace(std::move(plan));
  }
}

TEST_F(Moments, RenderedForwardsAsOneByOne) {
  RandomStages stages(4);
  for (int round = 0; round < 12; ++round) {
    Chain chain{stages.any(), stages.any(), stages.any()};
    if (round % 3 == 0) chain = {stages.paced()};
    RenderSettings settings;
    settings.footage = footage;
    settings.project.source.path = footage->path();
    settings.project.chain = chain;
    settings.project.output.path = folder / "out.mkv";
    if (round % 2) settings.project.output.rate = Rational(24);
    // A budget of a few frames: much is decoded again.
    settings.memoryBytes = round % 4 == 3 ? footage->shape().bytes() * 6 : std::size_t(1) << 26;
    const auto outline = render(settings, {}, {});
    ASSERT_TRUE(outline) << outline.error().message << textOf(chain);
    const auto result = test::openFootage(folder / "out.mkv");
    const auto pictures = test::readAll(*result);
    const Piece piece = pieceOf(settings.project, footage->video());
    ASSERT_EQ(static_cast<std::int64_t>(pictures.size()), piece.length);
    for (std::size_t k = 0; k < pictures.size(); k += 3) {
      check(chain, pictures[k], piece.moment(static_cast<std::int64_t>(k)));
      if (HasFatalFailure()) return;
    }
  }
}

TEST_F(Moments, ALoopGoesOnForEver) {
  for (const char* way : {"there-and-back", "round", "dissolve"}) {
    const Stage stage = *parseStage(std::string("loop:dissolve=6f,way=") + way, footage->clock().rate());
    const auto map = stage.kind->timeMap(stage, footage->video());
    const std::int64_t period = map->outgoing().length;
    EXPECT_TRUE(map->outgoing().endless);
    EXPECT_EQ(period, std::string(way) == "there-and-back" ? 60 : std::string(way) == "round" ? 31 : 25);
    for (std::int64_t n = 0; n < period; ++n)
      for (const Rational part : {Rational(0), Rational(1, 3)})
        EXPECT_EQ(map->readAt({n, part}), map->readAt({n + 3 * period, part}));
  }
  // The dissolve goes from the tail to the head without a jump: the shares rise evenly, none is 0 or 1.
  const Stage stage = *parseStage("loop:dissolve=6f,way=dissolve", footage->clock().rate());
  const Chain chain{stage};
  const PicturePlan plan = evaluator->plan(chain, {});
  for (int n = 0; n < 6; ++n) {
    const auto mixed = evaluator->picture(plan, {n}, {});
    ASSERT_TRUE(mixed);
    const double share = (6.0 - n) / 7;
    for (int x = 0; x < 40; ++x)
      ASSERT_NEAR(test::sampleAt(*mixed, 0, x, 5),
                  test::sampleAt(frames[static_cast<std::size_t>(n)], 0, x, 5) * (1 - share) +
                      test::sampleAt(frames[static_cast<std::size_t>(n + 25)], 0, x, 5) * share,
                  0.51);
  }
  const auto alone = evaluator->picture(plan, {6}, {});
  ASSERT_TRUE(alone && test::samePicture(*alone, frames[6]));
  // One past the end of the piece is its beginning again.
  OutputSettings longer;
  longer.length = Rational(50) / footage->clock().rate();
  const Piece piece = pieceOf(chain, longer, footage->video());
  EXPECT_TRUE(piece.endless);
  EXPECT_EQ(piece.moment(25), piece.moment(0));
}

TEST_F(Moments, AVaryingRateIsReadByItsStamps) {
  // Two of three frames of a steady clip: stamps at 0, 1, 3, 4, 6, 7 … of its frames.
  test::makeNumberedClip(folder / "varying.mkv", 60, {64, 48},
                         "-vf \"select='mod(n,3)+eq(n,0)'\" -vsync vfr -c:v ffv1");
  const auto varying = test::openFootage(folder / "varying.mkv");
  ASSERT_TRUE(varying->clock().varying());
  const Rational rate = varying->clock().rate();
  const auto all = test::readAll(*varying);
  Evaluator made(std::make_shared<FrameFeed>(varying, std::size_t(1) << 26, 1), 2);
  for (const char* text : {"pace:spans=3s@50%", "pace:from=1.5s,spans=1s@-100%+1s@0%+1s@130%", "step-rate:rate=4"}) {
    const Chain chain{*parseStage(text, rate), *parseStage("time-field:back=0s", rate)};
    const PicturePlan plan = made.plan(chain, {});
    for (std::int64_t n = 0; n < plan.length(); n += 3) {
      const auto picture = made.picture(plan, {n}, {});
      ASSERT_TRUE(picture);
      const auto map = chain[0].kind->timeMap(chain[0], varying->video());
      const double moment = map->readAt({n}).pictures();
      const auto frame = varying->clock().pick(0, moment, PastTheEnds::StandStill, InBetween::Whole).first;
      const auto wanted = test::numberShown(all[static_cast<std::size_t>(frame)]);
      ASSERT_EQ(test::numberShown(*picture), wanted) << text << " picture " << n;
    }
  }
}

TEST_F(Moments, OneFrameAndOddSizesAndTenBits) {
  struct Case {
    const char* name;
    int frames;
    Size size;
    const char* format;
  };
  RandomStages stages(6);
  for (const Case& c : {Case{"one.mkv", 1, {33, 17}, "yuv420p"}, Case{"two.mkv", 2, {31, 21}, "yuv422p10le"},
                        Case{"rgb.mkv", 5, {17, 33}, "gbrp"}}) {
    test::makeNoiseClip(folder / c.name, c.frames, c.size, c.format);
    const auto clip = test::openFootage(folder / c.name);
    const auto source = test::readAll(*clip);
    Evaluator made(std::make_shared<FrameFeed>(clip, std::size_t(1) << 26, 1), 2);
    for (int round = 0; round < 40; ++round) {
      const Chain chain{round % 5 == 0 ? stages.looped() : stages.any(), stages.any()};
      const PicturePlan plan = made.plan(chain, {});
      const SlowChain slow(chain, clip->video());
      for (const std::int64_t n : {std::int64_t(0), plan.length() - 1}) {
        const auto picture = made.picture(plan, {n}, {});
        ASSERT_TRUE(picture) << picture.error().message;
        for (int y = 0; y < c.size.height; y += 5)
          for (int x = 0; x < c.size.width; x += 3) {
            const auto frame = slow.frameAt({n}, x + 0.5, y + 0.5);
            const unsigned wanted = frame == noFrame ? blackSample(picture->shape(), 0)
                                                     : test::sampleAt(source[static_cast<std::size_t>(frame)], 0, x, y);
            if (test::sampleAt(*picture, 0, x, y) != wanted && isOnABorder(slow, chain.size(), {n}, x + 0.5, y + 0.5))
              continue;
            ASSERT_EQ(test::sampleAt(*picture, 0, x, y), wanted) << c.name << textOf(chain) << " picture " << n;
          }
      }
    }
  }
}

TEST_F(Moments, SlowSpansAreMixedEvenly) {
  const Chain chain{*parseStage("pace:spans=2s@25%", 25)};
  const PicturePlan plan = evaluator->plan(chain, {1, InBetween::Mixed});
  for (std::int64_t n = 0; n < plan.length(); n += 7) {
    const auto picture = evaluator->picture(plan, {n}, {});
    ASSERT_TRUE(picture);
    const unsigned weight = static_cast<unsigned>(n % 4) * 16384;
    for (int x = 0; x < 40; ++x)
      ASSERT_EQ(test::sampleAt(*picture, 0, x, 9),
                (test::sampleAt(frames[static_cast<std::size_t>(n / 4)], 0, x, 9) * (65536 - weight) +
                 test::sampleAt(frames[static_cast<std::size_t>(n / 4 + 1)], 0, x, 9) * weight + 32768) /
                    65536);
  }
}

}  // namespace
}  // namespace molten

// Which of a camera's frames each place of a live picture shows.

#include <set>

#include "core/engine/evaluator.h"
#include "core/picture/number_bars.h"
#include "support/clips.h"
#include "support/live.h"
#include "support/random_chains.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::flat;
using test::Live;
using test::numbered;

/// Numbers of the frames that have come.
struct Arrived {
  std::set<std::int64_t> numbers;
  /// The frame that was on at a moment, which is a picture's number; the oldest before all.
  std::int64_t onAt(std::int64_t number) const {
    const auto after = numbers.upper_bound(number);
    return after == numbers.begin() ? *after : *std::prev(after);
  }
};

/// Runs a chain over an irregular camera that loses frames, and asks `check` of each picture once the ring is full.
void runIrregular(const Chain& chain, int pictures, const std::function<void(const LivePicture&, const Arrived&)>& check) {
  Arrived arrived;
  RingSettings ring;
  ring.seconds = 8;
  Live live(numbered({240, 176}, 10, 0.2, 0.15, true), chain, ring);
  live.came = [&](const CameraFrame& frame, std::int32_t number) {
    arrived.numbers.insert(number);
    // What the ring counts is what the camera has written into its picture.
    EXPECT_EQ(numberInColumn(frame.picture, 100), static_cast<std::uint32_t>(number));
    EXPECT_EQ(numberInRow(frame.picture, 20), static_cast<std::uint32_t>(number));
  };
  live.seen = [&](const LivePicture& picture) {
    if (picture.number > 60) check(picture, arrived);
  };
  live.make(pictures);
  EXPECT_GT(live.run().state().lost, 0);
  EXPECT_GT(live.run().state().late, 0);
}

TEST(LiveTaps, AFieldReadsWhatWasOn) {
  runIrregular(chainOf({"time-field:start=0x0.5,end=1x0.5,back=3s"}), 120, [](const LivePicture& live, const Arrived& arrived) {
    for (int x = 60; x < 240; x += 7) {
      // From three seconds back at the left edge to now at the right one.
      const double position = static_cast<double>(live.number) - 30 * (1 - (x + 0.5) / 240);
      const auto number = static_cast<std::int64_t>(std::floor(position + 0.5));
      EXPECT_EQ(numberInColumn(live.picture, x), arrived.onAt(number)) << "column " << x << " of " << live.number;
    }
  });
}

TEST(LiveTaps, ASlitLeavesWhatWasOnAsItPassed) {
  runIrregular(chainOf({"slit-scan:sweep=4s,before-the-slit=last-sweep"}), 160, [](const LivePicture& live, const Arrived& arrived) {
    for (int x = 60; x < 240; x += 5) {
      double passed = std::floor(static_cast<double>(live.number) / 40) * 40 + x * 40.0 / 240;
      if (passed > static_cast<double>(live.number) + 1e-6) passed -= 40;
      EXPECT_EQ(numberInColumn(live.picture, x), arrived.onAt(static_cast<std::int64_t>(std::floor(passed + 0.5)))) << "column " << x << " of " << live.number;
    }
  });
}

TEST(LiveTaps, ATrailFadesUntilTheSlitComesAgain) {
  const auto budget = std::make_shared<MemoryBudget>(std::size_t(1) << 30);
  PictureShape shape;
  shape.size = {120, 64};
  shape.format = {ColourModel::Yuv, 8, 1, 1};
  const auto ring = std::make_shared<LiveRing>(shape, Rational(10), RingSettings(), budget);
  for (int i = 0; i <= 90; ++i) {
    Picture picture(shape);
    for (int p = 0; p < 3; ++p)
      for (int y = 0; y < picture.planeHeight(p); ++y) std::fill_n(picture.writableRow(p, y), picture.planeWidth(p), static_cast<std::uint8_t>(30 + 2 * i));
    ASSERT_TRUE(ring->put(picture, i * 0.1));
  }
  const auto feed = std::make_shared<FrameFeed>(ring->footage(), budget, ring);
  Evaluator evaluator(feed, 1);
  const auto plan = evaluator.plan(chainOf({"slit-scan:sweep=4s,before-the-slit=fading,slit-width=3px"}), PlanSettings{1, InBetween::Whole, 10, {}});
  for (const int now : {50, 67, 79, 90}) {
    const auto picture = evaluator.picture(plan, Moment{now}, {});
    ASSERT_TRUE(picture);
    for (int x = 0; x < 120; ++x) {
      double passed = std::floor(now / 40.0) * 40 + x / 3 * 3 * 40.0 / 120;
      if (passed > now + 1e-6) passed -= 40;
      const double kept = 30 + 2 * std::floor(passed + 0.5), share = (now - passed) / 40, live = 30 + 2 * now;
      EXPECT_NEAR(picture->row(0, 11)[x], kept + share * (live - kept), 0.51) << "column " << x << " at " << now;
    }
  }
}

TEST(LiveTaps, StripsAreTakenInTurn) {
  const int delays[] = {0, 7, 31, 55};
  runIrregular(chainOf({"strips:count=8,delays=typed,taps=4,tap-1=0s,tap-2=0.7s,tap-3=3.1s,tap-4=5.5s"}), 120, [&](const LivePicture& live, const Arrived& arrived) {
    for (int strip = 2; strip < 8; ++strip)
      EXPECT_EQ(numberInColumn(live.picture, strip * 30 + 15), arrived.onAt(live.number - delays[strip % 4])) << "strip " << strip << " of " << live.number;
  });
}

TEST(LiveTaps, ATileIsAWholePicture) {
  const int delays[] = {0, 20, 50, 75};
  runIrregular(chainOf({"strips:shape=tiles,count=2,rows=2,delays=typed,taps=4,tap-1=0s,tap-2=2s,tap-3=5s,tap-4=7.5s"}), 140, [&](const LivePicture& live, const Arrived& arrived) {
    const Size size = live.picture.shape().size;
    for (int tile = 0; tile < 4; ++tile) {
      // Its bars, each of two rows made one: from the tile's lower edge up.
      const int x = tile % 2 * size.width / 2 + size.width / 4, bottom = (tile / 2 + 1) * size.height / 2;
      std::uint32_t number = 0;
      for (int bit = 0; bit < numberBits; ++bit)
        if (live.picture.row(0, bottom - 1 - bit)[x] > 128) number |= 1u << bit;
      EXPECT_EQ(number, arrived.onAt(live.number - delays[tile])) << "tile " << tile << " of " << live.number;
    }
  });
}

TEST(LiveTaps, EchoesAreOfWhatWasOn) {
  runIrregular(chainOf({"echoes:repeats=3,spacing=1.3s,nearest=100%,farthest=100%,mix=wins"}), 120, [](const LivePicture& live, const Arrived& arrived) {
    // The brightest of white and black bars: every bit that one of the numbers has.
    std::int64_t all = 0;
    for (int k = 0; k <= 3; ++k) all |= arrived.onAt(live.number - 13 * k);
    EXPECT_EQ(numberInColumn(live.picture, 150), all) << live.number << " of " << arrived.onAt(live.number - 13) << " " << arrived.onAt(live.number - 26) << " " << arrived.onAt(live.number - 39);
  });
}

TEST(LiveTaps, KeysMoveATap) {
  Chain chain = chainOf({"strips:count=2,delays=typed,taps=2,tap-1=0s,tap-2=1s"});
  const std::size_t tap = parameterIndex(chain[0].kind->description(), "tap-2");
  chain[0].keys.emplace(tap, KeyTrack{{Rational(0), KeyValue{1.0}, {}}, {Rational(20), KeyValue{5.0}, {}}});
  int differ = 0;
  runIrregular(chain, 160, [&](const LivePicture& live, const Arrived& arrived) {
    const double seconds = static_cast<double>(live.number) / 10, delay = seconds >= 20 ? 5 : std::get<double>(chain[0].valuesAt(seconds)[tap]);
    const auto number = static_cast<std::int64_t>(std::floor(static_cast<double>(live.number) - delay * 10 + 0.5));
    EXPECT_EQ(numberInColumn(live.picture, 200), arrived.onAt(number)) << live.number;
    differ += delay > 1.5 && delay < 4.5;
  });
  EXPECT_GT(differ, 20);
}

TEST(LiveTaps, WhatReachesAheadIsShownSoMuchLater) {
  runIrregular(chainOf({"strips:count=2,stagger=-7f"}), 100, [](const LivePicture& live, const Arrived& arrived) {
    EXPECT_EQ(numberInColumn(live.picture, 200), arrived.onAt(live.number));
    EXPECT_EQ(numberInColumn(live.picture, 100), arrived.onAt(live.number - 7));
  });
}

TEST(LiveStages, WhatNeedsAnEndIsLeftOutWithASentence) {
  const Chain chain = chainOf({"pace:spans=1s@50%", "frame-order:order=0-3", "loop", "time-field:start-holds=pinned", "strips:gap=over-the-clip", "slit-scan",
                               "echoes:copy-speed=80%", "slit-scan:slit=stands,result=one-picture,sweep=2s", "echoes", "finish:contrast=120%", "step-rate:rate=8"});
  const LiveStages live = liveStages(chain);
  EXPECT_EQ(live.leftOut.size(), 8u);
  for (const std::string& sentence : live.leftOut) {
    EXPECT_TRUE(sentence.ends_with('.')) << sentence;
    EXPECT_TRUE(sentence.find("Use ") != std::string::npos || sentence.find("eep ") != std::string::npos || sentence.find(". Set ") != std::string::npos ||
                sentence.find(". Say ") != std::string::npos || sentence.find(" Leave ") != std::string::npos)
        << "does not say what to do: " << sentence;
  }
  ASSERT_EQ(live.chain.size(), 3u);
  EXPECT_EQ(live.chain[0].kind->description().id, "echoes");
}

TEST(LiveStages, AnyChainRunsOrIsLeftOut) {
  const auto budget = std::make_shared<MemoryBudget>(std::size_t(1) << 30);
  const Picture picture = flat({64, 48}, 60);
  test::RandomChains random(2211, 60);
  for (int i = 0; i < 60; ++i) {
    const auto ring = std::make_shared<LiveRing>(picture.shape(), Rational(10), RingSettings(), budget);
    const auto feed = std::make_shared<FrameFeed>(ring->footage(), budget, ring);
    Evaluator evaluator(feed, 1);
    const LiveStages live = liveStages(random.chain(random.within(1, 4)));
    const auto plan = evaluator.plan(live.chain, PlanSettings{1, InBetween::Whole, 10, {}});
    const LiveReach reach = liveReach(live.chain, feed->footage().video(), nullptr);
    EXPECT_GE(reach.back, 0) << test::chainWords(live.chain);
    EXPECT_GE(reach.ahead, 0) << test::chainWords(live.chain);
    for (int n = 0; n < 4; ++n) {
      ASSERT_TRUE(ring->put(picture, 9 + n * 0.1));
      const auto made = evaluator.picture(plan, Moment{90 + n}, {});
      // What needs a file that is not there says so.
      EXPECT_TRUE(made || !made.error().message.empty()) << test::chainWords(live.chain);
      if (made) {
        EXPECT_EQ(made->shape(), plan.shape()) << test::chainWords(live.chain);
      }
    }
  }
}

TEST(LiveStages, TheReachIsTheSumOfAll) {
  VideoDescription camera;
  camera.size = {64, 36};
  camera.rate = 30;
  camera.length = 1'000'000;
  const auto reach = [&](const std::vector<std::string>& texts) { return liveReach(chainOf(texts), camera, nullptr); };
  EXPECT_DOUBLE_EQ(reach({}).back, 0);
  EXPECT_NEAR(reach({"time-field:back=4.2s"}).back, 4.2, 0.1);
  EXPECT_NEAR(reach({"time-field:back=1s,ahead=0.5s"}).ahead, 0.5, 0.1);
  EXPECT_NEAR(reach({"time-field:back=4s", "slit-scan:sweep=2s,before-the-slit=last-sweep"}).back, 8, 0.1);
  EXPECT_NEAR(reach({"echoes:repeats=5,spacing=0.4s", "time-field:back=1s"}).back, 3, 0.1);
  EXPECT_NEAR(reach({"step-rate:rate=10"}).back, 2 / 30.0, 1e-6);
  EXPECT_NEAR(reach({"strips:shape=tiles,count=2,rows=2,delays=typed,taps=4,tap-4=10s"}).back, 10, 1e-9);
}

}  // namespace
}  // namespace molten

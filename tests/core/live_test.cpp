// A camera's pictures: which of them each place of a live picture shows, what the ring holds, and what is kept.

#include <dirent.h>

#include <atomic>
#include <condition_variable>
#include <map>
#include <mutex>
#include <set>

#include "core/engine/live_recording.h"
#include "core/engine/live_run.h"
#include "core/media/device_camera.h"
#include "core/picture/number_bars.h"
#include "support/clips.h"
#include "support/stages.h"
#include "support/stepped_clock.h"

namespace molten {
namespace {

using test::SteppedClock;

/// A chain on the simulated camera, with a clock that waits for each picture.
class Live {
 public:
  Live(CameraChoice camera, const Chain& chain, RingSettings ring = {}) {
    LiveOptions options;
    options.clock = clock_;
    options.budget = budget_;
    options.threads = 1;
    run_ = std::make_unique<LiveRun>(
        std::move(camera), ring, LiveChain{chain}, options,
        [this](const LivePicture& picture) {
          run_->shown(picture);
          if (seen) seen(picture);
          clock_->done();
          const std::scoped_lock lock(mutex_);
          ++made_;
          changed_.notify_all();
        },
        [this](const CameraFrame& frame, std::int32_t number, Rational) {
          clock_->came();
          if (came) came(frame, number);
        });
  }
  ~Live() { run_.reset(); }
  /// Begins, and returns when so many pictures are made.
  void make(int pictures) {
    clock_->runTo(1e9);
    std::unique_lock lock(mutex_);
    changed_.wait(lock, [&] { return made_ >= pictures; });
  }
  /// Of each picture that is made, and each frame that comes; set before the first.
  std::function<void(const LivePicture&)> seen;
  std::function<void(const CameraFrame&, std::int32_t)> came;
  LiveRun& run() { return *run_; }
  const MemoryBudget& budget() const { return *budget_; }

 private:
  std::shared_ptr<SteppedClock> clock_ = std::make_shared<SteppedClock>();
  std::shared_ptr<MemoryBudget> budget_ = std::make_shared<MemoryBudget>(std::size_t(256) << 20);
  std::mutex mutex_;
  std::condition_variable changed_;
  int made_ = 0;
  std::unique_ptr<LiveRun> run_;
};

CameraChoice numbered(Size size, Rational rate, double late = 0, double lost = 0, bool irregular = false) {
  CameraChoice choice;
  choice.size = size;
  choice.rate = rate;
  choice.troubles.late = late;
  choice.troubles.lost = lost;
  choice.troubles.irregular = irregular;
  choice.troubles.numbered = true;
  return choice;
}

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
  const auto ring = *LiveRing::make(shape, 10, {}, budget);
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

Picture flat(Size size, std::uint8_t value) {
  PictureShape shape;
  shape.size = size;
  shape.format = {ColourModel::Yuv, 8, 0, 0};
  shape.colour.range = AVCOL_RANGE_MPEG;
  shape.colour.matrix = AVCOL_SPC_BT709;
  Picture picture(shape);
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < size.height; ++y) std::fill_n(picture.writableRow(p, y), size.width, p == 0 ? value : std::uint8_t(128));
  return picture;
}

std::shared_ptr<LiveRing> ringOf(const Picture& picture, const RingSettings& settings, const std::shared_ptr<MemoryBudget>& budget) {
  auto ring = LiveRing::make(picture.shape(), 10, settings, budget);
  EXPECT_TRUE(ring);
  return *ring;
}

std::uint8_t shownAt(LiveRing& ring, std::int32_t number, std::optional<Layout> layout = std::nullopt) {
  const std::int32_t asked[] = {number};
  const auto table = ring.table(asked, ring.scale(), layout);
  EXPECT_TRUE(table);
  if (layout) {
    EXPECT_EQ(table->find(number)->layout().kind(), *layout);
  }
  return table->find(number)->picture().row(0, 3)[5];
}

TEST(LiveRing, HoldsWhatItIsToldToAndNoMore) {
  const auto budget = std::make_shared<MemoryBudget>(std::size_t(1) << 30);
  RingSettings settings;
  settings.seconds = 2;
  const auto ring = ringOf(flat({96, 64}, 20), settings, budget);
  for (int i = 0; i < 100; ++i) {
    ASSERT_TRUE(ring->put(flat({96, 64}, static_cast<std::uint8_t>(20 + i)), i * 0.1));
    EXPECT_LE(ring->state().held, 2.0 + 1e-9);
  }
  const RingState state = ring->state();
  EXPECT_NEAR(state.held, 2, 1e-9);
  EXPECT_EQ(state.bytes, budget->used());
  EXPECT_FALSE(state.forMemory());
  for (const Layout layout : {Layout::Rows, Layout::Blocks, Layout::Rows}) {
    EXPECT_EQ(shownAt(*ring, 99, layout), 119);
    EXPECT_EQ(shownAt(*ring, 80, layout), 100);
    EXPECT_EQ(shownAt(*ring, 5, layout), 99) << "older than all: the oldest";
    EXPECT_EQ(shownAt(*ring, 4000, layout), 119);
  }
  settings.seconds = 1;
  ring->set(settings);
  EXPECT_NEAR(ring->state().held, 1, 1e-9);
}

TEST(LiveRing, SaysWhatDoesNotFit) {
  const auto budget = std::make_shared<MemoryBudget>(std::size_t(1) << 30);
  RingSettings settings;
  settings.seconds = 10;
  settings.bytes = 20 * 512 * 256 * 3;
  const auto ring = ringOf(flat({512, 256}, 20), settings, budget);
  for (int i = 0; i < 100; ++i) ASSERT_TRUE(ring->put(flat({512, 256}, 20), i * 0.1));
  EXPECT_TRUE(ring->state().forMemory());
  EXPECT_LE(ring->state().bytes, settings.bytes);
  const double whole = ring->state().fits;
  settings.everyNth = 3;
  ring->set(settings);
  EXPECT_NEAR(ring->state().fits, 3 * whole, 1e-9);
  RingSettings smaller = settings;
  smaller.everyNth = 1;
  smaller.smaller = 2;
  smaller.lessColour = true;
  const auto small = ringOf(flat({512, 256}, 20), smaller, budget);
  EXPECT_GT(small->state().fits, 4 * whole);
  ASSERT_TRUE(small->put(flat({512, 256}, 77), 0));
  EXPECT_EQ(shownAt(*small, 0), 77);
  EXPECT_EQ(small->shape().size, (Size{512, 256})) << "a chain is for the full size";
}

TEST(LiveRing, KeepsEveryNthAndTheNewest) {
  const auto budget = std::make_shared<MemoryBudget>(std::size_t(1) << 30);
  RingSettings settings;
  settings.everyNth = 4;
  const auto ring = ringOf(flat({96, 64}, 20), settings, budget);
  for (int i = 0; i < 50; ++i) {
    ASSERT_TRUE(ring->put(flat({96, 64}, static_cast<std::uint8_t>(20 + i)), i * 0.1));
    EXPECT_EQ(shownAt(*ring, i), 20 + i) << "now is always now";
    if (i >= 8) {
      EXPECT_EQ(shownAt(*ring, i - 5), 20 + (i - 5) / 4 * 4);
    }
  }
  EXPECT_LE(ring->state().frames, 14);
}

TEST(LiveRing, FramesThatShareAMomentStandBesideEachOther) {
  const auto budget = std::make_shared<MemoryBudget>(std::size_t(1) << 30);
  const auto ring = ringOf(flat({96, 64}, 20), {}, budget);
  EXPECT_EQ(*ring->put(flat({96, 64}, 30), 1.00), 10);
  EXPECT_EQ(*ring->put(flat({96, 64}, 31), 1.01), 11);
  EXPECT_EQ(*ring->put(flat({96, 64}, 32), 1.5), 15);
  EXPECT_EQ(shownAt(*ring, 12), 31);
  EXPECT_EQ(shownAt(*ring, 15), 32);
}

int openFiles() {
  int count = 0;
  DIR* const folder = opendir("/proc/self/fd");
  while (readdir(folder)) ++count;
  closedir(folder);
  return count;
}

std::size_t residentBytes() {
  std::ifstream in("/proc/self/statm");
  std::size_t all = 0, resident = 0;
  in >> all >> resident;
  return resident * 4096;
}

TEST(LiveRun, TwoHoursLeaveNothingBehind) {
  CameraChoice camera = numbered({64, 48}, 5, 0, 0.02, true);
  RingSettings ring;
  ring.seconds = 4;
  Live live(camera, chainOf({"time-field:back=3s", "echoes:repeats=1,spacing=0.4s"}), ring);
  constexpr int twoHours = 2 * 3600 * 5 * 98 / 100;
  live.make(2000);
  const int files = openFiles();
  const std::size_t resident = residentBytes(), held = live.budget().used();
  live.make(twoHours - 400);
  EXPECT_EQ(openFiles(), files);
  EXPECT_LE(live.budget().used(), held + held / 2);
#if !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__)
  EXPECT_LE(residentBytes(), resident + (std::size_t(8) << 20));
#else
  EXPECT_GT(resident, 0u);
#endif
  const LiveState state = live.run().state();
  EXPECT_EQ(state.passedOver, 0);
  EXPECT_EQ(state.shownLate, 0) << "all came in time";
  EXPECT_GT(state.seconds, 7000);
}

TEST(LiveRun, ACameraIsLostAndFoundAHundredTimes) {
  CameraChoice camera = numbered({64, 48}, 10);
  camera.troubles.comesOffAfter = 1;
  Live live(camera, {});
  std::int64_t last = -1;
  bool rising = true;
  live.seen = [&](const LivePicture& picture) {
    rising = rising && picture.number > last;
    last = picture.number;
  };
  live.make(100);
  const int files = openFiles();
  live.make(1150);
  const LiveState state = live.run().state();
  EXPECT_GE(state.found, 100);
  EXPECT_TRUE(rising);
  EXPECT_EQ(openFiles(), files);
  EXPECT_EQ(state.lost, 0) << "while it was away nothing was lost on the way";
}

TEST(LiveRun, WhatIsNotThereIsSaidAndLookedFor) {
  Live live({"/dev/video-that-is-not-there"}, {});
  // The clock stands: it has been looked for once, and waits.
  while (live.run().state().trouble.empty()) std::this_thread::yield();
  const LiveState state = live.run().state();
  EXPECT_FALSE(state.there);
  EXPECT_NE(state.trouble.find("video-that-is-not-there"), std::string::npos);
  live.run().setCamera(numbered({64, 48}, 10));
  live.make(3);
  EXPECT_TRUE(live.run().state().there);
  EXPECT_TRUE(live.run().state().trouble.empty());
}

TEST(LiveRun, EditsActOnWhatRuns) {
  Live live(numbered({240, 176}, 10), {});
  std::atomic<int> differ = 0;
  live.seen = [&](const LivePicture& picture) { differ += numberInColumn(picture.picture, 100) != numberInColumn(picture.picture, 220); };
  live.make(40);
  EXPECT_EQ(differ, 0);
  live.run().setChain({chainOf({"strips:count=2,stagger=9f"})});
  live.make(80);
  EXPECT_GT(differ, 20);
}

/// It goes as far as it is told.
class ToldClock : public LiveClock {
 public:
  double now() const override { return now_; }
  bool waitUntil(double seconds, const std::stop_token& stop) override {
    now_ = std::max(now_.load(), seconds);
    return !stop.stop_requested();
  }
  void go(double seconds) { now_ = now_ + seconds; }

 private:
  std::atomic<double> now_ = 100;
};

/// A device that libavdevice draws: the way is that of the machine's cameras.
TEST(LiveDevice, GivesItsFramesWithTheirOwnTimesOnTheClockOfWhoReads) {
  const auto clock = std::make_shared<ToldClock>();
  auto camera = openDevice({"lavfi", "testsrc2=size=160x96:rate=25,format=yuyv422"}, {}, clock);
  ASSERT_TRUE(camera) << camera.error().message;
  EXPECT_EQ((*camera)->shape().size, (Size{160, 96}));
  EXPECT_EQ((*camera)->rate(), Rational(25));
  EXPECT_EQ((*camera)->shape().format.shiftX, 1) << "4:2:2 stays what it is";
  EXPECT_EQ((*camera)->shape().format.shiftY, 0);
  double before = 0;
  for (int i = 0; i < 20; ++i) {
    // Some come a little late.
    clock->go(i % 3 == 1 ? 0.05 : i % 3 == 2 ? 0.03 : 0.04);
    const auto frame = (*camera)->next({});
    ASSERT_TRUE(frame);
    EXPECT_EQ(frame->picture.shape(), (*camera)->shape());
    if (i > 3) {
      EXPECT_NEAR(frame->seconds - before, 0.04, 1e-9) << "what came late was not taken late";
    }
    EXPECT_LE(frame->seconds, clock->now() + 1e-9);
    before = frame->seconds;
  }
}

TEST(LiveDevice, WhatCannotBeOpenedIsSaid) {
  const auto camera = openDevice({deviceFormat, "/dev/video-that-is-not-there"}, {}, std::make_shared<ToldClock>());
  ASSERT_FALSE(camera);
  EXPECT_NE(camera.error().message.find("plugged in"), std::string::npos) << camera.error().message;
  EXPECT_FALSE(listCameras().empty());
  EXPECT_EQ(listCameras().front().id, simulatedCamera);
}

TEST(LiveDevice, AClipThatIsNotThereIsSaid) {
  const auto camera = openCamera({"not-there.mp4"}, std::make_shared<ToldClock>(), {});
  ASSERT_FALSE(camera);
  EXPECT_NE(camera.error().message.find("not-there.mp4"), std::string::npos);
}

TEST(SimulatedCamera, LosesAndDelaysAsManyAsItIsToldTo) {
  CameraChoice choice = numbered({64, 48}, 25, 0.25, 0.1);
  const auto clock = std::make_shared<ToldClock>();
  const auto camera = openCamera(choice, clock, {});
  ASSERT_TRUE(camera);
  int late = 0;
  std::int64_t first = -1, last = -1;
  constexpr int frames = 2000;
  for (int i = 0; i < frames; ++i) {
    const auto frame = (*camera)->next({});
    ASSERT_TRUE(frame);
    const auto number = static_cast<std::int64_t>(*numberInColumn(frame->picture, 60));
    EXPECT_GT(number, last);
    EXPECT_NEAR(frame->seconds, static_cast<double>(number) / 25, 1e-9);
    last = number;
    if (first < 0) first = number;
    late += clock->now() > frame->seconds + 0.02;
  }
  EXPECT_NEAR(1 - static_cast<double>(frames) / static_cast<double>(last - first + 1), 0.1, 0.03);
  EXPECT_GT(late, frames / 5) << "a late one holds up those behind it";
  for (const Size wrong : {Size{8, 8}, Size{20000, 100}}) {
    choice.size = wrong;
    EXPECT_FALSE(openCamera(choice, clock, {}));
  }
}

TEST(LiveRun, AClipPlaysAsACameraRoundAndRound) {
  const test::TempFolder folder;
  const std::string clip = folder / "clip.mkv";
  test::makeNumberedClip(clip, 12, {64, 48}, "-c:v ffv1");
  std::vector<int> seen;
  std::mutex mutex;
  {
    Live live({clip}, {});
    live.seen = [&](const LivePicture& picture) {
      const std::scoped_lock lock(mutex);
      seen.push_back(test::numberShown(picture.picture));
    };
    live.make(30);
  }
  for (std::size_t i = 0; i < 30; ++i) EXPECT_EQ(seen[i], static_cast<int>(i) % 12);
}

TEST(LiveRecording, HoldsWhatItWasGivenWithItsGaps) {
  const test::TempFolder folder;
  const std::string path = folder / "take.mp4";
  {
    LiveRecording recording(path);
    for (const int number : {5, 6, 9, 10, 11}) recording.add(flat({64, 48}, static_cast<std::uint8_t>(40 + 15 * (number - 5))), number, 10);
    ASSERT_TRUE(recording.finish());
    EXPECT_EQ(recording.state().pictures, 5);
    EXPECT_DOUBLE_EQ(recording.state().seconds, 0.7);
  }
  const auto clip = Footage::open(path, {}, {}, {});
  ASSERT_TRUE(clip) << clip.error().message;
  EXPECT_EQ((*clip)->clock().length(), 7);
  const auto reader = (*clip)->newReader(1);
  const int shown[] = {0, 1, 1, 1, 4, 5, 6};
  for (int n = 0; n < 7; ++n) {
    const auto picture = (*reader)->read((*clip)->clock().frameAt(n), {}, {});
    ASSERT_TRUE(picture);
    EXPECT_NEAR(picture->row(0, 20)[20], 40 + 15 * shown[n], 3) << n;
  }
}

TEST(LiveRecording, NeverWritesOverWhatIsThere) {
  const test::TempFolder folder;
  const std::string path = folder / "take.mp4";
  test::writeFile(path, "mine");
  LiveRecording recording(path);
  recording.add(flat({64, 48}, 40), 0, 10);
  const Status ended = recording.finish();
  ASSERT_FALSE(ended);
  EXPECT_NE(ended.error().message.find("is there already"), std::string::npos);
  EXPECT_EQ(std::filesystem::file_size(path), 4u);
}

TEST(LiveRecording, TheLastSecondsAreKeptAsAClip) {
  const test::TempFolder folder;
  const std::string path = folder / "kept.mkv";
  const auto budget = std::make_shared<MemoryBudget>(std::size_t(1) << 30);
  const auto ring = ringOf(flat({64, 48}, 20), {}, budget);
  for (int i = 0; i < 60; ++i)
    if (i != 55) {
      ASSERT_TRUE(ring->put(flat({64, 48}, static_cast<std::uint8_t>(20 + i)), i * 0.1));
    }
  OutputSpec spec;
  spec.path = path;
  ASSERT_TRUE(keepAsClip(ring->last(2), ring->rate(), spec, {}, {}));
  const auto clip = Footage::open(path, {}, {}, {});
  ASSERT_TRUE(clip);
  ASSERT_EQ((*clip)->clock().frameCount(), 20);
  const auto reader = (*clip)->newReader(1);
  for (int n = 0; n < 20; ++n) EXPECT_EQ((*reader)->read(n, {}, {})->row(0, 20)[20], 20 + (n == 15 ? 54 : 40 + n)) << n;
  std::stop_source stopped;
  stopped.request_stop();
  spec.path = folder / "other.mkv";
  EXPECT_FALSE(keepAsClip(ring->last(2), ring->rate(), spec, {}, stopped.get_token()));
  EXPECT_FALSE(std::filesystem::exists(spec.path));
}

}  // namespace
}  // namespace molten

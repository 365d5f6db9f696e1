// What the ring holds of a camera, how a run goes on for hours, and what is kept of it.

#include <dirent.h>

#include <atomic>

#include "core/engine/live_recording.h"
#include "core/media/device_camera.h"
#include "core/picture/number_bars.h"
#include "support/clips.h"
#include "support/live.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::flat;
using test::Live;
using test::numbered;

std::shared_ptr<LiveRing> ringOf(const Picture& picture, const RingSettings& settings, const std::shared_ptr<MemoryBudget>& budget) {
  return std::make_shared<LiveRing>(picture.shape(), Rational(10), settings, budget);
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

/// A camera that is gone for an hour: what is held stays, counts as long as it lasts, and becomes a clip of that length.
TEST(LiveRing, HoldsOnWhileThereIsNoCamera) {
  const auto budget = std::make_shared<MemoryBudget>(std::size_t(1) << 30);
  RingSettings settings;
  settings.seconds = 2;
  const auto ring = ringOf(flat({96, 64}, 20), settings, budget);
  for (int i = 0; i < 20; ++i) ASSERT_TRUE(ring->put(flat({96, 64}, static_cast<std::uint8_t>(20 + i)), i * 0.1));
  const std::size_t bytes = budget->used();
  for (int i = 0; i < 10; ++i) {
    ASSERT_TRUE(ring->put(flat({96, 64}, static_cast<std::uint8_t>(100 + i)), 3600 + i * 0.1));
    EXPECT_GE(budget->used(), bytes);
    EXPECT_LE(ring->state().held, 2.0 + 1e-9);
    EXPECT_GE(ring->state().held, 1.9 - 1e-9);
  }
  const auto all = ring->all();
  EXPECT_EQ(all.back().place - all.front().place, 20);
  EXPECT_EQ(shownAt(*ring, 36005), 105);
  EXPECT_EQ(shownAt(*ring, 30000), 39) << "the last before it went";
  const test::TempFolder folder;
  OutputSpec spec;
  spec.path = folder / "kept.mp4";
  ASSERT_TRUE(keepAsClip(all, 10, spec, nullptr, {}));
  EXPECT_EQ(test::openFootage(spec.path)->clock().frameCount(), 21) << "as long as it is said to hold";
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
  EXPECT_EQ(state.late, 0) << "all came in time";
  EXPECT_GT(state.seconds, 7000);
}

/// Late, lost, irregular and gone frames: each is counted once.
TEST(LiveRun, EachFrameIsCountedOnce) {
  CameraChoice camera = numbered({64, 48}, 25, 0.2, 0.1, true);
  camera.troubles.comesOffAfter = 7;
  Live live(camera, chainOf({"time-field:back=0.5s"}));
  std::int64_t pictures = 0;
  live.givesWay = [&](const LivePicture&) { return ++pictures % 5 == 0; };
  live.make(500);
  const LiveState state = live.run().state();
  EXPECT_GT(state.lost, 10);
  EXPECT_GT(state.late, 10);
  EXPECT_GT(state.passedOver, 50);
  EXPECT_LE(state.onTheWay, 2);
  EXPECT_EQ(state.shown + state.late + state.passedOver + state.onTheWay, state.arrived());
  EXPECT_EQ(state.arrived() + state.lost, state.taken());
  EXPECT_GE(state.arrived(), pictures);
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
  RingSettings settings;
  settings.seconds = 1.9;
  const auto ring = ringOf(flat({64, 48}, 20), settings, budget);
  for (int i = 0; i < 60; ++i)
    if (i != 55) {
      ASSERT_TRUE(ring->put(flat({64, 48}, static_cast<std::uint8_t>(20 + i)), i * 0.1));
    }
  OutputSpec spec;
  spec.path = path;
  ASSERT_TRUE(keepAsClip(ring->all(), ring->rate(), spec, {}, {}));
  const auto clip = Footage::open(path, {}, {}, {});
  ASSERT_TRUE(clip);
  ASSERT_EQ((*clip)->clock().frameCount(), 20);
  const auto reader = (*clip)->newReader(1);
  for (int n = 0; n < 20; ++n) EXPECT_EQ((*reader)->read(n, {}, {})->row(0, 20)[20], 20 + (n == 15 ? 54 : 40 + n)) << n;
  std::stop_source stopped;
  stopped.request_stop();
  spec.path = folder / "other.mkv";
  EXPECT_FALSE(keepAsClip(ring->all(), ring->rate(), spec, {}, stopped.get_token()));
  EXPECT_FALSE(std::filesystem::exists(spec.path));
}

}  // namespace
}  // namespace molten

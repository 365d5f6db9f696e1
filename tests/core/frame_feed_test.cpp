// Frames under a budget, for many askers, forwards and backwards.
#include "core/engine/frame_feed.h"

#include <atomic>
#include <random>

#include "support/clips.h"

namespace molten {
namespace {

using test::TempFolder;

/// In the middle of a clip that takes seconds to decode, not at its end.
TEST(FrameFeed, FetchIsCalledOffAtOnce) {
  const TempFolder folder;
  test::makeNoiseClip(folder / "a.mkv", 120, {640, 480}, "yuv420p");
  const auto footage = test::openFootage(folder / "a.mkv");
  FrameFeed feed(footage, std::size_t(1) << 30, 1);
  std::vector<std::int32_t> all;
  for (int n = 0; n < 120; ++n) all.push_back(n);
  std::stop_source stop;
  std::jthread other([&] {
    while (feed.decoded() == 0) std::this_thread::yield();
    stop.request_stop();
  });
  const auto table = feed.fetch(all, 1, Layout::Rows, stop.get_token());
  ASSERT_FALSE(table);
  EXPECT_TRUE(table.error().cancelled);
  EXPECT_LT(feed.decoded(), 120u);
  // What was called off before it began is not begun.
  const auto none = feed.fetch(std::vector<std::int32_t>{119}, 1, Layout::Rows, stop.get_token());
  EXPECT_TRUE(!none && none.error().cancelled);
  // The feed serves on.
  const auto whole = feed.fetch(all, 1, Layout::Rows, {});
  ASSERT_TRUE(whole);
  EXPECT_EQ(whole->size(), 120u);
}

TEST(FrameFeed, WhatIsDueIsNotWaitedForAnyLonger) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mp4", 20, {64, 48}, "-c:v libx264");
  const auto footage = test::openFootage(folder / "a.mp4");
  FrameFeed feed(footage, std::size_t(1) << 26, 1);
  const std::vector<std::int32_t> frames{3, 4};
  const auto before = std::chrono::steady_clock::now();
  const auto late = feed.fetchUntil(before, frames, 1, Layout::Rows, {});
  ASSERT_FALSE(late);
  EXPECT_TRUE(late.error().cancelled);
  ASSERT_TRUE(feed.fetchUntil(before + std::chrono::hours(1), frames, 1, Layout::Rows, {}));
  // What is at hand is there at any time.
  EXPECT_TRUE(feed.fetchUntil(before, frames, 1, Layout::Rows, {}));
}

TEST(FrameFeed, ManyAskersGetWhatTheyAskedFor) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mp4", 100, {128, 96}, "-c:v libx264 -g 30 -bf 2");
  const auto footage = test::openFootage(folder / "a.mp4");
  FrameFeed feed(footage, footage->shape().bytes() * 20, 2);
  std::atomic<int> wrong = 0;
  {
    std::vector<std::jthread> askers;
    for (int k = 0; k < 4; ++k)
      askers.emplace_back([&, k] {
        std::mt19937 random(static_cast<unsigned>(k));
        for (int i = 0; i < 40; ++i) {
          const auto first = static_cast<std::int32_t>(random() % 95);
          const std::vector<std::int32_t> frames{first, first + 2, first + 4};
          std::stop_source stop;
          if (random() % 4 == 0) stop.request_stop();
          if (random() % 8 == 0) feed.prefetch({first + 1, first + 3}, 1, Layout::Rows);
          const int scale = random() % 3 == 0 ? 2 : 1;
          const Layout layout = random() % 2 ? Layout::Rows : Layout::Blocks;
          const auto table = feed.fetch(frames, scale, layout, stop.get_token());
          if (!table) continue;
          for (const auto n : frames)
            if (!table->find(n) || test::numberShown(table->find(n)->picture()) != n ||
                table->find(n)->layout().shape().size.width != 128 / scale || table->find(n)->layout().kind() != layout)
              ++wrong;
        }
      });
  }
  EXPECT_EQ(wrong, 0);
}

TEST(FrameFeed, GroupsAreDecodedOnceWhenPlayedBackwards) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mp4", 120, {128, 96}, "-c:v libx264 -g 30 -bf 2");
  const auto footage = test::openFootage(folder / "a.mp4");
  FrameFeed feed(footage, footage->shape().bytes() * 50, 1);
  for (std::int32_t n = 120; n-- > 0;) {
    const auto table = feed.fetch(std::vector<std::int32_t>{n}, 1, Layout::Rows, {});
    ASSERT_TRUE(table);
    ASSERT_EQ(test::numberShown(table->find(n)->picture()), n);
  }
  EXPECT_LE(feed.decoded(), 140u);
}

TEST(FrameFeed, ExpectedFramesAreThereBeforeTheyAreAskedFor) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mp4", 60, {128, 96}, "-c:v libx264 -g 30");
  const auto footage = test::openFootage(folder / "a.mp4");
  FrameFeed feed(footage, footage->shape().bytes() * 30, 1);
  feed.prefetch({10, 11, 12}, 1, Layout::Blocks);
  feed.waitUntilIdle();
  const auto before = feed.decoded();
  ASSERT_GE(before, 3u);
  ASSERT_TRUE(feed.fetch(std::vector<std::int32_t>{10, 11, 12}, 1, Layout::Blocks, {}));
  EXPECT_EQ(feed.decoded(), before);
  // More than fits is not begun: what is held stays within the budget.
  std::vector<std::int32_t> all(60);
  for (int n = 0; n < 60; ++n) all[static_cast<std::size_t>(n)] = n;
  feed.prefetch(all, 1, Layout::Rows);
  feed.waitUntilIdle();
  EXPECT_GT(feed.decoded(), before);
  EXPECT_LE(feed.budget()->used(), feed.budget()->limit());
  feed.setBudget(footage->shape().bytes() * 4);
  EXPECT_LE(feed.budget()->used(), feed.budget()->limit());
}

/// Small pictures of all frames cost nothing where the clip is filled in anyway; and where it is not, they leave nothing
/// behind.
TEST(FrameFeed, LooksInPassingDecodeNoFrameTwice) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mp4", 90, {128, 96}, "-c:v libx264 -g 30 -bf 2");
  const auto footage = test::openFootage(folder / "a.mp4");
  for (const int fill : {1, 2, 0}) {
    FrameFeed feed(footage, footage->shape().bytes() * 300, 1);
    if (fill > 0) feed.fillFrom(fill);
    for (std::int32_t n = 0; n < 90; ++n) {
      const auto seen = feed.glimpse(n, {32, 24}, {});
      ASSERT_TRUE(seen);
      ASSERT_EQ(test::numberShown(*seen), n);
      EXPECT_EQ(seen->shape().size.width, fill > 0 ? 128 / fill : 32);
    }
    feed.waitUntilIdle();
    EXPECT_LE(feed.decoded(), fill > 0 ? 92u : 120u) << "filled in at " << fill;
    EXPECT_EQ(feed.budget()->used() > 0, fill > 0);
  }
}

/// In place of a frame that would have to be waited for: the nearest that is held, or the one that decoding begins with.
TEST(FrameFeed, RoughlyIsWhatIsNearestAtHand) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mp4", 240, {128, 96}, "-c:v libx264 -g 100 -sc_threshold 0 -bf 2");
  const auto footage = test::openFootage(folder / "a.mp4");
  FrameFeed feed(footage, footage->shape().bytes() * 300, 1);
  const auto roughly = [&](std::vector<std::int32_t> frames, int scale, Layout layout) {
    std::vector<int> numbers;
    const auto table = feed.fetch(frames, scale, layout, {}, Urgency::AtOnce);
    EXPECT_TRUE(table);
    for (const std::int32_t n : frames) {
      numbers.push_back(test::numberShown(table->find(n)->picture()));
      EXPECT_EQ(table->find(n)->layout(), FrameLayout(feed.shapeAt(scale), layout));
    }
    return numbers;
  };
  const std::vector<std::int32_t> far{190};
  EXPECT_EQ(feed.toBeDecoded(far, 1), 91);
  EXPECT_EQ(roughly({90, 190, 239}, 1, Layout::Rows), (std::vector<int>{0, 100, 200}));
  EXPECT_EQ(feed.decoded(), 0u) << "none of the way there";
  EXPECT_EQ(roughly({190}, 2, Layout::Blocks), std::vector<int>{100});
  ASSERT_TRUE(feed.fetch(std::vector<std::int32_t>{170}, 1, Layout::Rows, {}));
  EXPECT_EQ(roughly({165, 175, 190}, 1, Layout::Rows), (std::vector<int>{165, 170, 200})) << "what came along is nearer";
  ASSERT_TRUE(feed.fetch(far, 1, Layout::Rows, {}));
  EXPECT_EQ(roughly({190}, 1, Layout::Blocks), std::vector<int>{190});
  EXPECT_EQ(feed.toBeDecoded(far, 1), 0);
}

/// What is shown interrupts what is looked at beside it, which is had all the same.
TEST(FrameFeed, WhatIsShownDoesNotWaitForALookElsewhere) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mp4", 240, {640, 480}, "-c:v libx264 -g 300 -sc_threshold 0 -bf 0");
  const auto footage = test::openFootage(folder / "a.mp4");
  for (const Urgency urgency : {Urgency::Passing, Urgency::Background}) {
    FrameFeed feed(footage, std::size_t(1) << 30, 1);
    std::jthread beside([&] {
      const std::vector<std::int32_t> last{239};
      const auto table = feed.fetch(last, 4, {}, {}, urgency);
      ASSERT_TRUE(table);
      EXPECT_EQ(test::numberShown(table->find(239)->picture()), 239);
    });
    while (feed.decoded() == 0) std::this_thread::yield();
    const auto shown = feed.fetch(std::vector<std::int32_t>{0}, 1, {}, {});
    ASSERT_TRUE(shown);
    EXPECT_LT(feed.decoded(), 200u);
  }
}

/// A process has one budget: what reads footage for a purpose of its own takes its part before it reads, and what was
/// held gives way at once.
TEST(FrameFeed, GivesWayToAPartOfTheBudget) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mp4", 60, {128, 96}, "-c:v libx264 -g 30");
  const auto footage = test::openFootage(folder / "a.mp4");
  const std::size_t frame = footage->shape().bytes();
  FrameFeed feed(footage, frame * 50, 1);
  const auto& budget = feed.budget();
  std::vector<std::int32_t> some;
  for (std::int32_t n = 0; n < 60; ++n) some.push_back(n);
  for (const std::int32_t n : some) ASSERT_TRUE(feed.fetch({&n, 1}, 1, Layout::Rows, {}));
  const std::size_t held = budget->used(), most = feed.framesThatFit(1);
  {
    // Half of it, however much is asked for.
    FrameFeed other(footage, MemoryBudget::part(budget, frame * 1000), 1);
    const std::size_t share = other.budget()->limit();
    EXPECT_EQ(share, budget->limit() / 2);
    EXPECT_LE(budget->used(), budget->limit());
    EXPECT_LT(budget->used(), held + share);
    EXPECT_LT(feed.framesThatFit(1), most);
    // Both full: the whole is no more than was allowed.
    other.prefetch(some, 1, Layout::Rows);
    feed.prefetch(some, 1, Layout::Rows);
    other.waitUntilIdle(), feed.waitUntilIdle();
    EXPECT_GT(other.budget()->used(), share / 2);
    EXPECT_LE(other.budget()->used(), share);
    EXPECT_LE(budget->used(), budget->limit());
    EXPECT_GT(budget->used(), budget->limit() / 2);
  }
  // Given back.
  EXPECT_EQ(feed.framesThatFit(1), most);
}

/// However many take parts, and whatever they ask for: together they never take the whole.
TEST(MemoryBudget, PartsLeaveSomething) {
  const auto whole = std::make_shared<MemoryBudget>(std::size_t(1000));
  std::vector<std::shared_ptr<MemoryBudget>> parts;
  for (int i = 0; i < 8; ++i) parts.push_back(MemoryBudget::part(whole, 900));
  EXPECT_EQ(parts[0]->limit(), 500u);
  EXPECT_EQ(parts[1]->limit(), 250u);
  EXPECT_LT(whole->used(), whole->limit());
  // A part of a part is one of that.
  EXPECT_EQ(MemoryBudget::part(parts[0], 100)->limit(), 100u);
  EXPECT_EQ(MemoryBudget::part(parts[0], 1000)->limit(), 250u);
  parts.erase(parts.begin());
  const std::size_t left = 1000 - whole->used();
  EXPECT_EQ(MemoryBudget::part(whole, 900)->limit(), left / 2);
  parts.clear();
  EXPECT_EQ(whole->used(), 0u);
  // A limit that was lowered under what is taken leaves nothing, and breaks nothing.
  const auto part = MemoryBudget::part(whole, 400);
  whole->setLimit(100);
  EXPECT_EQ(MemoryBudget::part(whole, 50)->limit(), 0u);
  EXPECT_EQ(whole->room(), 0u);
}

/// A feed may go while others take parts of its budget.
TEST(FrameFeed, GoesWhilePartsAreTaken) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mp4", 20, {64, 48}, "-c:v libx264 -g 10");
  const auto footage = test::openFootage(folder / "a.mp4");
  const auto budget = std::make_shared<MemoryBudget>(footage->shape().bytes() * 20);
  std::atomic<bool> over = false;
  {
    std::jthread taker([&] {
      while (!over) MemoryBudget::part(budget, footage->shape().bytes() * 4);
    });
    for (int i = 0; i < 30; ++i) {
      FrameFeed feed(footage, budget, 1);
      ASSERT_TRUE(feed.fetch(std::vector<std::int32_t>{i % 20}, 1, Layout::Rows, {}));
    }
    over = true;
  }
  EXPECT_EQ(budget->used(), 0u);
}

}  // namespace
}  // namespace molten

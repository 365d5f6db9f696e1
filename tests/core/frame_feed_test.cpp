// Frames under a budget, for many askers, forwards and backwards.
#include "core/engine/frame_feed.h"

#include <atomic>
#include <random>

#include "support/clips.h"

namespace molten {
namespace {

using test::TempFolder;

TEST(FrameFeed, FetchIsCalledOffAtOnce) {
  const TempFolder folder;
  test::makeNoiseClip(folder / "a.mkv", 120, {320, 240}, "yuv420p");
  const auto footage = test::openFootage(folder / "a.mkv");
  FrameFeed feed(footage, std::size_t(1) << 30, 1);
  std::vector<std::int32_t> all;
  for (int n = 0; n < 120; ++n) all.push_back(n);
  std::stop_source stop;
  std::jthread other([&] { stop.request_stop(); });
  const auto table = feed.fetch(all, 1, Layout::Rows, stop.get_token());
  // Either it came first, or it is called off: never half a table.
  EXPECT_TRUE(table ? table->size() == 120 : table.error().cancelled);
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
          if (random() % 8 == 0) feed.expect({first + 1, first + 3}, 1, Layout::Rows);
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
  feed.expect({10, 11, 12}, 1, Layout::Blocks);
  for (int i = 0; i < 500 && feed.decoded() < 13; ++i) std::this_thread::sleep_for(std::chrono::milliseconds(10));
  const auto before = feed.decoded();
  ASSERT_GE(before, 3u);
  ASSERT_TRUE(feed.fetch(std::vector<std::int32_t>{10, 11, 12}, 1, Layout::Blocks, {}));
  EXPECT_EQ(feed.decoded(), before);
  // More than fits is not begun: what is held stays within the budget.
  std::vector<std::int32_t> all(60);
  for (int n = 0; n < 60; ++n) all[static_cast<std::size_t>(n)] = n;
  feed.expect(all, 1, Layout::Rows);
  std::this_thread::sleep_for(std::chrono::milliseconds(300));
  EXPECT_LE(feed.budget()->used(), feed.budget()->limit());
  feed.setBudget(footage->shape().bytes() * 4);
  EXPECT_LE(feed.budget()->used(), feed.budget()->limit());
}

}  // namespace
}  // namespace molten

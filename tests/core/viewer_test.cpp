// Pictures for the screen: the newest request, or one after another by a clock.
#include "core/engine/viewer.h"

#include <algorithm>
#include <atomic>
#include <random>

#include "core/picture/brightness.h"
#include "core/project/piece.h"
#include "support/clips.h"

namespace molten {
namespace {

using test::TempFolder;
using namespace std::chrono_literals;

/// What a viewer delivered, from its own thread.
class Delivered {
 public:
  std::function<void(Result<Shown>)> sink() {
    return [this](Result<Shown> result) {
      // What comes first of a jump is of the same frame as the picture that follows.
      if (result && result->roughly) return;
      const std::scoped_lock lock(mutex_);
      if (result)
        shown_.push_back(result->view);
      else
        sentences_.push_back(result.error().message);
    };
  }
  std::vector<View> shown() {
    const std::scoped_lock lock(mutex_);
    return shown_;
  }
  std::vector<std::string> sentences() {
    const std::scoped_lock lock(mutex_);
    return sentences_;
  }

 private:
  std::mutex mutex_;
  std::vector<View> shown_;
  std::vector<std::string> sentences_;
};

/// Looked at often; how long it takes decides nothing.
template <class Condition>
bool until(Condition condition) {
  for (int i = 0; i < 10'000; ++i) {
    if (condition()) return true;
    std::this_thread::sleep_for(1ms);
  }
  return false;
}

class ViewerTest : public ::testing::Test {
 protected:
  ViewerTest() {
    test::makeNumberedClip(folder / "a.mp4", 60, {128, 96}, "-c:v libx264 -g 20 -bf 2");
    footage = test::openFootage(folder / "a.mp4");
    feed = std::make_shared<FrameFeed>(footage, std::size_t(1) << 26, 1);
    viewer = std::make_unique<Viewer>(std::make_shared<Sources>(feed, 2), 2, delivered.sink());
  }

  TempFolder folder;
  std::shared_ptr<const Footage> footage;
  std::shared_ptr<FrameFeed> feed;
  Delivered delivered;
  std::unique_ptr<Viewer> viewer;
};

TEST_F(ViewerTest, TheNewestRequestIsAlwaysAnswered) {
  for (std::int64_t n = 0; n < 50; ++n) viewer->show({{}, n, {128, 96}, pieceOf(Chain{}, {}, footage->video())});
  ASSERT_TRUE(until([&] { return !delivered.shown().empty() && delivered.shown().back().frame == 49; }));
  // Those that were overtaken before they began are not made.
  EXPECT_LT(delivered.shown().size(), 30u);
  const auto shown = delivered.shown();
  for (std::size_t i = 1; i < shown.size(); ++i) EXPECT_GT(shown[i].frame, shown[i - 1].frame);
}

/// However late pictures are taken: never out of the span, onwards until it comes round, and round again.
TEST_F(ViewerTest, PlaysInOrderRoundTheSpan) {
  const auto begun = Viewer::Clock::now();
  viewer->play({{}, 10, {128, 96}, pieceOf(Chain{}, {}, footage->video())}, {10, 19}, true, 1);
  std::vector<std::int64_t> seen;
  int rounds = 0;
  ASSERT_TRUE(until([&] {
    if (auto due = viewer->takeDue()) {
      if (!seen.empty() && due->view.frame <= seen.back()) ++rounds;
      seen.push_back(due->view.frame);
    }
    return rounds >= 3;
  }));
  // Not faster than the clock: two whole rounds at least lie between the first and the third turn.
  EXPECT_GE(Viewer::Clock::now() - begun, 2 * 333ms);
  EXPECT_TRUE(viewer->playing());
  viewer->halt();
  for (const std::int64_t frame : seen) {
    EXPECT_GE(frame, 10);
    EXPECT_LE(frame, 19);
  }
  EXPECT_FALSE(viewer->takeDue());
}

TEST_F(ViewerTest, PlaysBackwardsOnceAndEnds) {
  viewer->play({{}, 15, {128, 96}, pieceOf(Chain{}, {}, footage->video())}, {5, 15}, false, -0.2);
  std::vector<std::int64_t> seen;
  while (viewer->playing()) {
    if (auto due = viewer->takeDue()) seen.push_back(due->view.frame);
    std::this_thread::sleep_for(2ms);
  }
  ASSERT_FALSE(seen.empty());
  for (std::size_t i = 1; i < seen.size(); ++i) EXPECT_LT(seen[i], seen[i - 1]);
  EXPECT_GE(seen.back(), 5);
}

TEST_F(ViewerTest, AChangedChainIsSeenWhilePlaying) {
  View view{{}, 0, {128, 96}, pieceOf(Chain{}, {}, footage->video())};
  viewer->play(view, {0, 59}, true, 1);
  ASSERT_TRUE(until([&] { return viewer->takeDue().has_value(); }));
  view.chain = {*parseStage("time-field:back=0.2s", 30)};
  viewer->change(view, {0, 59});
  // The two that were due next bridge the time until the first new one; nothing else of the other chain is shown.
  std::vector<Shown> seen;
  ASSERT_TRUE(until([&] {
    if (auto due = viewer->takeDue()) seen.push_back(std::move(*due));
    return !seen.empty() && seen.back().view.chain == view.chain;
  }));
  EXPECT_LE(seen.size(), 3u);
  for (std::size_t i = 1; i < seen.size(); ++i) EXPECT_GT(seen[i].view.frame, seen[i - 1].view.frame);
}

/// A run that begins in the middle of a long group, where hundreds of frames are read that nobody has decoded yet: something
/// moves meanwhile, and says what it is; then come the pictures themselves.
TEST_F(ViewerTest, ARunDoesNotStandStillForItsFrames) {
  test::makeNumberedClip(folder / "long.mp4", 300, {640, 480}, "-c:v libx264 -preset ultrafast -g 300 -sc_threshold 0");
  const auto clip = test::openFootage(folder / "long.mp4");
  const auto frames = std::make_shared<FrameFeed>(clip, std::size_t(1) << 28, 1);
  viewer = std::make_unique<Viewer>(std::make_shared<Sources>(frames, 1), 1, delivered.sink());
  const Chain chain{*parseStage("time-field:back=9s", 30)};
  const View view{chain, 280, {640, 480}, pieceOf(chain, {}, clip->video())};
  viewer->play(view, {270, 299}, true, 1);
  std::vector<Shown> seen;
  ASSERT_TRUE(until([&] {
    if (auto due = viewer->takeDue()) seen.push_back(std::move(*due));
    return !seen.empty() && !seen.back().roughly;
  }));
  EXPECT_TRUE(seen.front().roughly);
  EXPECT_LT(frames->decoded(), 400u);
  viewer->halt();
  // What is shown in the end is the picture itself.
  Evaluator evaluator(frames, 1);
  const Shown& right = seen.back();
  const auto plan = evaluator.plan(chain, {right.scale, InBetween::Whole, 30});
  const auto picture = evaluator.picture(plan, view.piece.moment(right.view.frame), {});
  ASSERT_TRUE(picture);
  Converter converter;
  const auto image = toScreen(converter, *picture, {640, 480}, Scaling::Bicubic);
  ASSERT_TRUE(image);
  EXPECT_EQ(image->pixels, right.image.pixels);
}

/// A jump into the middle of a long group shows something first, and says so; then the frame itself. A newer request does
/// not wait for that.
TEST_F(ViewerTest, AJumpShowsSomethingFirst) {
  test::makeNumberedClip(folder / "long.mp4", 240, {128, 96}, "-c:v libx264 -g 240 -sc_threshold 0 -bf 2");
  const auto clip = test::openFootage(folder / "long.mp4");
  std::mutex mutex;
  std::vector<std::pair<std::int64_t, bool>> all;
  Viewer jumping(std::make_shared<Sources>(std::make_shared<FrameFeed>(clip, clip->shape().bytes() * 20, 1), 2), 2,
                 [&](Result<Shown> result) {
                   const std::scoped_lock lock(mutex);
                   ASSERT_TRUE(result);
                   all.emplace_back(result->view.frame, result->roughly);
                 });
  const Piece piece = pieceOf(Chain{}, {}, clip->video());
  const auto came = [&](std::int64_t frame) {
    return until([&] {
      const std::scoped_lock lock(mutex);
      return !all.empty() && all.back() == std::pair(frame, false);
    });
  };
  for (const char* const chain : {"time-field:back=0.1s", "echoes:repeats=3,spacing=1f", "shutter:built-from=motion,moments=4"}) {
    View view{{*parseStage(chain, 30)}, 200, {128, 96}, piece};
    jumping.show(view);
    ASSERT_TRUE(came(200)) << chain;
    for (const std::int64_t n : {150, 40, 230}) {
      view.frame = n;
      jumping.show(view);
    }
    ASSERT_TRUE(came(230)) << chain;
    view.frame = 3;
    jumping.show(view);
    ASSERT_TRUE(came(3)) << chain;
    const std::scoped_lock lock(mutex);
    EXPECT_EQ(all.front(), std::pair(std::int64_t(200), true)) << chain;
    all.clear();
  }
}

/// However many follow each other: the last one's sides are told, of the picture that is shown; and none while it plays.
TEST_F(ViewerTest, WhatIsAskedOfAStageComesOnceTheHandIsStill) {
  std::mutex mutex;
  std::vector<Shown> all;
  Viewer told(std::make_shared<Sources>(feed, 2), 2, [&](Result<Shown> result) {
    const std::scoped_lock lock(mutex);
    ASSERT_TRUE(result);
    all.push_back(std::move(*result));
  });
  const Chain chain{*parseStage("time-field:back=0.2s", 30), *parseStage("finish:exposure=1", 30),
                    *parseStage("finish:saturation=50%", 30)};
  const Piece piece = pieceOf(chain, {}, footage->video());
  const auto viewAt = [&](std::int64_t n) {
    View view{chain, n, {128, 96}, piece};
    view.sides = SidesOf{1, piece.moment(n), piece.moment(n), {64, 64}, true};
    return view;
  };
  for (std::int64_t n = 0; n < 20; ++n) told.show(viewAt(n));
  ASSERT_TRUE(until([&] {
    const std::scoped_lock lock(mutex);
    return !all.empty() && all.back().view == viewAt(19) && all.back().sides;
  }));
  {
    const std::scoped_lock lock(mutex);
    Evaluator evaluator(feed, 2);
    const auto brightnessAfter = [&](std::size_t stages) {
      const Chain part(chain.begin(), chain.begin() + static_cast<std::ptrdiff_t>(stages));
      return brightnessOf(*evaluator.picture(evaluator.plan(part, {1, InBetween::Whole, 30}), piece.moment(19), {}));
    };
    EXPECT_EQ(all.back().sides->before, brightnessAfter(1));
    EXPECT_EQ(all.back().sides->after, brightnessAfter(2));
    EXPECT_EQ(all.back().sides->entering.size, (Size{64, 48}));
    // The picture does not wait for them: it came before.
    const auto without = std::find_if(all.begin(), all.end(), [&](const Shown& shown) {
      return shown.view == viewAt(19) && !shown.sides;
    });
    EXPECT_NE(without, all.end());
    all.clear();
  }
  told.play(viewAt(19), {0, 59}, true, 1);
  std::optional<Shown> due;
  ASSERT_TRUE(until([&] { return (due = told.takeDue()).has_value(); }));
  EXPECT_FALSE(due->sides);
}

TEST_F(ViewerTest, AShorterPieceIsGoneRoundInFromWhereItIs) {
  const Chain slow{*parseStage("pace:spans=4s@50%", 30)}, quick{*parseStage("pace:spans=1s@200%", 30)};
  View view{slow, 0, {128, 96}, pieceOf(slow, {}, footage->video())};
  // Two frames a second, so that the machine's own pace does not matter.
  viewer->play(view, {0, 119}, true, 2.0 / 30);
  std::int64_t last = 0;
  ASSERT_TRUE(until([&] {
    if (auto due = viewer->takeDue()) last = due->view.frame;
    return last >= 4;
  }));
  view.chain = quick;
  view.piece = pieceOf(quick, {}, footage->video());
  viewer->change(view, {0, 7});
  std::vector<std::int64_t> seen;
  ASSERT_TRUE(until([&] {
    if (auto due = viewer->takeDue(); due && due->view.chain == quick) seen.push_back(due->view.frame);
    return seen.size() > 1 && seen.back() < seen[seen.size() - 2];
  }));
  // On from the frame that it was at (two that were ready may come between), and round at the new end.
  EXPECT_GE(seen.front(), last);
  EXPECT_LE(seen.front(), last + 3);
  EXPECT_LE(*std::max_element(seen.begin(), seen.end()), 7);
}

TEST_F(ViewerTest, AReachBeyondTheBudgetIsShownSmallerAndSaidSo) {
  feed->setBudget(footage->shape().bytes() * 12);
  const Chain chain{*parseStage("time-field:back=1s", 30)};
  std::atomic<bool> smaller = false;
  std::atomic<int> scale = 0;
  viewer = std::make_unique<Viewer>(std::make_shared<Sources>(feed, 1), 1, [&](Result<Shown> shown) {
    if (!shown || shown->roughly) return;
    smaller = shown->forMemory;
    scale = shown->scale;
  });
  viewer->show({chain, 40, {128, 96}, pieceOf(chain, {}, footage->video())});
  ASSERT_TRUE(until([&] { return scale > 0; }));
  EXPECT_TRUE(smaller);
  EXPECT_GT(scale, 1);
  EXPECT_LE(feed->budget()->used(), feed->budget()->limit());
}

TEST_F(ViewerTest, SmallScreensAreServedAtASmallScale) {
  std::atomic<int> scale = 0;
  std::atomic<int> width = 0;
  viewer = std::make_unique<Viewer>(std::make_shared<Sources>(feed, 1), 1, [&](Result<Shown> shown) {
    width = shown->image.size.width;
    scale = shown->scale;
  });
  viewer->show({{}, 3, {40, 30}, pieceOf(Chain{}, {}, footage->video())});
  // What the clip is filled in at may be seen before.
  ASSERT_TRUE(until([&] { return scale == 2; }));
  EXPECT_EQ(width, 40);
}

/// Between three quarters of the screen's pixels and all of them: while the hand moves that will do, and what stands
/// still is sharp without being asked for again.
TEST_F(ViewerTest, WhatMovesNeedNotHaveEveryPixelAndWhatStandsHas) {
  std::mutex mutex;
  std::vector<std::pair<std::int64_t, int>> seen;  // frame, scale
  viewer = std::make_unique<Viewer>(std::make_shared<Sources>(feed, 1), 1, [&](Result<Shown> shown) {
    const std::scoped_lock lock(mutex);
    ASSERT_TRUE(shown);
    EXPECT_EQ(shown->image.size, (Size{80, 60}));
    seen.emplace_back(shown->view.frame, shown->scale);
  });
  const auto last = [&] {
    const std::scoped_lock lock(mutex);
    return seen.empty() ? std::pair<std::int64_t, int>{-1, 0} : seen.back();
  };
  const auto show = [&](std::int64_t frame) {
    viewer->show({{}, frame, {80, 60}, pieceOf(Chain{}, {}, footage->video())});
    return until([&] { return last().first == frame; });
  };
  ASSERT_TRUE(show(3));
  ASSERT_TRUE(until([&] { return last() == std::pair<std::int64_t, int>(3, 1); }));
  for (const std::int64_t frame : {9, 4, 7}) ASSERT_TRUE(show(frame));
  ASSERT_TRUE(until([&] { return last() == std::pair<std::int64_t, int>(7, 1); }));
  {
    const std::scoped_lock lock(mutex);
    EXPECT_NE(std::find(seen.begin(), seen.end(), std::pair<std::int64_t, int>(4, 2)), seen.end());
  }
  viewer.reset();
}

/// Requests of every kind from two threads, and the end in the middle of it: for the thread sanitizer.
TEST_F(ViewerTest, SurvivesAnyMixtureOfRequests) {
  const auto bother = [&](unsigned seed) {
    std::mt19937 random(seed);
    for (int i = 0; i < 400; ++i) {
      const std::int64_t frame = random() % 60;
      View view{{}, frame, {64 + static_cast<int>(random() % 64), 48}, pieceOf(Chain{}, {}, footage->video())};
      if (random() % 2) view.chain = {*parseStage("time-field:back=0.3s", 30)};
      switch (random() % 6) {
        case 0:
          viewer->play(view, {0, 59}, random() % 2 == 0, random() % 2 ? 2 : -1);
          break;
        case 1:
          viewer->halt();
          break;
        case 2:
          viewer->change(view, {0, 59});
          break;
        case 3:
          viewer->takeDue();
          break;
        default:
          viewer->show(view);
      }
      if (random() % 2) std::this_thread::sleep_for(std::chrono::microseconds(random() % 3000));
    }
  };
  {
    std::jthread one(bother, 1), two(bother, 2);
  }
  EXPECT_TRUE(delivered.sentences().empty());
  const Chain chain{*parseStage("time-field:back=0.3s", 30)};
  viewer->play({chain, 0, {128, 96}, pieceOf(chain, {}, footage->video())}, {0, 59}, true, 8);
  viewer.reset();
}

/// The clip is gone through in the background; then a frame that is not there in full is seen small at once, and sharp
/// without being asked for again.
TEST_F(ViewerTest, FramesAreSeenSmallFirstAndThenSharp) {
  test::makeNumberedClip(folder / "b.mp4", 200, {512, 384}, "-c:v libx264 -g 100");
  footage = test::openFootage(folder / "b.mp4");
  // Room for the whole clip at a quarter of the size, not for more.
  feed = std::make_shared<FrameFeed>(footage, footage->shape().bytes() * 40, 1);
  std::mutex mutex;
  std::vector<std::pair<std::int64_t, int>> seen;  // frame, scale
  viewer = std::make_unique<Viewer>(std::make_shared<Sources>(feed, 1), 1, [&](Result<Shown> shown) {
    const std::scoped_lock lock(mutex);
    if (shown) seen.emplace_back(shown->view.frame, shown->scale);
  });
  viewer->show({{}, 0, {512, 384}, pieceOf(Chain{}, {}, footage->video())});
  ASSERT_TRUE(until([&] { return feed->filled() == 1; }));
  EXPECT_EQ(feed->fillScale(), 4);
  EXPECT_LE(feed->budget()->used(), feed->budget()->limit());
  const auto decodedBefore = feed->decoded();
  viewer->show({{}, 170, {512, 384}, pieceOf(Chain{}, {}, footage->video())});
  const auto scalesSeen = [&] {
    const std::scoped_lock lock(mutex);
    std::vector<int> scales;
    for (const auto& [frame, scale] : seen)
      if (frame == 170) scales.push_back(scale);
    return scales;
  };
  ASSERT_TRUE(until([&] { return !scalesSeen().empty() && scalesSeen().back() == 1; }));
  EXPECT_EQ(scalesSeen().front(), 4);
  EXPECT_GT(feed->decoded(), decodedBefore);
  viewer.reset();
}

TEST_F(ViewerTest, FootageThatVanishesIsSaid) {
  std::filesystem::remove(folder / "a.mp4");
  viewer->show({{}, 30, {128, 96}, pieceOf(Chain{}, {}, footage->video())});
  ASSERT_TRUE(until([&] { return !delivered.sentences().empty(); }));
  EXPECT_NE(delivered.sentences()[0].find("There is no file a.mp4"), std::string::npos);
}

}  // namespace
}  // namespace molten

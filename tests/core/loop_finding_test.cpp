// How well a loop closes, and the loop that closes best: against plain means over whole frames.
#include <cstdlib>

#include "core/engine/seam.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

/// Gray frames as small as those that are looked at, so that nothing is averaged on the way.
class LoopFinding : public ::testing::Test {
 protected:
  static constexpr Size size{96, 54};
  using Sample = std::function<int(int frame, int x, int y)>;

  MeasuredFootage clip(int frames, const Sample& sample) {
    test::makeGrayClip(folder / "a.mkv", frames, size, sample);
    from_ = {std::make_shared<Sources>(std::make_shared<FrameFeed>(test::openFootage(folder / "a.mkv"), std::size_t(256) << 20, 1), 1),
             InBetween::Whole};
    return from_;
  }
  /// Mean difference of two frames, as a part of the range.
  static double apart(const Sample& sample, int a, int b) {
    double sum = 0;
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x) sum += std::abs(sample(a, x, y) - sample(b, x, y)) / 255.0;
    return sum / (size.width * size.height);
  }
  static Chain loopOf(const std::string& text) { return {*parseStage("loop:" + text, 25)}; }

  TempFolder folder;
  MeasuredFootage from_;
};

/// A pattern that goes evenly round and is back where it was after 20 frames.
int turning(int frame, int x, int y) {
  return (x * 5 + y * 3 + frame * 64 / 5) % 256;
}
/// No frame is like another.
int noise(int frame, int x, int y) {
  auto h = static_cast<unsigned>(frame * 7919 + x * 104729 + y * 1299709);
  h ^= h >> 13, h *= 0x5bd1e995, h ^= h >> 15;
  return static_cast<int>(h % 256);
}

TEST_F(LoopFinding, ASeamIsTheMeanDifferenceOfItsFrames) {
  for (const Sample& sample : {Sample(turning), Sample(noise)}) {
    const auto from = clip(40, sample);
    for (const auto& [text, first, last] : {std::tuple{"way=round", 0, 39},
                                            {"way=round,skip-start=5f,skip-end=3f", 5, 36},
                                            {"way=round,skip-start=8f,skip-end=12f", 8, 27}}) {
      const auto seam = measureSeam(from, loopOf(text), {});
      ASSERT_TRUE(seam) << text;
      EXPECT_NEAR(seam->across, apart(sample, last, first), 1e-5) << text;
      EXPECT_NEAR(seam->neighbours, (apart(sample, last - 1, last) + apart(sample, first, first + 1)) / 2, 1e-5)
          << text;
    }
  }
  // Back where it was after 20 frames: a round of 20 has no seam at all.
  const auto none = measureSeam(clip(40, turning), loopOf("way=round,skip-end=20f"), {});
  EXPECT_NEAR(none->times(), 1, 0.05);
}

TEST_F(LoopFinding, StillPicturesHaveNoSeam) {
  const auto still = measureSeam(clip(10, [](int, int x, int) { return x; }), loopOf("way=round"), {});
  ASSERT_TRUE(still);
  EXPECT_EQ(still->across, 0);
  EXPECT_LE(still->times(), 1);
}

/// Every round near the present one is tried; the best of them is the one that is found.
TEST_F(LoopFinding, TheBestRoundOfAllIsFound) {
  // Noise, with frames 10 and 33 alike, as well as those beside them.
  const Sample planted = [](int frame, int x, int y) {
    const bool copy = frame >= 31 && frame <= 34;
    return (noise(copy ? frame - 22 : frame, x, y) + (copy ? 2 : 0)) % 256;
  };
  for (const Sample& sample : {Sample(planted), Sample(turning), Sample(noise)}) {
    const auto from = clip(48, sample);
    const auto found = findLoop(from, loopOf("way=round,skip-start=6f,skip-end=10f"), 0, {});
    ASSERT_TRUE(found) << found.error().message;
    const auto closing = [&](int first, int last) {
      return (apart(sample, last + 1, first) + apart(sample, last, first - 1)) / 2;
    };
    EXPECT_NEAR(found->present, closing(6, 37), 1e-5);
    // The ends are looked for within a quarter of the round.
    double best = 1e9;
    for (int first = 1; first <= 6 + 8; ++first)
      for (int last = 37 - 8; last <= std::min(46, 37 + 8); ++last)
        if (last - first >= 3) best = std::min(best, closing(first, last));
    EXPECT_NEAR(found->difference, best, 1e-5);
    EXPECT_NEAR(closing(static_cast<int>(found->round.first), static_cast<int>(found->round.last)), best, 1e-5);
  }
  const auto found = findLoop(clip(48, planted), loopOf("way=round,skip-start=6f,skip-end=10f"), 0, {});
  EXPECT_TRUE(found->round.first >= 10 && found->round.first <= 12) << found->round.first;
  EXPECT_EQ(found->round.last, found->round.first + 21);
}

/// What is found is what the Loop then does: its values give that round.
TEST_F(LoopFinding, TheFoundRoundIsTheLoops) {
  const auto from = clip(48, turning);
  const Chain chain = loopOf("way=round,skip-end=3f");
  const auto found = findLoop(from, chain, 0, {});
  ASSERT_TRUE(found);
  Chain changed = chain;
  changed[0].values = chain[0].kind->withRound(chain[0].values, found->round, from.footage()->video());
  const auto round = chain[0].kind->round(changed[0].values, from.footage()->video());
  ASSERT_TRUE(round);
  EXPECT_EQ(round->first, found->round.first);
  EXPECT_EQ(round->last, found->round.last);
  const auto seam = measureSeam(from, changed, {});
  EXPECT_NEAR(seam->across, apart(turning, static_cast<int>(found->round.last), static_cast<int>(found->round.first)),
              1e-5);
  EXPECT_LE(seam->times(), 1.05);
}

/// What stands before the Loop is looked at, not the footage as it is.
TEST_F(LoopFinding, StagesBeforeItAreHeeded) {
  const auto from = clip(60, turning);
  Chain chain{*parseStage("pace:spans=1.2s@200%", 25)};
  chain.push_back(loopOf("way=round")[0]);
  const auto seam = measureSeam(from, chain, {});
  ASSERT_TRUE(seam);
  EXPECT_NEAR(seam->neighbours, (apart(turning, 0, 2) + apart(turning, 56, 58)) / 2, 1e-5)
      << "each picture is two frames on";
  const auto found = findLoop(from, chain, 1, {});
  ASSERT_TRUE(found);
  // Twice as fast it is round after ten pictures.
  EXPECT_EQ((found->round.last + 1 - found->round.first) % 10, 0);
}

TEST_F(LoopFinding, BordersAreMeasuredWhereAStageMakesThem) {
  // Each frame is of one brightness: across a border between two moments everything differs alike.
  const auto from = clip(40, [](int frame, int, int) { return frame * 5; });
  EXPECT_FALSE(*measureContrast(from, {*parseStage("time-field:back=0.2s", 25)}, {}));
  EXPECT_FALSE(*measureContrast(from, loopOf("way=round"), {}));
  const auto strips = measureContrast(from, {*parseStage("strips:stagger=4f", 25)}, {});
  ASSERT_TRUE(strips);
  ASSERT_TRUE(*strips) << "strips have borders";
  EXPECT_GT(**strips, 0.01);
  const auto none = measureContrast(from, {*parseStage("strips:stagger=0f", 25)}, {});
  ASSERT_TRUE(none && *none);
  EXPECT_EQ(**none, 0) << "strips of one moment differ by nothing";
}

TEST_F(LoopFinding, ClipsThatAreTooShortAreSaid) {
  for (int frames = 1; frames <= 6; ++frames) {
    const auto from = clip(frames, turning);
    const auto seam = measureSeam(from, loopOf("way=round"), {});
    EXPECT_EQ(static_cast<bool>(seam), frames >= 4) << frames;
    if (!seam) {
      EXPECT_NE(seam.error().message.find("fewer than four"), std::string::npos);
    }
    const auto found = findLoop(from, loopOf("way=round"), 0, {});
    if (found) {
      EXPECT_GE(found->round.first, 1);
      EXPECT_LE(found->round.last, frames - 2);
    } else {
      EXPECT_NE(found.error().message.find("too short"), std::string::npos) << found.error().message;
    }
  }
}

TEST_F(LoopFinding, IsCalledOff) {
  const auto from = clip(40, turning);
  std::stop_source stop;
  stop.request_stop();
  for (const bool cancelled : {findLoop(from, loopOf("way=round"), 0, stop.get_token()).error().cancelled,
                               measureSeam(from, loopOf("way=round"), stop.get_token()).error().cancelled,
                               measureContrast(from, {*parseStage("strips", 25)}, stop.get_token()).error().cancelled})
    EXPECT_TRUE(cancelled);
}

}  // namespace
}  // namespace molten

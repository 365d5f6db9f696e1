// What looks at motion before it mixes: echoes of only what moves, a shutter that counts its moments by itself.
#include <cmath>

#include "core/engine/evaluator.h"
#include "core/engine/source_material.h"
#include "core/project/project.h"
#include "core/stages/mixing.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

/// Gray pictures whose samples are given by frame and place.
template <class Sample>
std::shared_ptr<const Footage> footageOf(const TempFolder& folder, Size size, int frames, Sample sample) {
  test::makeGrayClip(folder / "made.mkv", frames, size, sample);
  return test::openFootage(folder / "made.mkv");
}

int rough(int x, int y) {
  return 40 + (x * 37 + y * 91 + x * y) % 23;
}

/// A bright square of eight crosses a still wall: its repeats are seen, the wall is the wall to the bit, however many
/// repeats there are and however they are mixed.
TEST(OnlyWhatMoves, LeavesAStillBackgroundAsItIs) {
  const TempFolder folder;
  const auto inSquare = [](int n, int x, int y) { return x >= 8 * n && x < 8 * n + 8 && y >= 24 && y < 32; };
  const auto footage =
      footageOf(folder, {200, 60}, 24, [&](int n, int x, int y) { return inSquare(n, x, y) ? 220 : rough(x, y); });
  Evaluator evaluator(std::make_shared<FrameFeed>(footage, std::size_t(1) << 27, 1), 2);
  for (const int repeats : {4, 16})
    for (const char* const mix : {"mix=light,below-white=on", "mix=light,below-white=off", "mix=wins",
                                  "mix=wins,winner=darkest", "mix=layers,top=newest", "mix=layers,top=oldest"}) {
      const std::string text =
          "echoes:only-what-moves=on,spacing=1f,nearest=60%,farthest=30%,where-moments-are-missing=leave-out,repeats=" +
          std::to_string(repeats) + "," + mix;
      const Chain chain{*parseStage(text, footage->video().rate)};
      const auto made = evaluator.picture(evaluator.plan(chain, {}), {20}, {});
      ASSERT_TRUE(made) << made.error().message;
      for (int y = 0; y < 60; ++y)
        for (int x = 0; x < 200; ++x) {
          // Within a pixel of where the square has been, the mask is soft.
          bool near = false;
          for (int n = 20 - repeats; n <= 20; ++n)
            for (const int dx : {-1, 0, 1})
              for (const int dy : {-1, 0, 1}) near |= inSquare(n, x + dx, y + dy);
          if (!near) {
            ASSERT_EQ(test::sampleAt(*made, 0, x, y), static_cast<unsigned>(rough(x, y)))
                << text << " at " << x << ", " << y;
          }
        }
      // The square is brighter than the wall: where the darkest wins, nothing of it stays but where it is now.
      const unsigned repeat = test::sampleAt(*made, 0, 8 * 19 + 4, 28),
                     wall = static_cast<unsigned>(rough(8 * 19 + 4, 28));
      if (std::string(mix) == "mix=wins,winner=darkest") continue;
      EXPECT_GT(repeat, wall + 50) << text << ": the nearest repeat is seen";
      EXPECT_GE(test::sampleAt(*made, 0, 8 * 20 + 4, 28), 215u) << text << ": so is the present";
    }
}

/// Everything moves by so many pixels a frame, half of which the shutter is open: a moment for every two pixels.
TEST(Shutter, CountsItsMomentsByTheMotionThatThereIs) {
  for (const int speed : {0, 2, 12, 24}) {
    const TempFolder folder;
    const auto wave = [](double x, double y) {
      return 128 + 60 * std::sin(x / 11 + std::sin(y / 17)) + 40 * std::sin(y / 9 - x / 31);
    };
    const auto footage = footageOf(folder, {320, 180}, 6, [&](int n, int x, int y) { return wave(x - n * speed, y); });
    const auto material = test::sourceMaterial(footage, 2);
    const auto count = [&](const char* text) {
      const Stage stage = *parseStage(text, footage->video().rate);
      const auto map = stage.kind->timeMap(
          stage, footage->video(),
          {std::make_shared<MaterialAt>(material, PlanSettings{}), std::make_shared<const Chain>()});
      return map->mixing()->sources({3}).size();
    };
    EXPECT_NEAR(static_cast<double>(count("shutter:open=50%")), std::max(2.0, speed / 4.0), 1 + speed / 24.0) << speed;
    EXPECT_NEAR(static_cast<double>(count("shutter:open=200%")), std::max(2.0, static_cast<double>(speed)),
                2 + speed / 8.0)
        << speed;
    EXPECT_EQ(count("shutter:moments=7"), 7u);
  }
}

}  // namespace
}  // namespace molten

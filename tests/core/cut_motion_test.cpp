// How both shots move at a cut, and where near by they move alike.
#include <gtest/gtest.h>

#include <cmath>

#include "core/engine/cut_motion.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

class CutMotion : public ::testing::Test {
 protected:
  /// Waves of 160 × 90 that have moved so many pixels at each frame, at 25 a second.
  std::shared_ptr<const Footage> moving(const char* name, int frames, const std::function<double(int)>& right, const std::function<double(int)>& down) {
    test::makeGrayClip(folder / name, frames, {160, 90}, [&](int frame, int x, int y) {
      const double u = x - right(frame), v = y - down(frame);
      return 128 + static_cast<int>(50 * std::sin(u * 0.19) * std::cos(v * 0.23) + 40 * std::sin((u + v) * 0.07));
    });
    return test::openFootage(folder / name);
  }
  static CutSide side(const std::shared_ptr<const Footage>& footage, std::int64_t picture, const std::vector<std::string>& chain = {}) {
    CutSide made;
    made.footage = footage;
    made.chain = chainOf(chain);
    made.rate = 25;
    made.picture = picture;
    made.most = footage->clock().frameCount() - 1;
    return made;
  }
  test::TempFolder folder;
};

TEST_F(CutMotion, ItIsMeasuredInHeightsASecond) {
  const auto footage = moving("a.mkv", 20, [](int n) { return 1.5 * n; }, [](int n) { return -0.6 * n; });
  const auto motions = motionsAround(side(footage, 10), false, 4, {});
  ASSERT_TRUE(motions) << motions.error().message;
  EXPECT_EQ(motions->least, 6);
  ASSERT_EQ(motions->motions.size(), 9u);
  for (const auto& motion : motions->motions) {
    ASSERT_TRUE(motion);
    EXPECT_NEAR(motion->right, 1.5 * 25 / 90, 0.08);
    EXPECT_NEAR(motion->down, -0.6 * 25 / 90, 0.08);
  }
  // Through a chain it is what that makes of it.
  const auto slower = motionsAround(side(footage, 10, {"pace:spans=1s@50%"}), true, 2, {});
  ASSERT_TRUE(slower);
  const auto back = motionsAround(side(footage, 10, {"pace:from=0.7s,spans=0.7s@-100%"}), true, 2, {});
  ASSERT_TRUE(back);
  EXPECT_NEAR(back->at(10)->right, -1.5 * 25 / 90, 0.1);
}

TEST_F(CutMotion, AtTheEndsOfAClipThereIsLess) {
  const auto footage = moving("a.mkv", 6, [](int n) { return n; }, [](int) { return 0.0; });
  const auto out = motionsAround(side(footage, 1), false, 4, {});
  ASSERT_TRUE(out);
  EXPECT_EQ(out->least, 0);
  EXPECT_FALSE(out->at(0)) << "nothing comes before the first";
  EXPECT_TRUE(out->at(1));
  const auto in = motionsAround(side(footage, 4), true, 4, {});
  ASSERT_TRUE(in);
  EXPECT_EQ(in->motions.size(), 6u);
  EXPECT_TRUE(in->at(4));
  EXPECT_FALSE(in->at(5)) << "nothing comes after the last";
  const auto one = moving("one.mkv", 1, [](int) { return 0.0; }, [](int) { return 0.0; });
  EXPECT_FALSE(motionsAround(side(one, 0), true, 4, {})->at(0));
}

TEST_F(CutMotion, WhereItAgreesBetterIsOffered) {
  // The first moves to the left from frame 12 on; the second to the left until frame 9.
  const auto bend = [](int n, int at) { return n < at ? 1.5 * n : 1.5 * at - 1.5 * (n - at); };
  const auto out = moving("out.mkv", 30, [&](int n) { return bend(n, 12); }, [](int) { return 0.0; });
  const auto in = moving("in.mkv", 30, [&](int n) { return -1.5 * n; }, [](int) { return 0.0; });
  const CutSide a = side(out, 10), b = side(in, 8);
  const CutChoice choice = nearCuts(a, *motionsAround(a, false, 6, {}), b, *motionsAround(b, true, 6, {}));
  ASSERT_TRUE(choice.out && choice.in);
  EXPECT_GT(choice.out->right, 0.2);
  EXPECT_LT(choice.in->right, -0.2);
  EXPECT_GT(choice.now.unlike, 0.9);
  EXPECT_LT(choice.best.unlike, 0.2);
  EXPECT_EQ(choice.best.out, 3) << "the nearest picture that moves to the left";
  EXPECT_EQ(choice.best.in, 0);
  // Where it agrees already nothing is offered.
  const CutSide c = side(in, 20);
  const CutChoice same = nearCuts(c, *motionsAround(c, false, 6, {}), b, *motionsAround(b, true, 6, {}));
  EXPECT_EQ(same.best.out, 0);
  EXPECT_EQ(same.best.in, 0);
}

}  // namespace
}  // namespace molten

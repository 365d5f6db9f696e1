// What stands on the time after a Pace goes along with it.
#include "core/project/follow_pace.h"

#include "core/project/swap.h"
#include "support/stages.h"

namespace molten {
namespace {

PaceSetting even(Rational length) {
  PaceSetting pace;
  pace.spans = {PaceSpan{length, 1}};
  return pace;
}

TEST(FollowPace, WhatComesAfterAFreezeMovesAndWhatIsBeforeStays) {
  const PaceSetting before = even(10), after = freezeHere(before, 4, 2);
  ASSERT_EQ(after.curve().length(), Rational(12));
  const MomentShift shift(before, after);
  EXPECT_EQ(shift.moved(0), Rational(0));
  EXPECT_EQ(shift.moved(3), Rational(3));
  EXPECT_EQ(shift.moved(4), Rational(4));
  EXPECT_EQ(shift.moved(4, true), Rational(6));
  EXPECT_EQ(shift.moved(Rational(41, 10)), Rational(61, 10));
  EXPECT_EQ(shift.moved(10), Rational(12));
  // And back again.
  const MomentShift back(after, before);
  for (const Rational t : {Rational(0), Rational(3), Rational(4), Rational(7), Rational(12)}) EXPECT_EQ(shift.moved(back.moved(t), t > Rational(5)), t) << t.toDouble();
}

/// Random spans, one of them changed: moments before it stay, moments after it keep their distance from the end.
TEST(FollowPace, OnlyWhatChangesItsLengthMovesAnything) {
  std::mt19937 random(4);
  for (int round = 0; round < 500; ++round) {
    PaceSetting before;
    for (unsigned i = 0, count = 1 + random() % 6; i < count; ++i)
      before.spans.push_back({Rational(1 + static_cast<std::int64_t>(random() % 40), 10), Rational(static_cast<std::int64_t>(i % 2 == 0 ? 1 + random() % 3 : 5 + random() % 3), 2)});
    PaceSetting after = before;
    const std::size_t span = random() % before.spans.size();
    after.spans[span].length = Rational(1 + static_cast<std::int64_t>(random() % 60), 10);
    const MomentShift shift(before, after);
    const Rational begin = before.curve().beginOf(span), end = begin + before.spans[span].length, more = after.curve().length() - before.curve().length();
    EXPECT_EQ(shift.moved(begin), begin);
    if (end > begin) {
      EXPECT_EQ(shift.moved(before.curve().length(), true), after.curve().length());
      EXPECT_EQ(shift.moved(end + Rational(1, 100), true) - end - Rational(1, 100), more) << round;
    }
    Rational last = -1;
    for (int i = 0; i <= 50; ++i) {
      const Rational moved = shift.moved(before.curve().length() * Rational(i, 50));
      EXPECT_GE(moved, last) << "time does not turn";
      last = moved;
    }
  }
}

TEST(FollowPace, InAndOutKeysAndStartsFollow) {
  Project project;
  project.chain = chainOf({"pace", "insert:shows=title,starts-at=5s", "framing:zoom=100%@1s+200%@6s~ease"});
  project.in = 30, project.out = 239;  // 1 s to 8 s at 30
  const PaceSetting before = even(10), after = freezeHere(before, 4, 2);
  const Project moved = withMomentsMoved(project, 0, {before, after}, 30);
  EXPECT_EQ(moved.in, 30);
  EXPECT_EQ(moved.out, 299);
  EXPECT_DOUBLE_EQ(valueOf<double>(moved.chain[1], "starts-at"), 7);
  const KeyTrack keys = movementOf(moved.chain[2], parameterIndex(moved.chain[2].kind->description(), "zoom")).keys;
  ASSERT_EQ(keys.size(), 2u);
  EXPECT_EQ(keys[0].at, Rational(1));
  EXPECT_EQ(keys[1].at, Rational(8));
  EXPECT_TRUE(withMomentsMoved(project, 0, {before, before}, 30) == project);
  // What is pressed together to one moment is one key.
  const Project cut = withMomentsMoved(project, 0, {even(10), even(Rational(1, 2))}, 30);
  EXPECT_TRUE(cut.in <= cut.out);
}

TEST(FollowPace, OtherFootageKeepsInAndOutOrSaysSo) {
  Project project;
  project.source.path = "/films/a.mkv";
  project.in = 300, project.out = 546;
  const auto video = [](std::int64_t frames, Rational rate = 30) {
    VideoDescription described;
    described.size = {640, 360};
    described.rate = rate;
    described.length = frames;
    return described;
  };
  for (const Edit& edit : {replaceFootage(project, "/films/b.mkv", "b.mkv"), swapFootage(project, "/films/a.mkv", "/films/b.mkv")}) {
    EXPECT_EQ(edit.after.in, 300);
    EXPECT_EQ(edit.after.out, 546);
    EXPECT_TRUE(misfits(edit.after, 0, video(1000), video(547)).empty());
    const auto shorter = misfits(edit.after, 0, video(1000), video(400));
    ASSERT_EQ(shorter.size(), 1u);
    EXPECT_NE(shorter[0].says.find("In and out are the frames 300 to 546, and the result has 400 now."), std::string::npos) << shorter[0].says;
    ASSERT_TRUE(shorter[0].remedy);
    EXPECT_EQ(shorter[0].remedy->after.in, 300);
    EXPECT_FALSE(shorter[0].remedy->after.out);
    const auto gone = misfits(edit.after, 0, video(1000), video(200));
    ASSERT_EQ(gone.size(), 1u);
    EXPECT_FALSE(gone[0].remedy->after.in);
    const auto faster = misfits(edit.after, 0, video(1000), video(2000, 60));
    ASSERT_EQ(faster.size(), 1u);
    EXPECT_NE(faster[0].says.find("other moments now"), std::string::npos) << faster[0].says;
    EXPECT_EQ(faster[0].remedy->after.in, 300) << "at 30 fps they are where they were";
    EXPECT_EQ(faster[0].remedy->after.output.rate, Rational(30));
  }
}

}  // namespace
}  // namespace molten

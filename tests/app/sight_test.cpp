// Where things stand on the Picture, the Time Chart and the key lanes, and what hands make of a Pace: without a window,
// against what is obvious.
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "app/chart/chart_hand.h"
#include "app/chart/key_sight.h"
#include "app/chart/typed_pace.h"
#include "app/picture/picture_sight.h"
#include "core/stages/time_field.h"

namespace molten::test {
namespace {

PictureSight picture(double paneWidth = 800, double paneHeight = 500) {
  PictureSight sight;
  sight.size = {640, 360};
  sight.pane = {0, 0, paneWidth, paneHeight};
  return sight;
}

TEST(PictureSight, PlacesAndPointsAreEachOther) {
  std::mt19937 random(3);
  std::uniform_real_distribution<> part(0, 1), nearer(0.05, 8);
  for (int i = 0; i < 500; ++i) {
    PictureSight sight = picture(200 + 900 * part(random), 150 + 700 * part(random));
    sight.pixelAspect = i % 3 == 0 ? 1.5 : 1;
    sight.ratio = i % 2 == 0 ? 2 : 1;
    if (i % 4) sight.zoom = nearer(random), sight.centre = {part(random), part(random)};
    const Place place{part(random), part(random)};
    const Place back = sight.placeAt(sight.toWidget(place));
    EXPECT_NEAR(back.x, place.x, 1e-9);
    EXPECT_NEAR(back.y, place.y, 1e-9);
    EXPECT_NEAR(sight.target().width() / sight.target().height(), 640 * sight.pixelAspect / 360, 1e-9);
  }
}

TEST(PictureSight, FittedAllOfItIsInSight) {
  for (const auto& [width, height] : {std::pair{800., 500.}, {300., 900.}, {241., 161.}}) {
    const PictureSight sight = picture(width, height);
    EXPECT_TRUE(sight.pane.contains(sight.target()));
    EXPECT_EQ(sight.target().center(), sight.pane.center());
    EXPECT_TRUE(sight.shows(sight.pane.center()));
    EXPECT_FALSE(sight.shows(sight.target().topLeft() - QPointF(1, 0)));
  }
}

TEST(PictureSight, WhatIsUnderTheAnchorStaysWhileOneZooms) {
  PictureSight sight = picture();
  const QPointF anchor(430, 260);
  const Place under = sight.placeAt(anchor);
  for (double zoom = 1; zoom < 40; zoom *= 1.25) {
    sight.zoomAround(zoom, anchor);
    const QPointF now = sight.toWidget(under);
    EXPECT_NEAR(now.x(), anchor.x(), 1e-6);
    EXPECT_NEAR(now.y(), anchor.y(), 1e-6);
    EXPECT_DOUBLE_EQ(sight.zoom, std::min(zoom, PictureSight::mostZoom));
  }
  // Panned as far as one likes, its middle stays on the picture.
  sight.pan({1e6, -1e6});
  EXPECT_EQ(sight.centre, QPointF(0, 1));
  sight.zoomAround(0, anchor);
  EXPECT_EQ(sight.target(), picture().target());
}

TEST(PictureSight, NoMorePixelsAreWantedThanThereAre) {
  PictureSight sight = picture();
  sight.zoom = 4;
  EXPECT_EQ(sight.wantedSize(), (Size{640, 360}));
  sight.zoom = 0.5;
  EXPECT_EQ(sight.wantedSize(), (Size{320, 180}));
  sight.ratio = 2;  // zoom is in the screen's own pixels
  EXPECT_EQ(sight.wantedSize(), (Size{320, 180}));
  EXPECT_EQ(sight.target().width(), 160);
}

/// A Pace of three spans with glides on twelve seconds at 30 pictures a second.
class ChartHands : public ::testing::Test {
 protected:
  ChartHands() {
    sight.state.footage = true;
    const VideoDescription video{{320, 180}, 1, 30, 360};
    sight.state.reads = std::make_shared<const ChainReading>(Chain{}, video);
    sight.state.piece.rate = 30;
    sight.state.piece.length = 360;
    sight.state.piece.chainRate = 30;
    sight.state.piece.chainLength = 360;
    sight.state.frame = 200;
    sight.state.pace = ChartPace{pace, {}, 1};
    sight.setSize({900, 300});
    sight.fit();
  }
  QPointF moved(const QPointF& from, double x, double y) { return from + QPointF(x, y); }

  PaceSetting pace{0, {{4, 1, Rational(1, 2), 0}, {4, Rational(1, 2), Rational(1, 2), 0}, {4, 2, 0, 0}}};
  ChartSight sight;
  ChartHand hand{sight};
};

TEST_F(ChartHands, WhatIsThereIsTakenHoldOf) {
  for (std::size_t mark = 0; mark < 2; ++mark)
    EXPECT_EQ(hand.at(sight.markPoint(mark)), (ChartHold{ChartGrip::Mark, mark}));
  for (std::size_t span = 0; span < 3; ++span)
    EXPECT_EQ(hand.at(sight.spanPoint(span)), (ChartHold{ChartGrip::Span, span}));
  EXPECT_EQ(hand.at(sight.playheadPoint()).grip, ChartGrip::LineUp);
  EXPECT_EQ(hand.at(sight.gutter().center()).grip, ChartGrip::Slip);
  EXPECT_EQ(hand.at({sight.view.xOf(1), sight.view.area.bottom() + 5}).grip, ChartGrip::Scrub);
  // A glide's handles are there for the selected mark alone.
  EXPECT_NE(hand.at(sight.glidePoint(0, true)).grip, ChartGrip::GlideEnd);
  sight.select(std::nullopt, 0);
  EXPECT_EQ(hand.at(sight.glidePoint(0, true)).grip, ChartGrip::GlideEnd);
  EXPECT_EQ(hand.at(sight.glidePoint(0, false)).grip, ChartGrip::GlideBegin);
  sight.state.pace.reset();
  EXPECT_EQ(hand.at(sight.view.area.center()).grip, ChartGrip::Scrub);
  sight.state.footage = false;
  EXPECT_EQ(hand.at(sight.view.area.center()).grip, ChartGrip::None);
}

TEST_F(ChartHands, AMarkGoesAsFarAsTheHandOnAPicture) {
  const double second = sight.view.xOf(1) - sight.view.xOf(0);
  std::mt19937 random(8);
  std::uniform_real_distribution<> by(-2, 2);
  for (int i = 0; i < 100; ++i) {
    const QPointF from = sight.markPoint(1);
    const double seconds = by(random);
    hand.take({ChartGrip::Mark, 1}, from);
    const auto free = hand.dragged(moved(from, seconds * second, 0), true);
    ASSERT_TRUE(free);
    EXPECT_NEAR(free->pace.curve().beginOf(2).toDouble(), 8 + seconds, 1e-6);
    const auto snapped = hand.dragged(moved(from, seconds * second, 0), false);
    const Rational pictures = snapped->pace.curve().beginOf(2) * 30;
    EXPECT_EQ(pictures.den(), 1) << seconds;
    EXPECT_NEAR(pictures.toDouble(), (8 + seconds) * 30, 7 / second * 30 + 0.5);
  }
  // One that the hand does not move changes nothing.
  hand.take({ChartGrip::Mark, 0}, sight.markPoint(0));
  EXPECT_EQ(hand.dragged(sight.markPoint(0), true)->pace, pace);
}

TEST_F(ChartHands, EveryGripMakesItsOwnEdit) {
  const auto drag = [&](ChartGrip grip, const QPointF& from, double x, double y) {
    hand.take({grip, 0}, from);
    return *hand.dragged(moved(from, x, y), true);
  };
  // With source upward a pixel is a percent, at first.
  EXPECT_EQ(drag(ChartGrip::Span, {300, 200}, 0, -20).pace.spans[0].speed, Rational(120, 100));
  EXPECT_EQ(drag(ChartGrip::Span, {300, 200}, 0, 20).pace.spans[0].speed, Rational(80, 100));
  EXPECT_EQ(drag(ChartGrip::Bend, {300, 200}, 15, 0).pace.spans[0].bend, Rational(-1, 2));
  const double second = sight.view.yOf(0) - sight.view.yOf(1);
  EXPECT_NEAR(drag(ChartGrip::Slip, {50, 200}, 0, second).pace.from.toDouble(), 1, 1e-6);
  const double along = sight.view.xOf(1) - sight.view.xOf(0);
  EXPECT_NEAR(drag(ChartGrip::GlideEnd, sight.glidePoint(0, true), along, 0).pace.spans[0].glide.toDouble(), 2.5, 0.01);
  EXPECT_NEAR(drag(ChartGrip::GlideBegin, sight.glidePoint(0, false), -along, 0).pace.spans[0].glide.toDouble(), 2.5,
              0.01);
  for (const ChartGrip none : {ChartGrip::None, ChartGrip::Scrub, ChartGrip::Pan, ChartGrip::Remedy}) {
    hand.take({none, 0}, {});
    EXPECT_FALSE(hand.dragged({10, 10}, false));
  }
}

TEST_F(ChartHands, KeysWorkOnWhatIsSelected) {
  EXPECT_FALSE(hand.keyed(Qt::Key_Up, false));
  sight.select(1, std::nullopt);
  EXPECT_EQ(hand.keyed(Qt::Key_Up, false)->pace, setSpeed(pace, 1, Rational(55, 100), Keeping::Footage));
  EXPECT_EQ(hand.keyed(Qt::Key_Down, true)->pace, setSpeed(pace, 1, Rational(49, 100), Keeping::Footage));
  EXPECT_EQ(hand.keyed(Qt::Key_Delete, false)->pace, removeSpan(pace, 1));
  EXPECT_FALSE(hand.keyed(Qt::Key_Backspace, false));
  EXPECT_FALSE(hand.keyed(Qt::Key_BracketLeft, false));
  sight.select(std::nullopt, 0);
  EXPECT_EQ(hand.keyed(Qt::Key_BracketRight, false)->pace, setGlide(pace, 0, Rational(6, 10)));
  EXPECT_EQ(hand.keyed(Qt::Key_Backspace, false)->pace, removeMark(pace, 0));
  EXPECT_FALSE(hand.keyed(Qt::Key_Up, false));
  EXPECT_EQ(hand.effect(pace), "nothing changes");
}

TEST_F(ChartHands, NumbersAreTakenAsTheyAreTyped) {
  const TypedPace speed = typedSpeed(pace, 1, Keeping::Length);
  EXPECT_EQ(speed.text, "50%");
  EXPECT_EQ(speed.edit(QString::fromUtf8("− 25 %")), setSpeed(pace, 1, Rational(-1, 4), Keeping::Length));
  EXPECT_FALSE(speed.edit("fast"));
  EXPECT_EQ(typedMark(pace, 0, 30).edit("3S"), slideMark(pace, 0, Along::Output, 3));
  EXPECT_EQ(typedGlide(pace, 0, 30).edit("15f"), setGlide(pace, 0, Rational(1, 2)));
  EXPECT_FALSE(typedGlide(pace, 0, 30).edit("-1s"));
  EXPECT_EQ(typedBend(pace, 0).edit("-40%"), setBend(pace, 0, Rational(-4, 10)));
  EXPECT_FALSE(typedBend(pace, 0).edit("140%"));
  EXPECT_EQ(typedSlip(pace, 30).edit("-3f"), slip(pace, Rational(-1, 10)));
  const TypedPace turns = typedTurns(pace, 1, 0, 30);
  EXPECT_FALSE(turns.edit("0"));
  EXPECT_FALSE(turns.edit("often"));
  EXPECT_EQ(turns.edit("2"), backAndAgain(pace, 1, 2, 0));
  // A time is filled with as many turns as come nearest to it, and that is said.
  const Rational once = backAndAgain(pace, 1, 1, 0).curve().length() - pace.curve().length();
  const QString time = QString::number(once.toDouble() * 3.2) + "s";
  EXPECT_EQ(turns.edit(time), backAndAgain(pace, 1, 3, 0));
  EXPECT_EQ(turns.understood(time), "3 times");
  EXPECT_EQ(turns.understood("0,01s"), "once");
  // How long the ease is stands behind the length; without it it is the usual one.
  const TypedPace fit = typedFit(pace, 30);
  EXPECT_EQ(fit.edit("4s~0,25s"), fitTo(pace, 4, Rational(1, 4)));
  EXPECT_EQ(fit.edit("4s"), fitTo(pace, 4, 1));
  EXPECT_EQ(fit.edit("4s~9s"), fitTo(pace, 4, 2)) << "half of it at most";
  EXPECT_EQ(fit.understood("4s~15f"), "eases 0.5s at both ends");
  EXPECT_FALSE(fit.edit("4s~soft"));
  // At four seconds frame 120 of the source is read; another is lined up.
  const TypedPace frame = typedSourceFrame(pace, 2, 30);
  EXPECT_EQ(frame.text, "60");
  EXPECT_EQ(frame.edit("90"), lineUp(pace, 3, 2));
  EXPECT_EQ(frame.edit("90f"), lineUp(pace, 3, 2));
  EXPECT_EQ(frame.edit("3,5s"), lineUp(pace, Rational(7, 2), 2));
  EXPECT_EQ(frame.understood("3,5s"), "frame 105");
  EXPECT_FALSE(frame.edit("99999999999"));
  EXPECT_FALSE(typedLength("", 1, "", 30, [&](Rational) { return pace; }).edit("0s"));
}

TEST_F(ChartHands, SmallPicturesAreOfTheFramesBesideThem) {
  const auto rows = sight.pictureRows();
  ASSERT_GT(rows.size(), 3u);
  for (const auto& row : rows) EXPECT_NEAR(row.frame, sight.view.sourceAt(row.y) * 30, 0.5 + 1e-6);
  sight.up = ChartUp::Speed;
  EXPECT_TRUE(sight.pictureRows().empty());
}

TEST(KeySight, KeysStandAtTheirMomentsAndAreTakenHoldOf) {
  KeySight sight;
  sight.size = {600, 84};
  sight.view.area = {100, 0, 500, 84};
  sight.view.right = 10;
  sight.state.kind = &timeField();
  sight.state.rate = 30;
  const std::size_t back = parameterIndex(timeField().description(), "back");
  sight.state.lanes = {{back, "Back", 1, {{1, {0.5, 0}, {}}, {4, {2, 0}, {}}, {9, {1, 0}, {}}}},
                       {back, "Back", 1, {{2, {1, 0}, {}}}}};
  for (std::size_t lane = 0; lane < 2; ++lane)
    for (std::size_t key = 0; key < sight.track(lane).size(); ++key) {
      const QPointF at = sight.keyPoint(lane, key);
      EXPECT_DOUBLE_EQ(at.x(), 100 + 50 * sight.track(lane)[key].at.toDouble());
      EXPECT_TRUE(sight.laneRect(lane).contains(at));
      EXPECT_EQ(sight.holdAt(at).grip, KeyGrip::Key);
      EXPECT_EQ(sight.holdAt(at).key, KeyName(lane, key));
    }
  EXPECT_LT(sight.keyPoint(0, 1).y(), sight.keyPoint(0, 0).y());
  EXPECT_EQ(sight.pictureAt(100 + 50 * 3.02), Rational(91, 30));
  EXPECT_FALSE(sight.brackets());
  sight.selected = {{0, 0}, {0, 2}, {1, 0}};
  ASSERT_TRUE(sight.brackets());
  EXPECT_EQ(sight.brackets()->first, 1);
  EXPECT_EQ(sight.brackets()->last, 9);
  EXPECT_EQ(sight.holdAt(sight.brackets()->right.center()).grip, KeyGrip::Last);
  EXPECT_EQ(sight.selectedOf(0), (std::vector<std::size_t>{0, 2}));
}

}  // namespace
}  // namespace molten::test

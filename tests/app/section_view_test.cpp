// Across and Down by themselves: where things stand, what is drawn there, and what the hand does to them.
#include "app/sections/section_view.h"

#include <QSignalSpy>

#include "app/sections/slices.h"
#include "app/theme/theme.h"
#include "bench_fixture.h"

namespace molten::test {
namespace {

class SectionTest : public ::testing::TestWithParam<SectionView::Way> {
 protected:
  SectionTest() : view(GetParam()) {
    view.resize(across() ? QSize(420, 160) : QSize(112, 300));
    state.from = 20, state.to = across() ? 380 : 280;
    state.length = 4;
    state.first = 0, state.last = 4;
    state.now = 2;
    for (int i = 0; i < 240; ++i) state.reads.push_back(1 + (i + 0.5) / 240);  // from a second ago to now
    state.marked = 0.25;
    state.mayPull = true;
    view.setState(state);
    view.show();
    QTest::qWait(10);
  }
  bool across() const { return GetParam() == SectionView::Way::Across; }
  /// A point so far along the picture and so many seconds up the clip.
  QPointF at(double along, double seconds) { return view.point(along, seconds); }
  QPointF alongWays(double pixels) { return across() ? QPointF(pixels, 0) : QPointF(0, pixels); }
  QPointF timeWays(double pixels) { return across() ? QPointF(0, -pixels) : QPointF(pixels, 0); }
  double secondsOf(double pixels) {
    const QPointF one = at(0.5, 1) - at(0.5, 0);
    return pixels / (across() ? -one.y() : one.x());
  }
  void move(QPointF to, Qt::MouseButtons held) {
    QMouseEvent event(QEvent::MouseMove, to, view.mapToGlobal(to), Qt::NoButton, held, Qt::NoModifier);
    QApplication::sendEvent(&view, &event);
  }
  void drag(QPointF from, QPointF to) {
    QTest::mousePress(&view, Qt::LeftButton, {}, from.toPoint());
    move(to, Qt::LeftButton);
    QTest::mouseRelease(&view, Qt::LeftButton, {}, to.toPoint());
  }
  SectionView view;
  SectionState state;
};

TEST_P(SectionTest, EdgesStandWhereThePicturesDo) {
  const QPointF first = at(0, 0), last = at(1, 4);
  EXPECT_DOUBLE_EQ(across() ? first.x() : first.y(), 20);
  EXPECT_DOUBLE_EQ(across() ? last.x() : last.y(), across() ? 380 : 280);
  // Time goes up in Across and to the right in Down.
  EXPECT_TRUE(across() ? last.y() < first.y() : last.x() > first.x());
  for (const double along : {0.1, 0.5, 0.9}) {
    const QPointF on = view.linePoint(along), wanted = at(along, 1 + along);
    EXPECT_NEAR(on.x(), wanted.x(), 0.01);
    EXPECT_NEAR(on.y(), wanted.y(), 0.01);
  }
}

TEST_P(SectionTest, TheLineIsPulledFromWhereItIsTakenHoldOf) {
  QSignalSpy began(&view, &SectionView::pullBegan), pulled(&view, &SectionView::pulled),
      released(&view, &SectionView::released);
  drag(view.linePoint(0.7), view.linePoint(0.7) + timeWays(18));
  ASSERT_EQ(began.count(), 1);
  EXPECT_NEAR(began[0][0].toDouble(), 0.7, 0.01);
  ASSERT_GE(pulled.count(), 1);
  EXPECT_NEAR(pulled.last()[0].toDouble(), 0.7, 0.01);
  EXPECT_NEAR(pulled.last()[1].toDouble(), secondsOf(18), secondsOf(1));
  EXPECT_EQ(released.count(), 1);
  // A stage that cannot be pulled is not.
  state.mayPull = false;
  view.setState(state);
  drag(view.linePoint(0.7), view.linePoint(0.7) + timeWays(18));
  EXPECT_EQ(began.count(), 1);
}

TEST_P(SectionTest, TheOtherSectionsMarkIsMovedWithinThePicture) {
  QSignalSpy moved(&view, &SectionView::markMoved);
  // Away from the line, on the dashed mark.
  drag(at(0.25, 3.4), at(0.25, 3.4) + alongWays(60));
  ASSERT_GE(moved.count(), 1);
  EXPECT_NEAR(moved.last()[0].toDouble(), 0.25 + 60 / (state.to - state.from), 0.01);
  drag(at(0.25, 3.4), at(0.25, 3.4) + alongWays(2000));
  EXPECT_EQ(moved.last()[0].toDouble(), 1);
  const int before = static_cast<int>(moved.count());
  drag(at(0.6, 3.4), at(0.9, 3.4));
  EXPECT_EQ(moved.count(), before) << "beside it nothing is taken hold of";
}

TEST_P(SectionTest, WhatIsPointedAtIsTold) {
  std::vector<std::optional<double>> told;
  QObject::connect(&view, &SectionView::hovered, [&](std::optional<double> along) { told.push_back(along); });
  move(at(0.6, 2), Qt::NoButton);
  ASSERT_FALSE(told.empty());
  ASSERT_TRUE(told.back());
  EXPECT_NEAR(*told.back(), 0.6, 0.01);
  move(at(0, 2) - alongWays(12), Qt::NoButton);
  EXPECT_FALSE(told.back()) << "beside the picture there is no pixel";
  move(at(0.3, 2), Qt::NoButton);
  QEvent leave(QEvent::Leave);
  QApplication::sendEvent(&view, &leave);
  EXPECT_FALSE(told.back());
}

/// The slice lies where the clip does; the line lies on it in the colour of the time that it reads.
TEST_P(SectionTest, TheSliceAndTheLineAreDrawnWhereTheyStand) {
  QImage slice(8, 8, QImage::Format_RGB32);
  slice.fill(Qt::white);
  view.setSlice(slice);
  const QImage drawn = view.grab().toImage();
  const auto bright = [&](QPointF p) { return qGray(drawn.pixel(p.toPoint())); };
  EXPECT_GT(bright(at(0.8, 3.5)), 120) << "the slice, darkened a little";
  EXPECT_LT(bright(at(0, 2) - alongWays(14)), 60) << "beside the picture there is none";
  // A pixel that reads the past is not the colour of one that reads now.
  const auto colourAt = [&](double along) {
    const QPointF on = view.linePoint(along);
    return QColor(drawn.pixel(on.toPoint()));
  };
  const QColor past = colourAt(0.05), now = colourAt(0.97);
  EXPECT_GT(std::abs(past.hslHue() - now.hslHue()) + std::abs(past.red() - now.red()), 30);
  // Reads outside the clip are told apart.
  for (double& read : state.reads) read -= 2.5;
  view.setState(state);
  const QImage outside = view.grab().toImage();
  EXPECT_NE(outside, drawn);
  // With nothing known there is no line, and nothing to take hold of.
  state.reads.clear();
  view.setState(state);
  QSignalSpy moved(&view, &SectionView::markMoved), began(&view, &SectionView::pullBegan);
  drag(at(0.25, 3.4), at(0.5, 3.4));
  drag(view.linePoint(0.5), view.linePoint(0.5) + timeWays(20));
  EXPECT_EQ(moved.count() + began.count(), 0);
}

/// Wherever the line goes, its title goes out of its way.
TEST_P(SectionTest, TheTitleYieldsToTheLine) {
  state.title = "Across";
  for (const bool falling : {false, true}) {
    for (std::size_t i = 0; i < state.reads.size(); ++i) {
      const double part = (static_cast<double>(i) + 0.5) / static_cast<double>(state.reads.size());
      state.reads[i] = 4 * (falling ? 1 - part : part);
    }
    view.setState(state);
    const QRectF title = view.titleRect();
    EXPECT_TRUE(QRectF(view.rect()).contains(title));
    for (double along = 0.01; along < 1; along += 0.01) EXPECT_FALSE(title.contains(view.linePoint(along))) << along;
  }
}

TEST_P(SectionTest, NoLineIsDrawnWhereNothingIsRead) {
  view.setState({});
  const QImage shown = view.grab().toImage();
  for (int y = 40; y < shown.height(); ++y)
    for (int x = 0; x < shown.width(); ++x) ASSERT_EQ(shown.pixelColor(x, y), theme::ink) << x << ", " << y;
}

/// The part of the time that is in sight fills the band; the slice goes on beyond it.
TEST_P(SectionTest, TimeStandsWhereThePartInSightHasIt) {
  state.first = 1, state.last = 3;
  view.setState(state);
  const QPointF first = at(0.5, 1), last = at(0.5, 3), middle = at(0.5, 2);
  const QSize size = view.size();
  EXPECT_NEAR(across() ? size.height() - first.y() : first.x(), 0, 4);
  EXPECT_NEAR(across() ? last.y() : size.width() - last.x(), 0, 4);
  EXPECT_NEAR(across() ? middle.y() : middle.x(), (across() ? size.height() : size.width()) / 2.0, 0.6);
}

/// The line is caught within twelve pixels, and the wheel zooms about the moment that is under the hand.
TEST_P(SectionTest, TheLineIsCaughtFromBesideItAndTheWheelZooms) {
  QSignalSpy began(&view, &SectionView::pullBegan), zoomed(&view, &SectionView::zoomed),
      whole(&view, &SectionView::wholeWanted);
  drag(view.linePoint(0.7) + timeWays(11), view.linePoint(0.7) + timeWays(30));
  EXPECT_EQ(began.count(), 1);
  drag(view.linePoint(0.7) + timeWays(14), view.linePoint(0.7) + timeWays(30));
  EXPECT_EQ(began.count(), 1);
  const QPointF point = at(0.6, 3);
  QWheelEvent wheel(point, view.mapToGlobal(point), {}, {0, 240}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase,
                    false);
  QApplication::sendEvent(&view, &wheel);
  ASSERT_EQ(zoomed.count(), 1);
  EXPECT_NEAR(zoomed[0][0].toDouble(), 1.25 * 1.25, 1e-9);
  EXPECT_NEAR(zoomed[0][1].toDouble(), 3, 1e-6);
  QTest::mouseDClick(&view, Qt::LeftButton, {}, point.toPoint());
  EXPECT_EQ(whole.count(), 1);
}

/// Each pixel is that of its frame at its place; the window's thread does not wait for them.
TEST(Slices, AreTheClipsHistoryAlongARowAndDownAColumn) {
  TempFolder folder;
  makeGrayClip(folder / "history.mkv", 20, {64, 32}, [](int frame, int x, int y) { return 8 * frame + x + y / 2; });
  Slices slices;
  slices.setFrames(std::make_shared<FrameFeed>(openFootage(folder / "history.mkv"), std::size_t(1) << 26, 1));
  ASSERT_TRUE(QTest::qWaitFor([&] { return slices.known() == slices.count(); }, 20000));
  ASSERT_EQ(slices.count(), 20);
  ASSERT_EQ(slices.size(), QSize(64, 32));
  std::vector<Place> row, column;
  for (int i = 0; i < 64; ++i) row.push_back({(i + 0.5) / 64, 0.51});
  for (int i = 0; i < 32; ++i) column.push_back({0.26, (i + 0.5) / 32});
  row[0].x = -3, column[31].y = 7;  // beyond the picture its edge goes on
  QImage across, down;
  QObject::connect(&slices, &Slices::cut, [&](const QImage& a, const QImage& d) { across = a, down = d; });
  slices.ask(row, column);
  EXPECT_TRUE(across.isNull()) << "cut in the background";
  ASSERT_TRUE(QTest::qWaitFor([&] { return !across.isNull(); }, 20000));
  ASSERT_EQ(across.size(), QSize(64, 20));
  ASSERT_EQ(down.size(), QSize(20, 32));
  for (int frame = 0; frame < 20; ++frame) {
    for (int x = 0; x < 64; ++x) EXPECT_NEAR(qGreen(across.pixel(x, 19 - frame)), 8 * frame + x + 8, 2);
    for (int y = 0; y < 32; ++y) EXPECT_NEAR(qGreen(down.pixel(frame, y)), 8 * frame + 16 + y / 2, 2);
  }
}

INSTANTIATE_TEST_SUITE_P(BothWays, SectionTest, ::testing::Values(SectionView::Way::Across, SectionView::Way::Down),
                         [](const auto& each) {
                           return std::string(each.param == SectionView::Way::Across ? "Across" : "Down");
                         });

}  // namespace
}  // namespace molten::test

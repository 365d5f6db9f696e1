// The Picture by itself: what it paints and what it tells.
#include "app/picture/picture_view.h"

#include <QApplication>
#include <QMouseEvent>
#include <QSignalSpy>
#include <random>
#include <QTest>
#include <cmath>

#include "app/chart/scrubber.h"
#include "app/chain/chain_bar.h"
#include "app/theme/theme.h"
#include "support/clips.h"

namespace molten {
namespace {

class PictureViewTest : public ::testing::Test {
 protected:
  PictureViewTest() {
    view.resize(664, 384);
    view.setPictureShape({320, 180}, 1);
    QImage gray(640, 360, QImage::Format_RGB32);
    gray.fill(QColor(100, 100, 100));
    view.setImage(gray);
    state.handles = {{0, "−1.000 s", {0.5, 0.25}, -1, 1, {}}, {1, "now", {0.5, 0.75}, 0, 0, {}}};
    state.lines = {{{{0.5, 0.25}, {0.5, 0.75}}, -1, 0}};
    view.setState(state);
    view.show();
  }

  void dragTo(QPointF to, Qt::KeyboardModifiers modifiers = {}) {
    QTest::mousePress(&view, Qt::LeftButton, {}, view.toWidget(state.handles[1].place).toPoint());
    QMouseEvent move(QEvent::MouseMove, to, view.mapToGlobal(to), Qt::NoButton, Qt::LeftButton, modifiers);
    QApplication::sendEvent(&view, &move);
    QTest::mouseRelease(&view, Qt::LeftButton, {}, to.toPoint());
  }

  PictureView view;
  PictureState state;
};

TEST_F(PictureViewTest, HandlesCarryTheColourOfTheirTime) {
  const QImage shown = view.grab().toImage();
  const auto at = [&](const Place& place) { return shown.pixelColor(view.toWidget(place).toPoint()); };
  EXPECT_EQ(at({0.5, 0.25}).rgb(), theme::past.rgb());
  EXPECT_EQ(at({0.5, 0.75}).rgb(), theme::now.rgb());
  EXPECT_EQ(at({0.1, 0.5}).rgb(), QColor(100, 100, 100).rgb());
}

TEST_F(PictureViewTest, HandlesAtTheEdgesStayInSight) {
  for (const Place place : {Place{0, 0}, Place{1, 1}}) {
    const QPointF at = view.toWidget(place);
    EXPECT_GE(at.x(), 8);
    EXPECT_GE(at.y(), 8);
    EXPECT_LE(at.x(), view.width() - 8);
    EXPECT_LE(at.y(), view.height() - 8);
  }
}

TEST_F(PictureViewTest, DraggingTellsThePlaceInTheUnitsOfThePicture) {
  QSignalSpy moved(&view, &PictureView::handleMoved);
  QSignalSpy released(&view, &PictureView::handleReleased);
  dragTo(view.toWidget({0.8, 0.9}));
  ASSERT_EQ(moved.count(), 1);
  EXPECT_EQ(moved[0][0].value<std::size_t>(), 1u);
  const Place place = moved[0][1].value<Place>();
  EXPECT_NEAR(place.x, 0.8, 0.005);
  EXPECT_NEAR(place.y, 0.9, 0.005);
  EXPECT_EQ(released.count(), 1);
}

TEST_F(PictureViewTest, ShiftKeepsTheLineStraight) {
  QSignalSpy moved(&view, &PictureView::handleMoved);
  dragTo(view.toWidget({0.53, 0.9}), Qt::ShiftModifier);
  ASSERT_EQ(moved.count(), 1);
  EXPECT_NEAR(moved[0][1].value<Place>().x, 0.5, 1e-9);
}

/// Labels cover neither handles nor each other, wherever handles stand; the nearest one yields.
TEST_F(PictureViewTest, LabelsCoverNeitherHandlesNorEachOther) {
  std::mt19937 random(7);
  std::uniform_real_distribution<double> anywhere(0, 1);
  int labels = 0;
  for (int round = 0; round < 60; ++round) {
    state.handles.clear();
    const int count = 1 + round % 5;
    for (int i = 0; i < count; ++i) {
      // Every third round all of them crowd into a corner, where the title and the zoom are.
      const double near = round % 3 ? 1 : 0.12;
      state.handles.push_back({static_cast<std::size_t>(i), "−1.250 s", {anywhere(random) * near,
                               anywhere(random) * near}, 0.0, {}, {}});
    }
    state.title = "Picture · 00:00:01:12";
    view.setState(state);
    view.grab();
    const auto& boxes = view.labels();
    labels += static_cast<int>(boxes.size());
    for (std::size_t a = 0; a < boxes.size(); ++a) {
      EXPECT_TRUE(QRectF(view.rect()).contains(boxes[a]));
      for (std::size_t b = 0; b < a; ++b) EXPECT_FALSE(boxes[a].intersects(boxes[b]));
      for (const Handle& handle : state.handles) EXPECT_FALSE(boxes[a].contains(view.toWidget(handle.place)));
    }
  }
  EXPECT_GT(labels, 200) << "they yield, they do not all go";
}

TEST_F(PictureViewTest, BesideAHandleNothingIsDragged) {
  QSignalSpy moved(&view, &PictureView::handleMoved);
  QTest::mousePress(&view, Qt::LeftButton, {}, view.toWidget({0.1, 0.1}).toPoint());
  QTest::mouseMove(&view, view.toWidget({0.3, 0.3}).toPoint());
  QTest::mouseRelease(&view, Qt::LeftButton);
  EXPECT_EQ(moved.count(), 0);
  state.bypassed = true;
  view.setState(state);
  dragTo(view.toWidget({0.8, 0.9}));
  EXPECT_EQ(moved.count(), 0);
}

TEST_F(PictureViewTest, WidePixelsAreShownWide) {
  view.resize(600, 400);
  view.setPictureShape({320, 180}, 2);
  const QPointF size = view.toWidget({1, 1}) - view.toWidget({0, 0});
  EXPECT_NEAR(size.x() / size.y(), 640.0 / 180, 1e-6);
  EXPECT_EQ(view.wantedSize().width, static_cast<int>(std::lround(size.x())));
}

TEST_F(PictureViewTest, AMagnifiedPictureIsAskedForPixelForPixel) {
  view.setZoom(6);
  EXPECT_EQ(view.wantedSize(), (Size{320, 180}));
}

TEST(Scrubbing, OutsideIsHatchedInItsColour) {
  Scrubber scrubber;
  scrubber.resize(800, 22);
  ChartView view;
  view.area = {20, 0, 760, 22};
  view.right = 4;
  scrubber.setView(view);
  scrubber.setState({100, 50, {0, 99}, {{0, 19, true, false}}, 25});
  const QImage shown = scrubber.grab().toImage();
  const auto hatched = [&](std::int64_t from, std::int64_t to) {
    int count = 0;
    for (int x = static_cast<int>(scrubber.xOf(from)) + 3; x < static_cast<int>(scrubber.xOf(to)) - 3; ++x)
      if (shown.pixelColor(x, 18).rgb() == theme::outside.rgb()) ++count;
    return count;
  };
  EXPECT_GT(hatched(0, 20), 10);
  EXPECT_EQ(hatched(20, 49), 0);
}

TEST(ChainTiles, TwelveStagesStayInTheWindow) {
  ChainBar bar;
  bar.resize(1280, 78);
  std::vector<ChainTile> tiles(14);
  for (auto& tile : tiles) tile.title = "Time Field", tile.isStage = true;
  bar.setTiles(tiles, 3, true);
  EXPECT_LE(bar.tileRect(13).right(), 1280);
  for (std::size_t i = 1; i < 14; ++i) EXPECT_GT(bar.tileRect(i).left(), bar.tileRect(i - 1).right());
  EXPECT_GT(bar.addRect().left(), bar.tileRect(12).right());
  EXPECT_LT(bar.addRect().right(), bar.tileRect(13).left());
}

}  // namespace
}  // namespace molten

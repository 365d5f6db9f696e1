// The field over the Picture: its colours and contour lines, and when it is there.
#include "app/sections/field_picture.h"

#include "app/dials/paint_dials.h"
#include "app/theme/theme.h"
#include "bench_fixture.h"

namespace molten::test {
namespace {

TEST(FieldPicture, ContoursStandAtRoundMoments) {
  for (const auto& [range, step] : {std::pair{1.0, 0.2}, {3.0, 0.5}, {6.0, 1.0}, {0.5, 0.1}, {100.0, 20.0}})
    EXPECT_NEAR(contourStep(range, 0.001), step, 1e-9) << range;
  EXPECT_NEAR(contourStep(0.05, 1 / 30.0), 0.05, 1e-9) << "no closer than a frame";
}

class FieldOverPicture : public BenchTest {
 protected:
  void openWithField() {
    open(clip());
    addTimeField();
    goTo(45);
    stillFor(60);
  }
  bool shown() { return !picture().field().isNull(); }
  QColor at(double x, double y) {
    const QImage& field = picture().field();
    return field.pixelColor(static_cast<int>(x * field.width()), static_cast<int>(y * field.height()));
  }
  void move(QPointF to, Qt::MouseButtons held = Qt::LeftButton) {
    QMouseEvent event(QEvent::MouseMove, to, picture().mapToGlobal(to), Qt::NoButton, held, Qt::NoModifier);
    QApplication::sendEvent(&picture(), &event);
  }
};

/// From a second back at the top to now at the bottom: from the colour of the past to that of now.
TEST_F(FieldOverPicture, IsSwitchedByKeyAndHasTheColoursOfTime) {
  openWithField();
  EXPECT_FALSE(shown());
  QTest::keyClick(&picture(), Qt::Key_T);
  ASSERT_TRUE(until([&] { return shown(); }));
  EXPECT_TRUE(picture().state().title.contains("field shown"));
  const QColor top = at(0.31, 0.02), bottom = at(0.31, 0.98);
  EXPECT_GT(top.blue(), top.red() + 60);
  EXPECT_NEAR(bottom.red(), theme::now.red(), 6);
  EXPECT_GT(top.alpha(), 100);
  EXPECT_LT(top.alpha(), 200) << "the footage is seen through it";
  // Five lines cross a column: at 0.2, 0.4, 0.6 and 0.8 s back, and at now or a second back at most.
  const QImage& field = picture().field();
  int lines = 0;
  for (int y = 0; y < field.height(); ++y) lines += field.pixelColor(field.width() / 3, y).alpha() > 220;
  EXPECT_GE(lines, 4);
  EXPECT_LE(lines, 6);
  QTest::keyClick(&picture(), Qt::Key_T);
  EXPECT_TRUE(until([&] { return !shown(); }));
}

/// It comes by itself while a handle is dragged, and goes when that is let go.
TEST_F(FieldOverPicture, IsThereWhileAHandleIsInHand) {
  openWithField();
  const QPointF handle = picture().toWidget({0.5, 1});
  QTest::mousePress(&picture(), Qt::LeftButton, {}, handle.toPoint());
  move(handle - QPointF(0, 30));
  EXPECT_TRUE(until([&] { return shown(); }));
  move(handle - QPointF(0, 60));
  QTest::mouseRelease(&picture(), Qt::LeftButton, {}, (handle - QPointF(0, 60)).toPoint());
  EXPECT_FALSE(shown());
  stillFor(60);
  EXPECT_FALSE(shown());
}

/// Painting shows what it paints; a gradient is a straight drag from one end to the other, in one step.
TEST_F(FieldOverPicture, IsThereWhilePaintingAndAGradientIsAStraightDrag) {
  openWithField();
  QTest::mouseClick(&button("shape=painted"), Qt::LeftButton);
  QTest::mouseClick(&button("paint=gradient"), Qt::LeftButton);
  const int steps = bench->document().undoStack().index();
  const QPointF left = picture().toWidget({0.25, 0.5}), right = picture().toWidget({0.75, 0.5});
  QTest::mousePress(&picture(), Qt::LeftButton, {}, left.toPoint());
  move((left + right) / 2 + QPointF(0, 40));
  move(right);
  QTest::mouseRelease(&picture(), Qt::LeftButton, {}, right.toPoint());
  EXPECT_EQ(bench->document().undoStack().index(), steps + 1);
  EXPECT_EQ(bench->document().undoStack().undoText(), "Gradient");
  const auto painted = valueOf<Painting>(project().chain[0], "painted").picture;
  ASSERT_NE(painted, nullptr);
  const Size size = painted->size();
  const auto level = [&](double x, double y) {
    return painted->at(static_cast<int>(x * size.width), static_cast<int>(y * size.height)) / 65535.0;
  };
  for (const double y : {0.1, 0.9}) {
    EXPECT_NEAR(level(0.1, y), 0, 0.02);
    EXPECT_NEAR(level(0.5, y), 0.5, 0.03);
    EXPECT_NEAR(level(0.9, y), 1, 0.02);
  }
  ASSERT_TRUE(until([&] { return shown() && at(0.1, 0.3).blue() > at(0.1, 0.3).red() + 60; }));
  EXPECT_NEAR(at(0.9, 0.3).red(), theme::now.red(), 6) << "what is painted is what is seen";
  // The tool laid down, it goes.
  QTest::mouseClick(&button("paint=gradient"), Qt::LeftButton);
  EXPECT_TRUE(until([&] { return !shown(); }));
}

/// A slit's way and place, and the strips' way, are drawn on the Picture and dragged there.
TEST_F(FieldOverPicture, SlitsAndStripsHaveHandles) {
  open(clip());
  const auto dragTo = [&](std::size_t handle, QPointF to) {
    const QPointF from = picture().toWidget(picture().state().handles[handle].place);
    QTest::mousePress(&picture(), Qt::LeftButton, {}, from.toPoint());
    move(to);
    QTest::mouseRelease(&picture(), Qt::LeftButton, {}, to.toPoint());
    stillFor(40);
  };
  for (const char* const stage : {"Strips", "Slit Scan"}) {
    ASSERT_TRUE(trigger(stage));
    stillFor(60);
    ASSERT_EQ(picture().state().handles.size(), 1u) << stage;
    ASSERT_FALSE(picture().state().lines.empty()) << stage;
    const std::size_t k = project().chain.size() - 1;
    EXPECT_EQ(valueOf<double>(project().chain[k], "angle"), 0);
    dragTo(0, picture().toWidget({0.5, 0.9}));
    EXPECT_EQ(valueOf<double>(project().chain[k], "angle"), 90) << stage;
    dragTo(0, picture().toWidget({0.5, 0.5}) - QPointF(80, 2));
    EXPECT_EQ(std::abs(valueOf<double>(project().chain[k], "angle")), 180) << stage << ": nearly level is level";
  }
  // Standing, it has its place as well, whatever comes out.
  QTest::mouseClick(&button("slit=stands"), Qt::LeftButton);
  for (const char* const result : {"result=moving", "result=one-picture"}) {
    QTest::mouseClick(&button(result), Qt::LeftButton);
    stillFor(60);
    ASSERT_EQ(picture().state().handles.size(), 2u) << result;
    EXPECT_EQ(picture().state().lines.size(), 2u);
    dragTo(1, picture().toWidget({0.25, 0.5}));
    EXPECT_NEAR(valueOf<Place>(project().chain.back(), "position").x, 0.25, 0.01) << result;
    bench->document().undoStack().undo();
    stillFor(40);
  }
}

}  // namespace
}  // namespace molten::test

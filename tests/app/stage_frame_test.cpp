// The selected stage's frame, on a small picture of what enters it; and how bright a stage makes its pictures.
#include "app/dials/brightness_gauge.h"
#include "bench_fixture.h"
#include "core/engine/evaluator.h"
#include "core/stages/framing_view.h"

namespace molten {
namespace {

class StageFrameTest : public test::BenchTest {
 protected:
  void openWith(const char* stage, const char* value = nullptr, const char* words = nullptr) {
    open(clip());
    ASSERT_TRUE(trigger(stage));
    stillFor(80);
    if (value) type(value, words);
  }
  void type(const char* value, const char* words) {
    QTest::mouseClick(&field(value), Qt::LeftButton);
    QTest::keyClicks(&field(value), words);
    QTest::keyClick(&field(value), Qt::Key_Return);
    stillFor(80);
  }
  const Stage& stage(std::size_t i = 0) { return project().chain[i]; }
  bool framed() {
    return until([&] { return picture().frameRoom().has_value(); });
  }
  /// Where the frame's middle is on the widget, by what the chain says.
  QPointF middle(std::size_t i = 0) {
    const FramingView view(stage(i), bench->footage()->video(), {});
    const Size out = view.outgoing().size, in = view.incoming().size;
    const Affine way = view.wayAt(0);
    const QRectF room = *picture().frameRoom();
    return {room.left() + way.x(out.width / 2.0, out.height / 2.0) / in.width * room.width(),
            room.top() + way.y(out.width / 2.0, out.height / 2.0) / in.height * room.height()};
  }
  BrightnessGauge& gauge() { return *bench->findChild<BrightnessGauge*>(); }
};

TEST_F(StageFrameTest, IsShownWherePartOfThePictureIsAndOnTheRightPart) {
  openWith("Framing");
  stillFor(200);
  EXPECT_FALSE(picture().frameRoom()) << "all of the picture is seen";
  const QRectF target = picture().target();
  type("zoom", "200");
  ASSERT_TRUE(framed());
  EXPECT_EQ(picture().target(), target) << "nothing of the Picture has moved";
  const QRectF room = *picture().frameRoom();
  EXPECT_TRUE(QRectF(picture().rect()).contains(room));
  EXPECT_NEAR(room.width() / room.height(), 16.0 / 9, 0.05);
  // Inside the frame the small picture is as bright as what enters; around it it is dark. Frame 0 is dark all over: 15
  // has its four blocks of the upper row alight.
  goTo(15);
  stillFor(150);
  const QImage image = picture().grab().toImage();
  const auto seen = [&](double x, double y) {
    return qGray(image.pixel(static_cast<int>(room.left() + x * room.width()), static_cast<int>(room.top() + y * room.height())));
  };
  EXPECT_LT(seen(0.0625, 0.125), 0.7 * seen(0.4375, 0.245)) << "both lie in bright blocks, one beyond the frame";
  // Another stage is selected: it goes.
  QTest::keyClick(&picture(), Qt::Key_Escape);
  ASSERT_TRUE(trigger("Finish"));
  stillFor(80);
  EXPECT_FALSE(picture().frameRoom());
}

TEST_F(StageFrameTest, IsDraggedInOneStepAndTheSubjectComesWithIt) {
  openWith("Framing", "zoom", "200");
  ASSERT_TRUE(framed());
  const QRectF room = *picture().frameRoom();
  const QPointF from = middle() + QPointF(5, -4), to = from + QPointF(0.15 * room.width(), 0.1 * room.height());
  drag(picture(), from, to);
  stillFor(80);
  EXPECT_NEAR(middle().x(), room.center().x() + 0.15 * room.width(), 1);
  EXPECT_NEAR(middle().y(), room.center().y() + 0.1 * room.height(), 1);
  EXPECT_EQ(*picture().frameRoom(), room);
  EXPECT_TRUE(bench->document().undoStack().undoText().startsWith("Place 0.7")) << "one step, with its name";
  // Beside the frame: its middle comes there, as far as it can go.
  drag(picture(), room.topLeft() + QPointF(3, 3), room.topLeft() + QPointF(0.3 * room.width(), 0.35 * room.height()));
  EXPECT_NEAR(middle().x(), room.left() + 0.3 * room.width(), 1);
  EXPECT_NEAR(middle().y(), room.top() + 0.35 * room.height(), 1);
  bench->document().undoStack().undo();
  bench->document().undoStack().undo();
  EXPECT_EQ(stageText(stage()), "framing:zoom=200%");
  // A drag within it picks no place of the picture and moves no marks.
  EXPECT_FALSE(picture().state().marks && picture().state().marks->x < 0.1);
}

/// Keyed, the place gets a key where the playhead is.
TEST_F(StageFrameTest, DraggedAtAnotherMomentItSetsAKey) {
  openWith("Framing", "zoom", "200");
  ASSERT_TRUE(framed());
  auto* const key = bench->findChild<QAbstractButton*>("movement place");
  ASSERT_NE(key, nullptr);
  QTest::mouseClick(key, Qt::LeftButton, Qt::ShiftModifier);
  goTo(30);
  stillFor(100);
  ASSERT_TRUE(framed());
  const QRectF room = *picture().frameRoom();
  drag(picture(), room.center(), room.center() + QPointF(-0.2 * room.width(), 0));
  const auto at = parameterIndex(stage().kind->description(), "place");
  ASSERT_EQ(stage().keys.at(at).size(), 2u);
  EXPECT_EQ(stage().keys.at(at)[1].at, Rational(1));
  EXPECT_NEAR(stage().keys.at(at)[1].value[0], 0.1, 0.02);
}

TEST_F(StageFrameTest, IsAwayWhileItPlaysAndRightAgainWhereItStops) {
  openWith("Framing", "zoom", "200");
  ASSERT_TRUE(framed());
  QTest::keyClick(&picture(), Qt::Key_Space);
  ASSERT_TRUE(until([&] { return !picture().frameRoom(); }));
  const auto* const player = bench->findChild<Player*>();
  ASSERT_TRUE(until([&] { return player->view().frame >= 3; }));
  QTest::keyClick(&picture(), Qt::Key_Space);
  ASSERT_TRUE(framed());
  stillFor(150);
  ASSERT_TRUE(player->view().sides);
  EXPECT_EQ(player->view().sides->leaving, player->view().piece.moment(player->view().frame));
}

TEST_F(StageFrameTest, TheGaugeSaysWhatIsBurntOutBeforeAndAfter) {
  openWith("Finish", "exposure", "3");
  goTo(21);
  ASSERT_TRUE(until([&] { return gauge().words().startsWith("burnt out"); }));
  stillFor(150);
  // Of its sixteen blocks three are bright, and brighter than white once the light is eight times as much.
  EXPECT_TRUE(until([&] { return gauge().words().contains(QString::fromUtf8("burnt out 0 % → ")); }))
      << gauge().words().toStdString();
  const QString bright = gauge().words();
  type("exposure", "-1");
  ASSERT_TRUE(until([&] { return gauge().words().startsWith("burnt out 0 % ·"); })) << gauge().words().toStdString();
  EXPECT_NE(gauge().words(), bright);
  // While it plays nothing is measured, and it says so; where it stops it is that picture's again.
  QTest::keyClick(&picture(), Qt::Key_Space);
  ASSERT_TRUE(until([&] { return gauge().words().startsWith("measured while"); }));
  QTest::keyClick(&picture(), Qt::Key_Space);
  ASSERT_TRUE(until([&] { return gauge().words().startsWith("burnt out"); }));
  // The white point moved down burns out what lies above it.
  type("exposure", "0");
  type("white", "40");
  ASSERT_TRUE(until([&] { return gauge().words().contains(QString::fromUtf8("→")); }));
  // Its curves are drawn: some of it is filled.
  const QImage image = gauge().grab().toImage();
  const QRectF area = gauge().area();
  bool filled = false;
  for (int x = 2; x < area.width() - 10 && !filled; ++x)
    filled = qGray(image.pixel(x, static_cast<int>(area.bottom()) - 3)) > 60;
  EXPECT_TRUE(filled);
}

}  // namespace
}  // namespace molten

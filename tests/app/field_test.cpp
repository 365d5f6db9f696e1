// The Time Field in the real window: shapes and their handles, keys, painting, Across and Down, comparing.
#include <QLabel>
#include <cmath>

#include "app/chart/key_lanes.h"
#include "app/dials/curve_editor.h"
#include "app/dials/movement_button.h"
#include "app/dials/paint_dials.h"
#include "app/sections/section_view.h"
#include "bench_fixture.h"
#include "core/files/safe_file.h"
#include "core/engine/render_job.h"
#include "core/media/painting_file.h"

namespace molten::test {
namespace {

class FieldTest : public BenchTest {
 protected:
  void openWithField() {
    open(clip());
    addTimeField();
  }
  void choose(const char* name) {
    QTest::mouseClick(&button(name), Qt::LeftButton);
    stillFor(60);
  }
  const Stage& stage() { return project().chain[0]; }
  double number(const char* id) { return valueOf<double>(stage(), id); }
  std::size_t at(const char* id) { return parameterIndex(stage().kind->description(), id); }
  MovementButton& movement(const char* id) { return *bench->findChild<MovementButton*>(QString("movement ") + id); }
  KeyLanes& lanes() { return *bench->findChild<KeyLanes*>(); }
  SectionView& across() { return *section("Across"); }
  SectionView& down() { return *section("Down"); }
  SectionView* section(const QString& name) {
    for (auto* view : bench->findChildren<SectionView*>())
      if (view->accessibleName() == name) return view;
    return nullptr;
  }
  void dragHandle(std::size_t handle, Place to) {
    drag(picture(), picture().toWidget(picture().state().handles[handle].place), picture().toWidget(to));
    stillFor(60);
  }
  void typeInto(const char* id, const QString& text) {
    field(id).setFocus();
    field(id).selectAll();
    QTest::keyClicks(&field(id), text);
    QTest::keyClick(&field(id), Qt::Key_Return);
    stillFor(60);
  }
  /// The whole picture reads the start.
  void setTop() {
    dragHandle(1, {0.99, 0.99});
    typeInto("start", "0.5x1.5");
    typeInto("end", "0.5x2.5");
  }
  std::string corner() { return bench->findChild<QLabel*>("corner")->text().toStdString(); }
  QLabel& gauge() { return *bench->findChild<QLabel*>("finding Smoothness"); }
};

TEST_F(FieldTest, EachShapeHasItsDialsAndHandlesThatSayTheirTimes) {
  openWithField();
  EXPECT_TRUE(field("start").isVisible());
  choose("shape=radial");
  EXPECT_FALSE(field("start").isVisible());
  EXPECT_TRUE(field("outer").isVisible());
  ASSERT_EQ(picture().state().handles.size(), 4u);
  EXPECT_EQ(picture().state().handles[1].label, "−1.000 s");
  EXPECT_EQ(picture().state().handles[2].label, "now");
  dragHandle(2, {0.5, 0.9});
  EXPECT_NEAR(number("outer"), 0.4, 0.02);
  EXPECT_NEAR(number("angle"), 90, 3);
  dragHandle(0, {0.25, 0.5});
  EXPECT_NEAR(valueOf<Place>(stage(), "centre").x, 0.25, 0.01);
  EXPECT_EQ(bench->document().undoStack().undoText().left(6), "Centre");
  choose("shape=sweep");
  dragHandle(2, {0.25, 0.9});
  EXPECT_NEAR(number("turn"), 360, 1);  // the angle begins there too
  choose("shape=noise");
  dragHandle(1, {0.5, 0.5});
  EXPECT_NEAR(number("cloud-size"), 0.25 * 320 / 180, 0.03);
  // A second shape has handles of its own, after the first one's.
  choose("combine=only-where");
  choose("second-shape=radial");
  ASSERT_EQ(picture().state().handles.size(), 6u);
  EXPECT_EQ(picture().state().handles[4].label, "second 100 %");
  dragHandle(4, {0.5, 0.75});
  EXPECT_NEAR(number("second-outer"), 0.25, 0.02);
  choose("combine=alone");
  choose("shape=footage");
  EXPECT_TRUE(button("measure=motion").isVisible());
  EXPECT_TRUE(picture().state().message.isEmpty());
  // Every step of it can be taken back.
  while (bench->document().undoStack().canUndo()) bench->document().undoStack().undo();
  EXPECT_TRUE(project().chain.empty());
}

TEST_F(FieldTest, APictureThatIsMissingIsSaidOnThePicture) {
  openWithField();
  choose("shape=picture");
  typeInto("file", "/nowhere/ramp.png");
  EXPECT_TRUE(until([&] { return picture().state().message.contains("ramp.png"); }));
  PaintedPicture ramp(Size{2, 1}, std::vector<std::uint16_t>{0, 65535});
  test::writeFile(folder / "ramp.png", *paintingBytes(ramp));
  // Its name alone: it is looked for beside the footage.
  typeInto("file", "ramp.png");
  EXPECT_EQ(valueOf<std::string>(project().chain[0], "file"), folder / "ramp.png");
  EXPECT_TRUE(until([&] { return picture().state().message.isEmpty(); }));
}

TEST_F(FieldTest, TheMovementButtonGivesKeysAndChangedValuesMakeMore) {
  openWithField();
  goTo(0);
  QTest::mouseClick(&movement("back"), Qt::LeftButton, Qt::ShiftModifier);
  EXPECT_EQ(movement("back").state(), MovementButton::State::KeyHere);
  goTo(30);
  EXPECT_EQ(movement("back").state(), MovementButton::State::Moves);
  typeInto("back", "0.5s");
  EXPECT_EQ(bench->document().undoStack().undoText(), "Key Back 0.500 s");
  ASSERT_EQ(stage().keys.at(at("back")).size(), 2u);
  EXPECT_EQ(stage().keys.at(at("back"))[1].at, Rational(1));
  goTo(15);
  EXPECT_EQ(field("back").text(), "0.750 s");
  EXPECT_EQ(picture().state().handles[0].label, "−0.750 s");
  ASSERT_TRUE(lanes().isVisible());
  // The key is dragged to another frame and another value in its lane, to the frame.
  const QPointF key = lanes().sight().keyPoint(0, 1);
  const double perFrame = (lanes().sight().keyPoint(0, 1).x() - lanes().sight().keyPoint(0, 0).x()) / 30;
  drag(lanes(), key, key + QPointF(perFrame * 10.3, 0));
  EXPECT_EQ(stage().keys.at(at("back"))[1].at, Rational(40, 30));
  QTest::keyClick(&lanes(), Qt::Key_Left);
  EXPECT_EQ(stage().keys.at(at("back"))[1].at, Rational(39, 30));
  // Its way is softened with the handle beside it.
  drag(lanes(), lanes().sight().easePoint(0, 1, true), lanes().sight().easePoint(0, 1, true) - QPointF(perFrame * 12, 0));
  EXPECT_EQ(stage().keys.at(at("back"))[1].ease.way, Ease::Way::Curve);
  EXPECT_GT(stage().keys.at(at("back"))[1].ease.arrive, 0.2);
  // Copied and pasted at the playhead; removed.
  QTest::mouseClick(&lanes(), Qt::LeftButton, {}, lanes().sight().keyPoint(0, 0).toPoint());
  QTest::keyClick(&lanes(), Qt::Key_C, Qt::ControlModifier);
  goTo(50);
  QTest::keyClick(&lanes(), Qt::Key_V, Qt::ControlModifier);
  ASSERT_EQ(stage().keys.at(at("back")).size(), 3u);
  EXPECT_EQ(stage().keys.at(at("back"))[2].at, Rational(50, 30));
  QTest::keyClick(&lanes(), Qt::Key_Delete);
  EXPECT_EQ(stage().keys.at(at("back")).size(), 2u);
  EXPECT_EQ(project().chain.size(), 1u) << "the stage stays when its keys are deleted";
  // The last keys go with the pin, and the value that was seen stays.
  goTo(0);
  QTest::mouseClick(&movement("back"), Qt::LeftButton, Qt::ShiftModifier);
  goTo(39);
  QTest::mouseClick(&movement("back"), Qt::LeftButton, Qt::ShiftModifier);
  EXPECT_TRUE(stage().keys.empty());
  EXPECT_FALSE(lanes().isVisible());
  EXPECT_EQ(number("back"), 0.5);
}

TEST_F(FieldTest, ChosenKeysStandBetweenBracketsThatStretchThem) {
  openWithField();
  for (const auto& [frame, value] : {std::pair{0, "1s"}, std::pair{10, "0.5s"}, std::pair{30, "0.8s"}}) {
    goTo(frame);
    if (frame == 0) QTest::mouseClick(&movement("back"), Qt::LeftButton, Qt::ShiftModifier);
    typeInto("back", value);
  }
  const auto moments = [&] {
    std::vector<Rational> all;
    for (const Key& key : stage().keys.at(at("back"))) all.push_back(key.at);
    return all;
  };
  ASSERT_EQ(moments(), (std::vector<Rational>{0, Rational(1, 3), 1}));
  QTest::mouseClick(&lanes(), Qt::LeftButton, {}, lanes().sight().keyPoint(0, 0).toPoint());
  EXPECT_FALSE(lanes().sight().brackets()) << "a single moment has no length";
  for (const std::size_t key : {1u, 2u})
    QTest::mouseClick(&lanes(), Qt::LeftButton, Qt::ShiftModifier, lanes().sight().keyPoint(0, key).toPoint());
  ASSERT_TRUE(lanes().sight().brackets());
  // The bracket is seen beside the key.
  const QPointF right = lanes().sight().brackets()->right.center(), key = lanes().sight().keyPoint(0, 2);
  EXPECT_GT(right.x(), key.x());
  const QImage seen = lanes().grab().toImage();
  int drawn = 0;
  for (int x = -4; x <= 4; ++x) drawn += qGray(seen.pixel(right.toPoint() + QPoint(x, 0))) > 120;
  EXPECT_GE(drawn, 1);
  const double frame = (key.x() - lanes().sight().keyPoint(0, 0).x()) / 30;
  drag(lanes(), right, right + QPointF(frame * 15.2, 0));
  EXPECT_EQ(moments(), (std::vector<Rational>{0, Rational(1, 2), Rational(3, 2)})) << "half as long again, on pictures";
  EXPECT_EQ(lanes().sight().selected.size(), 3u);
  ASSERT_TRUE(trigger("Undo Stretch keys of Back"));
  EXPECT_EQ(moments(), (std::vector<Rational>{0, Rational(1, 3), 1})) << "one step";
  // At the beginning, the last key stays; keys never pass each other.
  QTest::keyClick(&lanes(), Qt::Key_Escape);
  for (const std::size_t each : {0u, 1u, 2u})
    QTest::mouseClick(&lanes(), Qt::LeftButton, each ? Qt::ShiftModifier : Qt::NoModifier,
                      lanes().sight().keyPoint(0, each).toPoint());
  ASSERT_TRUE(lanes().sight().brackets());
  const QPointF left = lanes().sight().brackets()->left.center();
  drag(lanes(), left, left + QPointF(frame * 80, 0));
  ASSERT_EQ(moments().size(), 3u);
  EXPECT_EQ(moments().back(), Rational(1));
  EXPECT_LT(moments()[0], moments()[1]);
}

TEST_F(FieldTest, KeyedPlacesShowTheirPath) {
  openWithField();
  goTo(0);
  QTest::mouseClick(&movement("start"), Qt::LeftButton, Qt::ShiftModifier);
  goTo(30);
  dragHandle(0, {0.9, 0.1});
  ASSERT_EQ(stage().keys.at(at("start")).size(), 2u);
  // The key that is not here stands on the path and can be moved there.
  const auto& handles = picture().state().handles;
  const auto other =
      std::find_if(handles.begin(), handles.end(), [](const Handle& h) { return h.pathParameter.has_value(); });
  ASSERT_NE(other, handles.end());
  dragHandle(static_cast<std::size_t>(other - handles.begin()), {0.2, 0.3});
  EXPECT_NEAR(stage().keys.at(at("start"))[0].value[0], 0.2, 0.01);
  EXPECT_NEAR(stage().keys.at(at("start"))[1].value[0], 0.9, 0.01);
}

TEST_F(FieldTest, APinnedMomentIsWhatIsSeenAtTheClick) {
  openWithField();
  goTo(45);
  stillFor(80);
  QTest::mouseClick(&button("pin-here"), Qt::LeftButton);
  EXPECT_TRUE(picture().state().corner.contains("Click"));
  // In the middle row of blocks: half of the way back from now.
  QTest::mouseClick(&picture(), Qt::LeftButton, {}, picture().toWidget({0.3, 0.5}).toPoint());
  stillFor(80);
  EXPECT_EQ(valueOf<std::size_t>(stage(), "start-holds"), 1u);
  EXPECT_NEAR(number("pinned-moment"), 45 / 30.0 - 0.5, 0.02);
  EXPECT_EQ(picture().state().handles[0].label.substr(0, 5), "holds");
  // The start goes on reading that moment, whatever the playhead does.
  const int held = static_cast<int>(std::lround(number("pinned-moment") * 30));
  setTop();
  for (const int n : {45, 20}) {
    goTo(n);
    EXPECT_TRUE(shows(held)) << n;
  }
  QTest::mouseClick(&button("pin-here"), Qt::LeftButton);
  QTest::keyClick(&picture(), Qt::Key_Escape);
  EXPECT_FALSE(picture().state().corner.contains("Click"));
}

TEST_F(FieldTest, PaintedOnThePictureSavedAndOpened) {
  openWithField();
  choose("shape=painted");
  goTo(40);
  EXPECT_TRUE(shows(10)) << "nothing painted: all of it reads the start";
  QTest::mouseClick(&button("paint fill all"), Qt::LeftButton);
  EXPECT_TRUE(shows(40));
  EXPECT_EQ(bench->document().undoStack().undoText(), "Fill the painting");
  QTest::mouseClick(&button("paint clear"), Qt::LeftButton);
  EXPECT_TRUE(shows(10));
  QTest::mouseClick(&button("paint=brush"), Qt::LeftButton);
  const int steps = bench->document().undoStack().index();
  drag(picture(), picture().toWidget({0.1, 0.125}), picture().toWidget({0.9, 0.125}));
  stillFor(80);
  EXPECT_EQ(bench->document().undoStack().index(), steps + 1) << "a stroke is one step";
  // The first row of blocks reads now, the others the start; seen when the tool is laid down, and with it the field.
  QTest::mouseClick(&button("paint=brush"), Qt::LeftButton);
  EXPECT_FALSE(picture().state().field) << "with the tool the field goes, whoever answers later";
  EXPECT_TRUE(shows((40 & 15) | (10 & ~15)));
  QTest::mouseClick(&button("paint=fill"), Qt::LeftButton);
  auto path = [&](double x, double y) { return picture().toWidget({x, y}); };
  QTest::mousePress(&picture(), Qt::LeftButton, {}, path(0.02, 0.27).toPoint());
  for (const QPointF& to : {path(0.98, 0.27), path(0.98, 0.99), path(0.02, 0.99), path(0.02, 0.3)}) {
    QMouseEvent move(QEvent::MouseMove, to, picture().mapToGlobal(to), Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&picture(), &move);
  }
  QTest::mouseRelease(&picture(), Qt::LeftButton, {}, path(0.02, 0.3).toPoint());
  QTest::mouseClick(&button("paint=fill"), Qt::LeftButton);
  EXPECT_TRUE(shows(40));
  const Project before = project();
  const QString file = QString::fromStdString(folder / "painted.molten");
  ASSERT_TRUE(bench->document().save(file));
  const auto names = folder.names();
  EXPECT_TRUE(std::any_of(names.begin(), names.end(), [](auto& n) { return n.starts_with("painted-painted-"); }));
  bench->document().newProject();
  bench->openPath(file);
  ASSERT_TRUE(until([&] { return bench->footage() != nullptr; }));
  EXPECT_EQ(valueOf<Painting>(stage(), "painted"), valueOf<Painting>(before.chain[0], "painted"));
  EXPECT_TRUE(bench->document().undoStack().isClean());
}

TEST_F(FieldTest, AcrossAndDownStandInLineAndTellWhatIsRead) {
  openWithField();
  goTo(45);
  stillFor(80);
  // Until the slices are there, and what is told is about the picture at the playhead.
  ASSERT_TRUE(until([&] {
    const auto& reads = down().state().reads;
    return !across().slice().isNull() && !reads.empty() && std::abs(reads.back() - 1.5) < 0.02;
  }));
  // The picture's edges and the section's stand above each other.
  const QPoint left = picture().mapTo(bench.get(), picture().toWidget({0, 0}).toPoint());
  EXPECT_NEAR(across().mapTo(bench.get(), across().point(0, 0).toPoint()).x(), left.x(), 1.5);
  EXPECT_NEAR(down().mapTo(bench.get(), down().point(0, 0).toPoint()).y(), left.y(), 1.5);
  // A vertical field: a column's line is slanted from a second ago to now, a row's level at the middle.
  EXPECT_NEAR(down().state().reads.front(), 0.5, 0.02);
  EXPECT_NEAR(down().state().reads.back(), 1.5, 0.02);
  EXPECT_NEAR(across().state().reads[20], 1.0, 0.02);
  // Their time shows what the stage reads with some room, not the whole clip; the wheel shows more of it.
  for (const SectionView* const band : {&across(), &down()}) {
    EXPECT_NEAR(band->state().first, 0.5 - 0.25, 0.03);
    EXPECT_NEAR(band->state().last, 1.5 + 0.25, 0.03);
  }
  const QPointF onBand = across().point(0.5, 1);
  QWheelEvent farther(onBand, across().mapToGlobal(onBand), {}, {0, -240}, Qt::NoButton, Qt::NoModifier,
                      Qt::NoScrollPhase, false);
  QApplication::sendEvent(&across(), &farther);
  EXPECT_NEAR(across().state().last - across().state().first, 1.5 * 1.25 * 1.25, 0.05);
  EXPECT_NEAR(across().point(0.5, 1).y(), onBand.y(), 1) << "about the moment under the hand";
  QTest::mouseDClick(&across(), Qt::LeftButton, {}, across().point(0.8, 0.3).toPoint());
  EXPECT_NEAR(across().state().first, 0.25, 0.03);
  // Dragging the line sets the reach.
  drag(down(), down().linePoint(0.1), down().linePoint(0.1) + QPointF(12, 0));
  EXPECT_LT(number("back"), 0.95);
  const double before = number("back");
  drag(across(), across().linePoint(0.3), across().linePoint(0.3) - QPointF(0, 12));
  EXPECT_NE(number("back") + number("ahead"), before);
  // The pixel under the pointer is told, and ringed in the other views.
  QTest::mouseMove(&picture(), picture().toWidget({0.25, 0.5}).toPoint());
  QMouseEvent move(QEvent::MouseMove, picture().toWidget({0.25, 0.999}),
                   picture().mapToGlobal(picture().toWidget({0.25, 0.999})), Qt::NoButton, Qt::NoButton,
                   Qt::NoModifier);
  QApplication::sendEvent(&picture(), &move);
  EXPECT_TRUE(until([&] { return corner().starts_with("x 80 y 179\nframe "); })) << corner();
  EXPECT_TRUE(across().state().ring && std::abs(across().state().ring->first - 0.25) < 0.01);
  // The marked row is dragged on the Picture.
  drag(picture(), picture().toWidget({0.3, 0.5}), picture().toWidget({0.3, 0.25}));
  EXPECT_TRUE(across().state().title.contains("row 4"));
  ASSERT_TRUE(trigger("Across and Down"));
  EXPECT_FALSE(across().isVisible());
  // Without them what is read is said on the Picture.
  QApplication::sendEvent(&picture(), &move);
  EXPECT_TRUE(until([&] { return picture().state().pointed.contains("frame "); }));
  ASSERT_TRUE(trigger("Across and Down"));
  EXPECT_TRUE(across().isVisible());
  // They go with the last stage that displaces pixels.
  QTest::keyClick(&picture(), Qt::Key_B, Qt::ControlModifier);
  EXPECT_FALSE(across().isVisible());
}

TEST_F(FieldTest, TheGaugeMeasuresAndItsRemedySmooths) {
  openWithField();
  // 30 frames over 180 rows.
  ASSERT_TRUE(until([&] { return gauge().text().contains("6.0 px"); })) << gauge().text().toStdString();
  emit gauge().linkActivated("remedy");
  EXPECT_EQ(project().source.between, InBetween::Flow);
  EXPECT_TRUE(until([&] { return gauge().text().contains("Flow makes"); }));
  EXPECT_FALSE(gauge().text().contains("<a"));
  QTest::keyClick(&picture(), Qt::Key_E);
  ASSERT_TRUE(until([&] { return !picture().steps().isNull(); }));
  const QImage& borders = picture().steps();
  int rows = 0;
  for (int y = 0; y < borders.height(); ++y) rows += qAlpha(borders.pixel(borders.width() / 2, y)) > 0;
  EXPECT_NEAR(rows, 30, 1);
}

TEST_F(FieldTest, ComparedInEveryWay) {
  openWithField();
  goTo(45);
  ASSERT_TRUE(shows(numberInField(45)));
  QTest::keyClick(&picture(), Qt::Key_W);
  stillFor(100);
  EXPECT_EQ(picture().state().comparing, Comparing::Wipe);
  // Left of the border is the footage itself.
  drag(picture(), {picture().wipe() * picture().width(), 60}, {picture().width() - 1.0, 60});
  EXPECT_TRUE(shows(45));
  drag(picture(), {picture().wipe() * picture().width(), 60}, {1, 60});
  EXPECT_TRUE(shows(numberInField(45)));
  ASSERT_TRUE(trigger("Side by side"));
  stillFor(100);
  EXPECT_TRUE(shows(numberInField(45))) << "the right one is the picture as it is now";
  ASSERT_TRUE(trigger("Difference"));
  stillFor(100);
  ASSERT_TRUE(trigger("Off"));
  // Version B: kept, changed over, compared with.
  ASSERT_TRUE(trigger("Keep these settings as version B"));
  typeInto("back", "0s");
  EXPECT_TRUE(shows(45));
  ASSERT_TRUE(trigger("Change A and B over"));
  EXPECT_TRUE(shows(numberInField(45)));
  EXPECT_EQ(bench->document().undoStack().undoText(), "Change A and B over");
  ASSERT_TRUE(trigger("With version B"));
  stillFor(100);
  drag(picture(), {picture().wipe() * picture().width(), 60}, {picture().width() - 1.0, 60});
  EXPECT_TRUE(shows(45));
}

TEST_F(FieldTest, TheResponseIsDrawn) {
  openWithField();
  auto* curve = bench->findChild<CurveEditor*>("response");
  ASSERT_TRUE(curve);
  QTest::mouseDClick(curve, Qt::LeftButton, {}, QPoint(curve->width() / 2, curve->height() / 4));
  ASSERT_EQ(valueOf<CurvePoints>(stage(), "response").size(), 3u);
  drag(*curve, curve->pointAt(1), curve->pointAt(1) + QPointF(0, 30));
  EXPECT_LT(valueOf<CurvePoints>(stage(), "response")[1].y, 0.6);
  QTest::mouseDClick(curve, Qt::LeftButton, {}, curve->pointAt(1).toPoint());
  EXPECT_EQ(valueOf<CurvePoints>(stage(), "response"), straightCurve);
}

TEST_F(FieldTest, ATimeMapIsRenderedAndReadBack) {
  openWithField();
  choose("shape=radial");
  RenderSettings settings;
  settings.footage = bench->footage();
  settings.project = project();
  settings.project.output.path = folder / "map-%05d.png";
  settings.timeMap = TimeMapUnit::Seconds;
  ASSERT_TRUE(render(settings, {}, {}));
  bench->addTimeMap(QString::fromStdString(folder / "map-00007.png"));
  ASSERT_EQ(project().chain.size(), 2u);
  EXPECT_NEAR(valueOf<double>(project().chain[1], "back"), 1, 1e-6);
  bench->addTimeMap(QString::fromStdString(folder / "none.png"));
  EXPECT_TRUE(picture().state().corner.contains("has no scale"));
}

}  // namespace
}  // namespace molten::test

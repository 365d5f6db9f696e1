// Values that move by themselves: set on the Dials, seen in the lanes and on the Picture.
#include <QToolButton>

#include "app/bench/bench.h"
#include "app/chart/key_lanes.h"
#include "app/dials/movement_button.h"
#include "app/dials/movement_panel.h"
#include "app/sections/section_view.h"
#include "app/sections/slices.h"
#include "bench_fixture.h"
#include "core/engine/measured_course.h"
#include "core/stages/moving_values.h"
#include "core/stages/time_field.h"

namespace molten {
namespace {

class MovementTest : public test::BenchTest {
 protected:
  void openWith(const char* stage) {
    open(clip());
    ASSERT_TRUE(trigger(stage));
    stillFor(80);
    openCards();
  }
  MovementButton& movement(const char* id) { return *bench->findChild<MovementButton*>(QString("movement ") + id); }
  MovementPanel* panel() {
    for (auto* const one : bench->findChildren<MovementPanel*>())
      if (one->isVisible()) return one;
    return nullptr;
  }
  /// Clicks a button of the panel.
  void press(const char* name) {
    auto* const pressed = panel()->findChild<QPushButton*>(name);
    ASSERT_NE(pressed, nullptr) << name;
    QTest::mouseClick(pressed, Qt::LeftButton);
    QTest::qWait(1);
  }
  void typeInto(const char* name, const char* text) {
    auto* const line = panel()->findChild<QLineEdit*>(name);
    ASSERT_NE(line, nullptr) << name;
    QTest::mouseClick(line, Qt::LeftButton);
    QTest::keyClicks(line, text);
    QTest::keyClick(line, Qt::Key_Return);
  }
  const Stage& stage(std::size_t i = 0) { return project().chain[i]; }
  std::size_t at(const char* id) { return parameterIndex(stage().kind->description(), id); }
  KeyLanes& lanes() { return *bench->findChild<KeyLanes*>(); }
  QString undoText() { return bench->document().undoStack().undoText(); }
  /// How bright the white of the picture is on the screen.
  double brightness() {
    const QImage image = picture().image();
    int most = 0;
    for (int y = 0; y < image.height(); y += 3)
      for (int x = 0; x < image.width(); x += 3) most = std::max(most, qGray(image.pixel(x, y)));
    return most;
  }
};

/// The shot's brightness is found out beside; then the lane and the panel have what the Picture has.
TEST_F(MovementTest, WhatFollowsTheBrightnessIsShownAsItWillBe) {
  openWith("Finish");
  QTest::mouseClick(&movement("exposure"), Qt::LeftButton);
  press("add follow");
  auto* const what = panel()->findChild<QPushButton*>("drive 0 follows=brightness");
  ASSERT_NE(what, nullptr);
  QTest::mouseClick(what, Qt::LeftButton);
  typeInto("drive 0 goes-to", "2");
  ASSERT_EQ(stageText(stage()), "finish:exposure=0_follow_brightness_2");
  const auto& described = stage().kind->description().parameters[at("exposure")];
  const auto laneAt = [&](double seconds) { return lanes().sight().state.lanes.at(0).at(described, seconds)[0]; };
  ASSERT_TRUE(until([&] { return laneAt(0) > 0.5; })) << "a dark picture is made brighter";
  // The more blocks are bright the less.
  EXPECT_TRUE(lanes().sight().state.lanes[0].known());
  KeyLane unmeasured = lanes().sight().state.lanes[0];
  unmeasured.followed = followedAs(bench->footage()->video(), {});
  EXPECT_FALSE(unmeasured.known());
  EXPECT_EQ(unmeasured.at(described, 0)[0], 0) << "as it stands until then";
  EXPECT_GT(laneAt(0), laneAt(1 / 30.0));
  EXPECT_GT(laneAt(16 / 30.0), laneAt(15 / 30.0));
  const auto known = lanes().sight().state.lanes[0].followed->value({.what = Follow::What::Brightness}, 0.5);
  EXPECT_NEAR(laneAt(0.5), 2 * (1 - known), 1e-9);
  // Where the shot is another, so is what follows it.
  const double before = laneAt(10 / 30.0);
  ASSERT_TRUE(trigger("Finish"));
  stillFor(80);
  QTest::keyClick(&picture(), Qt::Key_1);
  ASSERT_EQ(stage(1).kind->description().id, "finish");
  ASSERT_TRUE(until([&] { return lanes().isVisible() && laneAt(10 / 30.0) == before; }));
}

TEST_F(MovementTest, AJitterIsAddedSetSeenAndUndone) {
  openWith("Finish");
  EXPECT_EQ(movement("exposure").state(), MovementButton::State::Steady);
  QTest::mouseClick(&movement("exposure"), Qt::LeftButton);
  ASSERT_NE(panel(), nullptr);
  press("add jitter");
  EXPECT_EQ(undoText(), "Jitter of Exposure");
  typeInto("drive 0 amount", "2");
  typeInto("drive 0 times", "6");
  EXPECT_EQ(movement("exposure").state(), MovementButton::State::Jagged);
  ASSERT_EQ(stageText(stage()), "finish:exposure=0_jitter_2_6");
  // The lane has the values as they will be, and the Picture is as bright as they say.
  ASSERT_TRUE(lanes().isVisible());
  ASSERT_EQ(lanes().sight().state.lanes.size(), 1u);
  const KeyLane& lane = lanes().sight().state.lanes[0];
  const auto& described = stage().kind->description().parameters[lane.parameter];
  double darkest = 1e9, brightest = -1e9, low = 1e9, high = -1e9;
  for (const int frame : {3, 7, 13, 22, 31, 44, 52}) {
    goTo(frame);
    stillFor(60);
    const double value = std::get<double>(stage().valuesAt(frame / 30.0)[at("exposure")]);
    EXPECT_EQ(lane.at(described, frame / 30.0)[0], value);
    if (value < low) low = value, darkest = brightness();
    if (value > high) high = value, brightest = brightness();
  }
  EXPECT_GT(high - low, 1);
  EXPECT_LT(low, -0.3);
  EXPECT_GT(brightest, darkest + 4);
  // Back again, a step at a time.
  for (const char* step : {"Jitter ±2.00 stops, 6.00 a second of Exposure", "Jitter ±2.00 stops, 8.00 a second of Exposure"}) {
    EXPECT_EQ(undoText(), step);
    bench->document().undoStack().undo();
  }
  bench->document().undoStack().undo();
  EXPECT_TRUE(stage().drives.empty());
  EXPECT_EQ(movement("exposure").state(), MovementButton::State::Steady);
  EXPECT_FALSE(lanes().isVisible());
  ASSERT_NE(panel(), nullptr) << "it stays open for the next try";
  QTest::keyClick(panel(), Qt::Key_Escape);
  EXPECT_EQ(panel(), nullptr);
}

TEST_F(MovementTest, KeysAndSeveralDrivesOfOneValue) {
  openWith("Finish");
  goTo(0);
  QTest::mouseClick(&movement("saturation"), Qt::LeftButton);
  press("key here");
  EXPECT_EQ(undoText(), "Key of Saturation");
  EXPECT_EQ(movement("saturation").state(), MovementButton::State::KeyHere);
  press("add wave");
  press("add follow");
  typeInto("drive 1 goes-to", "40");
  press("add jitter");
  goTo(20);
  EXPECT_EQ(movement("saturation").state(), MovementButton::State::Jagged);
  EXPECT_EQ(stageText(stage()),
            "finish:saturation=100%@0s_wave_20%_1s_follow_speed_40%_jitter_20%_8");
  // What a hand sets is the key, whatever the drives make of it.
  QTest::mouseClick(&field("saturation"), Qt::LeftButton);
  QTest::keyClicks(&field("saturation"), "60");
  QTest::keyClick(&field("saturation"), Qt::Key_Return);
  EXPECT_EQ(stage().keys.at(at("saturation")).size(), 2u);
  EXPECT_EQ(stage().keys.at(at("saturation"))[1].value[0], 0.6);
  EXPECT_EQ(field("saturation").text(), "60.0 %");
  press("remove 1");
  EXPECT_EQ(undoText(), "Remove follow of Saturation");
  EXPECT_EQ(stage().drives.at(at("saturation")).size(), 2u);
  EXPECT_EQ(panel()->findChild<QLineEdit*>("drive 1 length"), nullptr);
  press("remove keys");
  EXPECT_FALSE(stage().keys.contains(at("saturation")));
  EXPECT_EQ(stage().drives.at(at("saturation")).size(), 2u);
}

/// In the window the colour drains just where the shot stands.
TEST_F(MovementTest, ColourFollowsTheSpeedOfTheShot) {
  open(clip());
  ASSERT_TRUE(trigger("Pace"));
  stillFor(60);
  ASSERT_TRUE(trigger("Finish"));
  stillFor(60);
  Project paced = project();
  setText(paced.chain[0], "spans", "0.5s@100%+0.5s@0%+1s@100%");
  bench->document().apply({"Spans", paced, {}});
  QTest::mouseClick(&movement("saturation"), Qt::LeftButton);
  press("add follow");
  ASSERT_EQ(stageText(stage(1)), "finish:saturation=100%_follow_speed_0%");
  const KeyLane& lane = lanes().sight().state.lanes[0];
  const auto& described = stage(1).kind->description().parameters[lane.parameter];
  EXPECT_EQ(lane.at(described, 0.4)[0], 1);
  EXPECT_EQ(lane.at(described, 0.6)[0], 0);
  EXPECT_EQ(lane.at(described, 1.2)[0], 1);
  // Another value's movement takes the place of this one's; a click on the same closes it.
  QTest::mouseClick(&movement("hue"), Qt::LeftButton);
  EXPECT_EQ(bench->findChildren<MovementPanel*>().size() - 1, 1);
  QTest::mouseClick(&movement("hue"), Qt::LeftButton);
  EXPECT_EQ(panel(), nullptr);
}

/// The panel is in the column and in sight, at the least size of the window too.
TEST_F(MovementTest, NothingOfThePanelIsCutOff) {
  openWith("Finish");
  for (const QSize size : {QSize(1280, 800), QSize(960, 600)}) {
    bench->resize(size);
    QTest::qWait(20);
    for (const char* id : {"exposure", "warmth"}) {
      QTest::mouseClick(&movement(id), Qt::LeftButton);
      press("add jitter");
      QTest::qWait(20);
      for (auto* const child : panel()->findChildren<QWidget*>()) {
        if (!child->isVisible()) continue;
        EXPECT_GE(child->width(), child->minimumSizeHint().width()) << child->objectName().toStdString();
        EXPECT_TRUE(panel()->rect().contains(QRect(child->mapTo(panel(), QPoint(0, 0)), child->size())))
            << child->objectName().toStdString();
      }
      auto* const last = panel()->findChild<QPushButton*>("add jitter");
      EXPECT_EQ(bench->childAt(last->mapTo(bench.get(), last->rect().center())), last) << id << size.width();
      QTest::keyClick(panel(), Qt::Key_Escape);
    }
  }
}

/// Above and below a Framing a field's handles stand where they are seen, and are taken hold of there.
TEST_F(MovementTest, HandlesAreTrueUnderAFraming) {
  open(clip());
  addTimeField();
  ASSERT_TRUE(trigger("Framing"));
  stillFor(60);
  Project zoomed = project();
  setText(zoomed.chain[1], "zoom", "200%");
  setText(zoomed.chain[1], "place", "0.5x0.25");
  bench->document().apply({"Zoom", zoomed, {}});
  QTest::keyClick(bench.get(), Qt::Key_1);
  stillFor(60);
  // The field goes from the top centre to the bottom centre; of that the upper half is seen.
  setText(zoomed.chain[0], "start", "0.4x0.2");
  setText(zoomed.chain[0], "end", "0.6x0.5");
  bench->document().apply({"Ends", zoomed, {}});
  stillFor(60);
  const auto& handles = picture().state().handles;
  ASSERT_EQ(handles.size(), 2u);
  EXPECT_NEAR(handles[0].place.x, 0.5 + (0.4 - 0.5) * 2, 1e-6);
  EXPECT_NEAR(handles[0].place.y, 0.25 + (0.2 - 0.25) * 2, 1e-6);
  EXPECT_NEAR(handles[1].place.y, 0.25 + (0.5 - 0.25) * 2, 1e-6);
  const QPointF from = picture().toWidget({handles[0].place.x, handles[0].place.y}), to = picture().toWidget({0.5, 0.45});
  drag(picture(), from, to);
  const Place start = std::get<Place>(project().chain[0].values[parameterIndex(timeField().description(), "start")]);
  EXPECT_NEAR(start.x, 0.5, 0.01);
  EXPECT_NEAR(start.y, 0.25 + (0.45 - 0.25) / 2, 0.01);
}

/// Across shows the footage at the places that are seen.
TEST_F(MovementTest, AcrossIsTrueUnderAFraming) {
  open(clip());
  addTimeField();
  ASSERT_TRUE(trigger("Framing"));
  stillFor(60);
  const auto bands = [&] {
    std::vector<QImage> all;
    for (auto* const section : bench->findChildren<SectionView*>()) all.push_back(section->grab().toImage());
    return all;
  };
  ASSERT_TRUE(until([&] { return bench->findChild<Slices*>()->known() > 0; }));
  // A row and a column on which something is lit.
  QTest::mouseClick(&picture(), Qt::LeftButton, Qt::ControlModifier, picture().toWidget({0.3, 0.1}).toPoint());
  stillFor(300);
  const auto before = bands();
  Project zoomed = project();
  // The moments that a row of an upright field reads stay: what changes is the footage behind them.
  setText(zoomed.chain[1], "mirror", "across");
  bench->document().apply({"Mirror", zoomed, {}});
  stillFor(100);
  EXPECT_FALSE(before == bands());
}

/// The Picture, what Across and Down are cut from and the small pictures of the deck: all of the same decoded frames.
TEST_F(MovementTest, TheClipIsDecodedOnce) {
  open(clip());
  addTimeField();
  auto* const slices = bench->findChild<Slices*>();
  ASSERT_TRUE(until([&] { return slices->known() == slices->count() && bench->player().filled() >= 1; }));
  const auto frames = static_cast<std::uint64_t>(bench->footage()->clock().frameCount());
  const auto feed = bench->player().sources()->feed();
  feed->waitUntilIdle();
  EXPECT_GE(feed->decoded(), frames);
  // The beginning of a group of frames may be gone through once more; what is not shared costs more than the clip again.
  EXPECT_LT(feed->decoded(), 2 * frames);
}

}  // namespace
}  // namespace molten

// The Dials in the real window: every parameter of every stage, as its description says it, by mouse and keys.
#include "app/chart/key_lanes.h"
#include "app/dials/curve_editor.h"
#include "app/dials/movement_button.h"
#include "app/dials/number_dial.h"
#include "app/dials/order_editor.h"
#include "bench_fixture.h"
#include "support/random_chains.h"

namespace molten::test {
namespace {

QString text(const std::string& s) {
  return QString::fromStdString(s);
}

class DialsTest : public BenchTest {
 protected:
  Dials& dials() { return *bench->findChild<Dials*>(); }
  const Stage& stage() { return project().chain[0]; }
  template <class Widget = QWidget>
  Widget* dial(const std::string& name) {
    return dials().findChild<Widget*>(text(name));
  }
  std::size_t at(std::string_view id) { return parameterIndex(stage().kind->description(), id); }

  void openWith(const StageKind& kind) {
    if (!project().chain.empty()) bench->document().apply(setChain(project(), {}, "Empty"));
    bench->document().apply(addStage(project(), kind));
    QTest::mouseClick(&chain(), Qt::LeftButton, {}, chain().tileRect(1).center());
    ASSERT_TRUE(dials().isVisible());
    settle();
  }

  /// Dials of other stages are really gone, those of this one stand.
  static void settle() {
    QCoreApplication::processEvents();
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  }

  /// Sets what a parameter depends on so that it counts.
  void bringIntoUse(std::size_t parameter) {
    const StageDescription& described = stage().kind->description();
    for (int depth = 0; depth < 5 && !isInUse(described, stage().values, parameter); ++depth) {
      std::size_t hinge = parameter;
      while (!described.parameters[hinge].when.empty()) {
        const auto& when = described.parameters[hinge].when[0];
        hinge = parameterIndex(described, when.parameter);
        if (!isInUse(described, stage().values, hinge)) continue;
        const ParameterDescription& on = described.parameters[hinge];
        const std::string wanted = !when.choices.empty()                                ? when.choices[0]
                                   : std::holds_alternative<ToggleDescription>(on.kind) ? "on"
                                                                                        : std::to_string(std::max(1, static_cast<int>(when.atLeast)));
        bench->document().apply(setValue(project(), 0, hinge, *parseValue(on, wanted, 30)));
        break;
      }
    }
  }

  void typeInto(QLineEdit& line, const std::string& words, Qt::Key end = Qt::Key_Return) {
    line.setFocus();
    line.selectAll();
    QTest::keyClicks(&line, text(words));
    QTest::keyClick(&line, end);
  }

  /// Does what a hand would do to set a value. False: nothing can be set in this dial by itself.
  bool setByHand(const ParameterDescription& parameter, const ParameterValue& value) {
    if (const auto* choices = std::get_if<ChoicesDescription>(&parameter.kind)) {
      auto* choice = dial<QPushButton>(parameter.id + "=" + choices->choices[std::get<std::size_t>(value)].id);
      if (!choice) return false;
      QTest::mouseClick(choice, Qt::LeftButton);
      return true;
    }
    if (std::holds_alternative<ToggleDescription>(parameter.kind)) {
      auto* toggle = dial<QPushButton>(parameter.id);
      if (!toggle) return false;
      QTest::mouseClick(toggle, Qt::LeftButton);
      return true;
    }
    if (auto* line = dial<QLineEdit>(parameter.id)) {
      typeInto(*line, valueText(parameter, value));
      return true;
    }
    return false;
  }

  void wheel(QWidget& widget, int notches, QPointF at) {
    QWheelEvent event(at, widget.mapToGlobal(at), {}, {0, 120 * notches}, Qt::NoButton, Qt::NoModifier,
                      Qt::NoScrollPhase, false);
    QApplication::sendEvent(&widget, &event);
  }
  void wheel(QWidget& widget, int notches) { wheel(widget, notches, QRectF(widget.rect()).center()); }
};

/// Another value than the one that there is, inside the range.
ParameterValue other(const ParameterDescription& parameter, const ParameterValue& now) {
  if (const auto* number = std::get_if<NumberDescription>(&parameter.kind)) {
    const double least = std::max(number->least, number->unit == Unit::Seconds ? 0.0 : number->least);
    double value = least + (std::min(number->most, number->usual) - least) / 4;
    const double grain = number->whole ? 1 : number->step;
    value = std::ceil(value / grain) * grain;
    return value == std::get<double>(now) ? std::min(number->most, value + (number->whole ? 1 : number->step)) : value;
  }
  if (std::holds_alternative<PlaceDescription>(parameter.kind)) return Place{0.375, 0.625};
  if (std::holds_alternative<ToggleDescription>(parameter.kind)) return !std::get<bool>(now);
  if (const auto* choices = std::get_if<ChoicesDescription>(&parameter.kind))
    return (std::get<std::size_t>(now) + 1) % choices->choices.size();
  if (std::holds_alternative<SpansDescription>(parameter.kind)) return PaceSpans{{Rational(1), Rational(1, 2)}};
  if (std::holds_alternative<OrderDescription>(parameter.kind)) return FrameOrder{{3, 7, 2}};
  return now;
}

TEST_F(DialsTest, EveryParameterOfEveryStageIsSetByHandInOneNamedStep) {
  open(clip("clip.mkv", 24));
  int set = 0;
  for (const StageKind* kind : stageKinds()) {
    openWith(*kind);
    const auto& parameters = kind->description().parameters;
    for (std::size_t i = 0; i < parameters.size(); ++i) {
      const ParameterDescription& parameter = parameters[i];
      bringIntoUse(i);
      ASSERT_TRUE(isInUse(kind->description(), stage().values, i)) << parameter.id;
      const ParameterValue before = stage().values[i], wanted = other(parameter, before);
      if (wanted == before) continue;  // is drawn, or chosen in a box: tests of its own
      QUndoStack& steps = bench->document().undoStack();
      const int step = steps.index();
      ASSERT_TRUE(setByHand(parameter, wanted)) << kind->description().id << "." << parameter.id;
      ASSERT_EQ(valueText(parameter, stage().values[i]), valueText(parameter, wanted))
          << kind->description().id << "." << parameter.id;
      EXPECT_EQ(steps.index(), step + 1) << parameter.id << " is one step";
      EXPECT_TRUE(steps.undoText().startsWith(text(parameter.label))) << steps.undoText().toStdString();
      steps.undo();
      EXPECT_EQ(stage().values[i], before) << parameter.id;
      ++set;
    }
  }
  EXPECT_GT(set, 100);
}

/// What does not count as the values are takes no room; what counts is seen, has its name and says what it is for.
TEST_F(DialsTest, OnlyWhatCountsIsSeenAndItSaysWhatItIs) {
  open(clip("clip.mkv", 24));
  RandomChains random(5, 24);
  for (const StageKind* kind : stageKinds())
    for (int round = 0; round < 4; ++round) {
      openWith(*kind);
      bench->document().apply(setChain(project(), {random.stage(*kind)}, "Any"));
      settle();
      openCards();
      const StageDescription& described = kind->description();
      for (std::size_t i = 0; i < described.parameters.size(); ++i) {
        const ParameterDescription& parameter = described.parameters[i];
        QWidget* widget = dial(parameter.id);
        if (const auto* choices = std::get_if<ChoicesDescription>(&parameter.kind))
          widget = dial(parameter.id + "=" + choices->choices[0].id);
        if (std::holds_alternative<SpansDescription>(parameter.kind)) widget = dial("span 0 speed");
        if (!widget) continue;  // a painting's tools are one set for all
        EXPECT_EQ(widget->isVisibleTo(&dials()), isInUse(described, stage().values, i))
            << described.id << "." << parameter.id;
        EXPECT_FALSE(widget->toolTip().isEmpty()) << parameter.id;
        EXPECT_EQ(dial("movement " + parameter.id) != nullptr, parameter.animatable) << parameter.id;
      }
    }
}

/// A value's first click takes all of it; the next one puts the caret where it is.
TEST_F(DialsTest, WhatIsTypedAfterAClickStandsInPlaceOfTheOldValue) {
  open(clip());
  addTimeField();
  QLineEdit& back = field("back");
  QTest::mouseClick(&back, Qt::LeftButton, {}, back.rect().center());
  EXPECT_EQ(back.selectedText(), back.text());
  QTest::keyClicks(&back, "3s");
  EXPECT_EQ(back.text(), "3s");
  QTest::mouseClick(&back, Qt::LeftButton, {}, QPoint(back.width() - 4, back.height() / 2));
  EXPECT_FALSE(back.hasSelectedText());
  QTest::keyClick(&back, Qt::Key_Return);
  EXPECT_EQ(this->back(), 3);
}

TEST_F(DialsTest, AFieldThatIsLeftOrEscapedKeepsWhatItShould) {
  open(clip());
  openWith(*stageKinds()[0]);
  const StageDescription& described = stage().kind->description();
  const auto animated = std::find_if(described.parameters.begin(), described.parameters.end(), [](const auto& p) {
    return std::holds_alternative<NumberDescription>(p.kind) && p.when.empty();
  });
  ASSERT_NE(animated, described.parameters.end());
  const auto i = static_cast<std::size_t>(animated - described.parameters.begin());
  auto& line = *dial<QLineEdit>(animated->id);
  const QString shown = line.text();
  const ParameterValue before = stage().values[i];
  typeInto(line, "0.7", Qt::Key_Escape);
  EXPECT_EQ(line.text(), shown) << "Escape takes back what was typed";
  EXPECT_EQ(stage().values[i], before);
  typeInto(line, "0.7", Qt::Key_Tab);
  EXPECT_NE(stage().values[i], before) << "Tab is as good as Return";
  const ParameterValue typed = stage().values[i];
  typeInto(line, "a while");
  EXPECT_EQ(stage().values[i], typed);
  EXPECT_TRUE(sentence().contains("a while")) << "what was refused is said in place";
  EXPECT_EQ(line.text(), "a while") << "and stays to be mended";
}

TEST_F(DialsTest, WheelArrowsAndTheSliderStepAndDrag) {
  open(clip());
  for (const StageKind* kind : stageKinds()) {
    openWith(*kind);
    const auto& parameters = kind->description().parameters;
    for (std::size_t i = 0; i < parameters.size(); ++i) {
      const auto* number = std::get_if<NumberDescription>(&parameters[i].kind);
      if (!number || !isInUse(kind->description(), stage().values, i)) continue;
      auto& line = *dial<QLineEdit>(parameters[i].id);
      const auto value = [&] { return std::get<double>(stage().values[i]); };
      const auto within = [&](double wanted) { return std::clamp(wanted, number->least, number->most); };
      const std::string which = kind->description().id + "." + parameters[i].id;
      const double first = value();
      line.clearFocus();
      wheel(line, 1);
      EXPECT_DOUBLE_EQ(value(), first) << which << ": without the focus the wheel is the page's";
      line.setFocus();
      wheel(line, 1);
      EXPECT_DOUBLE_EQ(value(), within(first + number->step)) << which;
      const double second = value();
      line.setFocus();
      QTest::keyClick(&line, Qt::Key_Down, Qt::ShiftModifier);
      EXPECT_DOUBLE_EQ(value(), within(second - 10 * number->step)) << which;
      if (!isInUse(kind->description(), stage().values, i)) continue;
      // A drag along the whole slider ends at what is usual, as one step.
      auto* slider = line.parentWidget()->findChild<DialSlider*>();
      ASSERT_NE(slider, nullptr) << which;
      bench->document().endGesture();
      const int step = bench->document().undoStack().index();
      drag(*slider, {slider->width() / 2.0, 11}, {slider->width() + 40.0, 11});
      EXPECT_DOUBLE_EQ(value(), within(number->usual)) << which;
      EXPECT_LE(bench->document().undoStack().index(), step + 1) << which;
    }
  }
}

TEST_F(DialsTest, TheNamesDoubleClickBringsTheDefaultBack) {
  open(clip());
  addTimeField();
  const auto& parameter = stage().kind->description().parameters[at("back")];
  typeInto(field("back"), "0.25s");
  ASSERT_EQ(back(), 0.25);
  for (auto* label : dials().findChildren<QLabel*>())
    if (label->text() == text(parameter.label) && label->isVisible()) QTest::mouseDClick(label, Qt::LeftButton);
  EXPECT_EQ(back(), std::get<NumberDescription>(parameter.kind).initial);
}

TEST_F(DialsTest, AnOrderIsPutTogetherHeldMovedAndTakenApart) {
  open(clip("clip.mkv", 24));
  ASSERT_TRUE(trigger("Frame Order"));
  auto& order = *bench->findChild<OrderEditor*>();
  const auto now = [&] { return frameOrderText(valueOf<FrameOrder>(stage(), "order")); };
  const auto frame = [&](int f) {
    QTest::mouseClick(&order, Qt::LeftButton, {}, order.frameRect(f).center().toPoint());
    QTest::qWait(5);
  };
  frame(2), frame(5), frame(5), frame(0);
  EXPECT_EQ(now(), "2+5:2+0");
  QTest::keyClick(&order, Qt::Key_Left, Qt::ControlModifier);
  EXPECT_EQ(now(), "2+0+5:2") << "Ctrl+Left moves the selected one";
  QTest::keyClick(&order, Qt::Key_Up);
  EXPECT_EQ(now(), "2+0:2+5:2");
  QTest::keyClick(&order, Qt::Key_Right);
  QTest::keyClick(&order, Qt::Key_Down);
  EXPECT_EQ(now(), "2+0:2+5");
  wheel(order, 1, order.tileRect(0).center());
  EXPECT_EQ(now(), "2:2+0:2+5");
  // A hold is typed, in pictures or as a time.
  QTest::keyClick(&order, Qt::Key_3);
  auto* hold = order.findChild<QLineEdit*>("hold");
  ASSERT_NE(hold, nullptr);
  QTest::keyClick(hold, Qt::Key_Return);
  EXPECT_EQ(now(), "2:3+0:2+5");
  settle();
  QTest::mouseDClick(&order, Qt::LeftButton, {}, order.tileRect(0).center().toPoint());
  hold = order.findChild<QLineEdit*>("hold");
  ASSERT_NE(hold, nullptr);
  QTest::keyClicks(hold, "a while");
  QTest::keyClick(hold, Qt::Key_Return);
  EXPECT_TRUE(sentence().contains("how long"));
  hold->selectAll();
  QTest::keyClicks(hold, "0,2s");
  QTest::keyClick(hold, Qt::Key_Return);
  EXPECT_EQ(now(), "2:6+0:2+5") << "0.2 s of 30 fps";
  settle();
  typeInto(field("order"), "2:2+0:2+5");
  drag(order, order.tileRect(0).center(), order.tileRect(2).center());
  EXPECT_EQ(now(), "0:2+5+2:2") << "dragged to the end";
  QTest::keyClick(&order, Qt::Key_Delete);
  EXPECT_EQ(now(), "0:2+5");
  EXPECT_EQ(project().chain.size(), 1u) << "Delete was the order's, not the stage's";
  // The text beside it shows the same, and sets it.
  EXPECT_EQ(field("order").text(), text(now()));
  typeInto(field("order"), "7-3+0:3");
  EXPECT_EQ(now(), "7-3+0:3");
  bench->document().undoStack().undo();
  EXPECT_EQ(now(), "0:2+5");
  QTest::keyClick(&order, Qt::Key_Delete);
  QTest::keyClick(&order, Qt::Key_Delete);
  EXPECT_TRUE(valueOf<FrameOrder>(stage(), "order").empty());
}

TEST_F(DialsTest, TheResponsesPointsAreAddedDraggedAndTakenAway) {
  open(clip());
  addTimeField();
  auto& curve = *dials().findChild<CurveEditor*>();
  const std::size_t i = at(curve.objectName().toStdString());
  const auto points = [&] { return std::get<CurvePoints>(stage().values[i]); };
  const auto place = [&](double x, double y) {
    return QPointF(5 + x * (curve.width() - 10), curve.height() - 5 - y * (curve.height() - 10));
  };
  const std::size_t atFirst = points().size();
  QTest::mouseDClick(&curve, Qt::LeftButton, {}, place(0.3, 0.7).toPoint());
  ASSERT_EQ(points().size(), atFirst + 1);
  EXPECT_NEAR(points()[1].x, 0.3, 0.02);
  EXPECT_NEAR(points()[1].y, 0.7, 0.02);
  bench->document().endGesture();
  const int step = bench->document().undoStack().index();
  // The ends stay at their sides, whatever the hand does; the one between stays between.
  drag(curve, place(0, points()[0].y), place(0.5, 0.4));
  EXPECT_EQ(points()[0].x, 0);
  EXPECT_NEAR(points()[0].y, 0.4, 0.02);
  EXPECT_EQ(bench->document().undoStack().index(), step + 1);
  drag(curve, place(points()[1].x, points()[1].y), place(1.4, 0.2));
  EXPECT_LT(points()[1].x, points()[2].x);
  EXPECT_TRUE(isCurve(points()));
  QTest::mouseDClick(&curve, Qt::LeftButton, {}, place(points()[1].x, points()[1].y).toPoint());
  EXPECT_EQ(points().size(), atFirst);
  QTest::mouseDClick(&curve, Qt::LeftButton, {}, place(0, points()[0].y).toPoint());
  EXPECT_EQ(points().size(), atFirst) << "an end is not taken away";
}

/// Every parameter that can move is given keys by its button, shows its value where the playhead is, and is steady
/// again.
TEST_F(DialsTest, EveryParameterThatCanMoveDoes) {
  open(clip());
  int moved = 0;
  for (const StageKind* kind : stageKinds()) {
    openWith(*kind);
    const auto& parameters = kind->description().parameters;
    for (std::size_t i = 0; i < parameters.size(); ++i) {
      if (!parameters[i].animatable) continue;
      bringIntoUse(i);
      const ParameterValue first = stage().values[i];
      const bool colour = std::holds_alternative<ColourDescription>(parameters[i].kind);
      const ParameterValue second = colour ? Colour{12, 34, 56} : other(parameters[i], first);
      auto* movement = dial<MovementButton>("movement " + parameters[i].id);
      ASSERT_NE(movement, nullptr) << parameters[i].id;
      goTo(0);
      QTest::mouseClick(movement, Qt::LeftButton, Qt::ShiftModifier);
      ASSERT_EQ(stage().keys.count(i), 1u) << kind->description().id << "." << parameters[i].id;
      EXPECT_EQ(movement->state(), MovementButton::State::KeyHere);
      goTo(10);
      EXPECT_EQ(movement->state(), MovementButton::State::Moves) << parameters[i].id;
      // Colours are chosen in a dialog.
      auto* const line = dial<QLineEdit>(parameters[i].id);
      const auto shown = [&] { return line ? line->text() : dial<QPushButton>(parameters[i].id)->text(); };
      if (line)
        typeInto(*line, valueText(parameters[i], second));
      else
        emit dials().valueChanged(i, second, false);
      ASSERT_EQ(stage().keys.at(i).size(), 2u) << kind->description().id << "." << parameters[i].id;
      EXPECT_EQ(shown(), text(valueLabel(parameters[i], second)));
      goTo(0);
      EXPECT_EQ(shown(), text(valueLabel(parameters[i], first))) << parameters[i].id;
      // Both keys go: the value stays where it is.
      QTest::mouseClick(movement, Qt::LeftButton, Qt::ShiftModifier);
      goTo(10);
      QTest::mouseClick(movement, Qt::LeftButton, Qt::ShiftModifier);
      EXPECT_TRUE(stage().keys.empty()) << parameters[i].id;
      ++moved;
    }
  }
  EXPECT_GT(moved, 20);
}

}  // namespace
}  // namespace molten::test

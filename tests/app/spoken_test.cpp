// What a reader of the screen is told: every control has a name and a kind, what is drawn tells its state, and charts give
// their values as a table.
#include <QAbstractScrollArea>
#include <QAbstractSpinBox>
#include <QAccessible>
#include <QAction>
#include <QClipboard>
#include <QMenu>
#include <QTableView>
#include <QTimer>

#include "app/chart/key_lanes.h"
#include "app/values/values_view.h"
#include "bench_fixture.h"

namespace molten {
namespace {

class SpokenTest : public test::BenchTest {
 protected:
  /// Controls without a name or a kind, of all that have come to be so far.
  void hearAll(const std::string& where) {
    for (QWidget* const widget : QApplication::allWidgets()) {
      if (!isControl(*widget)) continue;
      QAccessibleInterface* const spoken = QAccessible::queryAccessibleInterface(widget);
      ASSERT_TRUE(spoken);
      ++heard;
      const QString what = QString("%1 “%2” in %3").arg(widget->metaObject()->className(), widget->objectName(), widget->parentWidget() ? widget->parentWidget()->metaObject()->className() : "");
      if (spoken->text(QAccessible::Name).trimmed().isEmpty() && mute.insert(what + " has no name").second) ADD_FAILURE() << where << ": " << what.toStdString() << " has no name";
      const auto role = spoken->role();
      if ((role == QAccessible::NoRole || role == QAccessible::Client) && mute.insert(what + " is of no kind").second) ADD_FAILURE() << where << ": " << what.toStdString() << " is of no kind";
    }
  }
  int heard = 0;

 private:
  /// What the keyboard reaches or a hand clicks, unless it is a part of a control of Qt's own.
  static bool isControl(const QWidget& widget) {
    for (const QWidget* above = widget.parentWidget(); above; above = above->parentWidget())
      if (qobject_cast<const QAbstractSpinBox*>(above) || qobject_cast<const QComboBox*>(above) || above->inherits("QKeySequenceEdit") || above->inherits("QFileDialog") ||
          above->inherits("QHeaderView") || above->inherits("QMenuBar") || above->inherits("QLineEdit"))
        return false;
    if (widget.inherits("QComboBoxPrivateContainer") || widget.inherits("QMenu") || widget.inherits("QMainWindow")) return false;
    if (widget.inherits("QScrollBar") || widget.inherits("QScrollArea") || widget.inherits("QFileDialog") || widget.inherits("QDialog") ||
        widget.inherits("QTableCornerButton"))
      return false;
    // What has nothing to say is not in sight, and cannot be reached.
    const auto* const label = qobject_cast<const QLabel*>(&widget);
    const auto* const button = qobject_cast<const QPushButton*>(&widget);
    if (!widget.isVisible() && ((label && label->text().isEmpty()) || (button && button->text().isEmpty()) || widget.inherits("molten::ValueField"))) return false;
    if (const auto* area = qobject_cast<const QAbstractScrollArea*>(widget.parentWidget()); area && area->viewport() == &widget) return false;
    return widget.focusPolicy() != Qt::NoFocus || qobject_cast<const QAbstractButton*>(&widget);
  }
  std::set<QString> mute;
};

TEST_F(SpokenTest, EveryControlOfEveryStageHasANameAndAKind) {
  hearAll("before footage");
  open(clip());
  hearAll("footage");
  for (const StageKind* const kind : stageKinds()) {
    if (!trigger(QString::fromStdString(kind->description().label))) continue;
    openCards();
    hearAll(kind->description().label);
  }
  EXPECT_GT(heard, 300);
}

TEST_F(SpokenTest, EveryControlOfEveryViewHasANameAndAKind) {
  open(clip());
  addTimeField();
  // Views that wait for an answer are heard, and closed.
  QTimer closer;
  closer.setInterval(5);
  closer.callOnTimeout([&] {
    hearAll("a view that waits");
    if (QWidget* popup = QApplication::activePopupWidget()) popup->close();
    if (QWidget* modal = QApplication::activeModalWidget()) modal->close();
  });
  closer.start();
  QStringList entries;
  for (const QAction* const action : bench->findChildren<QAction*>())
    if (action->text().endsWith(QChar(0x2026)) || QStringList{"Manual", "Keys", "Render queue", "Log", "A look round", "Starters", "Live on a camera"}.contains(action->text())) entries << QString(action->text()).remove('&');
  for (const QString& entry : entries) {
    trigger(entry);
    hearAll(entry.toStdString());
  }
  EXPECT_GT(heard, 300);
}

TEST_F(SpokenTest, WhatIsDrawnSaysHowItStands) {
  open(clip());
  addTimeField();
  const auto says = [](QWidget& widget) { return QAccessible::queryAccessibleInterface(&widget)->text(QAccessible::Description); };
  EXPECT_TRUE(says(chain()).startsWith("Time Field, tile 2 of 3, on")) << says(chain()).toStdString();
  chain().setFocus();
  QTest::keyClick(&chain(), Qt::Key_Return);
  EXPECT_TRUE(says(chain()).startsWith("Time Field, tile 2 of 3, off")) << says(chain()).toStdString();
  QTest::keyClick(&chain(), Qt::Key_Return);
  QTest::keyClick(&chain(), Qt::Key_Right);
  EXPECT_TRUE(says(chain()).startsWith("Output, tile 3 of 3")) << says(chain()).toStdString();
  goTo(45);
  stillFor(40);
  // The moments of the first and the last row: half a row from the ends of the field.
  EXPECT_EQ(says(chart()).toStdString(), "Frame 45 of 60 reads 1.500 s, its pixels 0.503 s to 1.497 s");
}

TEST_F(SpokenTest, SlidersAndTheScrubLineAreSetByTheirNumbers) {
  open(clip());
  addTimeField();
  const auto number = [](QWidget& widget) { return QAccessible::queryAccessibleInterface(&widget)->valueInterface(); };
  auto* const slider = [&] {
    for (QWidget* const one : bench->findChild<Dials*>()->findChildren<QWidget*>())
      if (one->inherits("molten::DialSlider") && one->accessibleName() == "Back") return one;
    return static_cast<QWidget*>(nullptr);
  }();
  ASSERT_TRUE(slider);
  ASSERT_TRUE(number(*slider));
  EXPECT_EQ(slider->accessibleDescription(), "1.000 s");
  const double most = number(*slider)->maximumValue().toDouble();
  const int steps = bench->document().undoStack().index();
  number(*slider)->setCurrentValue(most / 2);
  EXPECT_NEAR(number(*slider)->currentValue().toDouble(), most / 2, 0.02 * most);
  EXPECT_GT(back(), 1) << "half of the slider's way";
  EXPECT_EQ(bench->document().undoStack().index(), steps + 1);
  EXPECT_EQ(slider->accessibleDescription(), field("back").text());
  ASSERT_TRUE(number(scrubber()));
  EXPECT_EQ(number(scrubber())->maximumValue().toInt(), 59);
  number(scrubber())->setCurrentValue(37);
  QTest::keyPress(&picture(), Qt::Key_B);
  EXPECT_TRUE(shows(37));
  QTest::keyRelease(&picture(), Qt::Key_B);
  EXPECT_EQ(number(scrubber())->currentValue().toInt(), 37);
}

/// What a table shows, by its columns' names.
class ValuesTest : public SpokenTest {
 protected:
  ValuesView& values() { return *bench->findChild<ValuesView*>(); }
  QAbstractItemModel& model() { return *values().findChild<QTableView*>("table")->model(); }
  void choose(const QString& table) {
    auto& which = *values().findChild<QComboBox*>("which");
    ASSERT_TRUE(until([&] { return which.findText(table) >= 0; })) << table.toStdString();
    which.setCurrentIndex(which.findText(table));
    emit which.activated(which.currentIndex());
  }
  std::string at(int row, const QString& column) {
    for (int i = 0; i < model().columnCount(); ++i)
      if (model().headerData(i, Qt::Horizontal).toString() == column) return model().index(row, i).data().toString().toStdString();
    return "there is no such column";
  }
  double seconds(int row, const QString& column) { return QString::fromStdString(at(row, column)).remove(" s").toDouble(); }
};

TEST_F(ValuesTest, ChartsGiveTheirValuesAsATable) {
  ASSERT_TRUE(trigger("Values as a table"));
  EXPECT_EQ(model().rowCount(), 0);
  values().close();
  open(clip());
  addTimeField();
  goTo(45);
  stillFor(40);
  ASSERT_TRUE(trigger("Values as a table"));
  ASSERT_TRUE(values().isVisible());
  choose("Time Chart");
  ASSERT_EQ(model().rowCount(), 60);
  EXPECT_EQ(at(45, "Time"), "1.500 s");
  EXPECT_EQ(at(45, "Reads"), "1.500 s");
  const double halfRow = 0.5 / 180;
  EXPECT_NEAR(seconds(45, "Earliest"), 0.5 + halfRow, 6e-4);
  EXPECT_NEAR(seconds(45, "Latest"), 1.5 - halfRow, 6e-4);
  EXPECT_EQ(at(45, "Speed"), "100.0 %");
  EXPECT_EQ(at(45, "Besides"), "");
  EXPECT_EQ(at(3, "Besides"), "before the clip");
  // Along the picture, from 1 s back at the top to now at the bottom.
  choose("Down");
  ASSERT_GT(model().rowCount(), 10);
  const int middle = model().rowCount() / 2;
  EXPECT_NEAR(QString::fromStdString(at(middle, "Pixel")).toDouble(), 90, 4);
  EXPECT_NEAR(seconds(middle, "Reads"), 1.0, 0.04);
  // It goes along with what is edited.
  choose("Time Chart");
  QTest::keyClick(&chain(), Qt::Key_Return);
  EXPECT_TRUE(until([&] { return at(45, "Earliest") == "1.500 s"; })) << at(45, "Earliest");
}

TEST_F(ValuesTest, ThePaceAndKeysAreTablesToBeCopied) {
  open(clip());
  goTo(30);
  QTest::keyClick(&picture(), Qt::Key_M);
  stillFor(40);
  ASSERT_TRUE(trigger("Freeze here for…"));
  type("0.5s");
  stillFor(40);
  ASSERT_TRUE(trigger("Values as a table"));
  choose("Pace");
  ASSERT_EQ(model().rowCount(), static_cast<int>(paceNow().spans().size()));
  EXPECT_EQ(at(1, "Begins"), "1.000 s");
  EXPECT_EQ(at(1, "Lasts"), "0.500 s");
  EXPECT_NEAR(seconds(1, "From"), paceNow().sourceAt(1).toDouble(), 6e-4);
  EXPECT_EQ(at(1, "Speed"), "0.0 %");
  addTimeField();
  goTo(12);
  QTest::mouseClick(bench->findChild<QAbstractButton*>("movement back"), Qt::LeftButton, Qt::ShiftModifier);
  goTo(24);
  QTest::mouseClick(bench->findChild<QAbstractButton*>("movement back"), Qt::LeftButton, Qt::ShiftModifier);
  stillFor(40);
  choose("Keys");
  ASSERT_EQ(model().rowCount(), 2);
  EXPECT_EQ(at(1, "Value"), "Back");
  EXPECT_EQ(at(1, "Frame"), "24");
  EXPECT_EQ(at(1, "Is"), "1.000 s");
  QTest::mouseClick(values().findChild<QPushButton*>("copy"), Qt::LeftButton);
  ASSERT_TRUE(until([] { return QApplication::clipboard()->text().startsWith("Value"); }));
  const QStringList lines = QApplication::clipboard()->text().split('\n', Qt::SkipEmptyParts);
  ASSERT_EQ(lines.size(), 3);
  EXPECT_EQ(lines[0].toStdString(), "Value\tFrame\tTime\tIs\tComes to it");
  EXPECT_TRUE(lines[2].startsWith("Back\t24\t0.800 s\t1.000 s\t")) << lines[2].toStdString();
  // The key does the same from within the table.
  const QString all = QApplication::clipboard()->text();
  QApplication::clipboard()->clear();
  values().activateWindow();
  ASSERT_TRUE(QTest::qWaitForWindowActive(&values()));
  QTest::keyClick(values().findChild<QTableView*>("table"), Qt::Key_C, Qt::ControlModifier);
  EXPECT_TRUE(until([&] { return QApplication::clipboard()->text() == all; })) << QApplication::clipboard()->text().toStdString();
}

/// Up and down select a key without a mouse, and what is selected is moved by the arrows.
TEST_F(SpokenTest, KeysAreTakenByTheKeyboard) {
  open(clip());
  addTimeField();
  for (const int frame : {12, 24}) {
    goTo(frame);
    QTest::mouseClick(bench->findChild<QAbstractButton*>("movement back"), Qt::LeftButton, Qt::ShiftModifier);
  }
  auto& lanes = *bench->findChild<KeyLanes*>();
  ASSERT_TRUE(until([&] { return lanes.sight().count() == 1 && lanes.sight().track(0).size() == 2; }));
  EXPECT_TRUE(lanes.focusPolicy() & Qt::TabFocus);
  lanes.setFocus();
  QTest::keyClick(&lanes, Qt::Key_Down);
  QTest::keyClick(&lanes, Qt::Key_Down);
  EXPECT_EQ(lanes.spokenState().toStdString(), "Back, key 2 of 2: 1.000 s at 0.800 s");
  QTest::keyClick(&lanes, Qt::Key_Right);
  EXPECT_EQ(project().chain[0].keys.begin()->second.back().at, Rational(25, 30));
  QTest::keyClick(&lanes, Qt::Key_Up);
  EXPECT_EQ(lanes.spokenState().toStdString(), "Back, key 1 of 2: 1.000 s at 0.400 s");
  // Of several that are selected, one remains.
  QTest::mouseClick(&lanes, Qt::LeftButton, Qt::ShiftModifier, lanes.sight().keyPoint(0, 1).toPoint());
  EXPECT_EQ(lanes.spokenState().toStdString(), "2 keys are selected");
  QTest::keyClick(&lanes, Qt::Key_Up);
  EXPECT_EQ(lanes.spokenState().toStdString(), "Back, key 1 of 2: 1.000 s at 0.400 s");
}

}  // namespace
}  // namespace molten

// Hands that do anything at all in the window, over any chain: nothing crashes, nothing hangs, and all can be undone.
#include <QMenu>
#include <QPointer>
#include <QTimer>
#include <QWheelEvent>

#include "bench_fixture.h"
#include "core/project/project_file.h"
#include "support/random_chains.h"

namespace molten::test {
namespace {

/// Which values of which stages are not the same.
std::string differences(const Chain& a, const Chain& b) {
  if (a.size() != b.size()) return "another number of stages";
  std::string all;
  for (std::size_t k = 0; k < a.size(); ++k) {
    const auto& described = a[k].kind->description();
    if (a[k].kind != b[k].kind) all += " another kind";
    if (a[k].on != b[k].on || a[k].name != b[k].name) all += " " + described.id + " on or name";
    for (std::size_t i = 0; i < std::min(a[k].values.size(), b[k].values.size()); ++i)
      if (!(a[k].values[i] == b[k].values[i])) all += " " + described.id + " " + described.parameters[i].id;
    if (a[k].keys != b[k].keys) all += " " + described.id + " keys";
    if (all.empty() && !(a[k] == b[k])) all += " " + described.id + " in another way";
  }
  return all;
}

class Restless : public BenchTest, public ::testing::WithParamInterface<unsigned> {
 protected:
  /// MOLTEN_SEED: other hands than the usual ones.
  Restless() : random(GetParam() + static_cast<unsigned>(qEnvironmentVariableIntValue("MOLTEN_SEED")), 60) {
    // What waits for an answer is given none.
    closer.setInterval(5);
    QObject::connect(&closer, &QTimer::timeout, [] {
      if (QWidget* popup = QApplication::activePopupWidget()) popup->close();
      if (QWidget* modal = QApplication::activeModalWidget()) modal->close();
    });
    closer.start();
  }

  template <class Thing>
  Thing* any(const QList<Thing*>& all) {
    return all.empty() ? nullptr : all[random.within(0, static_cast<int>(all.size()) - 1)];
  }
  QWidget* anyWidget() {
    QList<QWidget*> seen;
    for (QWidget* widget : bench->findChildren<QWidget*>())
      if (widget->isVisible() && widget->window() == bench.get()) seen << widget;
    return any(seen);
  }
  QPoint anywhere(const QWidget& widget) {
    return {random.within(0, std::max(0, widget.width() - 1)), random.within(0, std::max(0, widget.height() - 1))};
  }

  /// What is dragged may go meanwhile.
  void dragAnywhere(QPointer<QWidget> widget) {
    QTest::mousePress(widget, Qt::LeftButton, {}, anywhere(*widget));
    for (int i = 0; i < 4 && widget; ++i) {
      const QPointF at = anywhere(*widget);
      QMouseEvent move(QEvent::MouseMove, at, widget->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
      QApplication::sendEvent(widget, &move);
      QCoreApplication::processEvents();
    }
    if (widget) QTest::mouseRelease(widget, Qt::LeftButton, {}, anywhere(*widget));
  }

  /// Whether it ends the program, goes on with another project, or runs on by itself: a camera.
  static bool leaves(const QAction& action) {
    for (const QObject* object : action.associatedObjects())
      if (const auto* menu = qobject_cast<const QMenu*>(object))
        if (menu->title().contains("Demonstrations") || menu->title().contains("recent")) return true;
    const QString name = QString(action.text()).remove('&');
    return name == "Quit" || name == "New" || name == "Open the source" || name == "Live on a camera" || name == "Full screen" || name.startsWith("Undo Open");
  }

  void act() {
    static const Qt::Key keys[] = {Qt::Key_Left, Qt::Key_Right, Qt::Key_Up,    Qt::Key_Down,  Qt::Key_Tab,    Qt::Key_Space,
                                   Qt::Key_I,    Qt::Key_O,     Qt::Key_M,     Qt::Key_K,     Qt::Key_L,      Qt::Key_J,
                                   Qt::Key_Home, Qt::Key_End,   Qt::Key_Return, Qt::Key_Delete, Qt::Key_Escape, Qt::Key_B};
    static const char* const texts[] = {"",    "0",   "-1",     "1/0",  "50%", "1,5", "12f",      "3s",
                                        "999", "1e9", "0.25 s", "nan",  "2+3", "x",   "0-59,7:3", "all"};
    static const Qt::KeyboardModifiers modifiers[] = {Qt::NoModifier, Qt::NoModifier, Qt::ShiftModifier, Qt::ControlModifier,
                                                      Qt::AltModifier};
    const Qt::KeyboardModifiers held = modifiers[random.within(0, 4)];
    QWidget* const widget = anyWidget();
    if (!widget) return;
    switch (random.within(0, 7)) {
      case 0: {
        QList<QAction*> enabled;
        for (QAction* action : bench->findChildren<QAction*>())
          if (action->isEnabled() && !action->text().isEmpty() && !leaves(*action)) enabled << action;
        if (QAction* action = any(enabled)) {
          done << "menu " + action->text();
          action->trigger();
        }
        break;
      }
      case 1:
        done << QString("click %1 %2").arg(widget->metaObject()->className(), widget->objectName());
        QTest::mouseClick(widget, random.oneIn(4) ? Qt::RightButton : Qt::LeftButton, held, anywhere(*widget));
        break;
      case 2:
        done << QString("double click %1").arg(widget->metaObject()->className());
        QTest::mouseDClick(widget, Qt::LeftButton, held, anywhere(*widget));
        break;
      case 3:
        done << QString("drag %1").arg(widget->metaObject()->className());
        dragAnywhere(widget);
        break;
      case 4: {
        const QPoint at = anywhere(*widget);
        QWheelEvent wheel(at, widget->mapToGlobal(at), {}, {0, random.oneIn(2) ? 120 : -360}, Qt::NoButton, held,
                          Qt::NoScrollPhase, false);
        done << QString("wheel %1").arg(widget->metaObject()->className());
        QApplication::sendEvent(widget, &wheel);
        break;
      }
      case 5: {
        const Qt::Key key = keys[random.within(0, static_cast<int>(std::size(keys)) - 1)];
        done << QString("key %1").arg(key, 0, 16);
        QTest::keyClick(widget, key, held);
        break;
      }
      case 6: {
        QList<QLineEdit*> fields;
        for (QLineEdit* field : bench->findChildren<QLineEdit*>())
          if (field->isVisible() && field->isEnabled()) fields << field;
        if (QLineEdit* field = any(fields)) {
          const QString text = texts[random.within(0, static_cast<int>(std::size(texts)) - 1)];
          done << QString("type %1 into %2").arg(text, field->objectName());
          field->setFocus();
          field->selectAll();
          const QPointer<QLineEdit> still(field);
          QTest::keyClicks(field, text);
          if (still) QTest::keyClick(field, random.oneIn(4) ? Qt::Key_Escape : Qt::Key_Return);
        }
        break;
      }
      default:
        done << "undo";
        if (random.oneIn(3))
          bench->document().undoStack().redo();
        else if (bench->document().undoStack().index() > begun)
          bench->document().undoStack().undo();
    }
    QCoreApplication::processEvents();
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  }

  RandomChains random;
  int begun = 0;  ///< steps that are not taken back
  QTimer closer;
  QStringList done;
};

TEST_P(Restless, HandsBreakNothing) {
  open(clip());
  const auto steps = [&] { return bench->document().undoStack().index(); };
  const Project empty = project();
  begun = steps();
  Project first = project();
  first.chain = random.chain(random.within(1, 3));
  bench->document().apply({"A chain", first, {}});
  for (int i = 0; i < 150; ++i) {
    SCOPED_TRACE(done.isEmpty() ? std::string() : done.back().toStdString());
    act();
    ASSERT_TRUE(bench->isVisible()) << done.join("\n").toStdString();
    const std::string& source = project().source.path;
    ASSERT_TRUE(source == empty.source.path || source.starts_with(folder / "clip-source")) << source << done.join("\n").toStdString();
    if (i % 25 != 24) continue;
    // What is there can be saved, and comes back the same.
    const std::string file = folder / "saved.molten";
    ASSERT_TRUE(saveProject(project(), file));
    const auto again = loadProject(file);
    ASSERT_TRUE(again) << again.error().message << "\n" << chainWords(project().chain);
    EXPECT_EQ(differences(again->chain, project().chain), "") << chainWords(project().chain);
  }
  // Something is shown of it, or a sentence says why not.
  bench->player().stop();
  stillFor(60);
  EXPECT_TRUE(!picture().image().isNull() || !picture().state().message.isEmpty());
  while (steps() > begun) bench->document().undoStack().undo();
  EXPECT_EQ(project().chain, empty.chain);
}

INSTANTIATE_TEST_SUITE_P(Any, Restless, ::testing::Range(1u, 7u));

}  // namespace
}  // namespace molten::test

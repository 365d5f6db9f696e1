// Hands that do anything at all in the window, over any chain: nothing crashes, nothing hangs, and all can be undone.
#include <QTimer>
#include <QWheelEvent>

#include "bench_fixture.h"
#include "core/project/project_file.h"
#include "support/random_chains.h"

namespace molten::test {
namespace {

class Restless : public BenchTest, public ::testing::WithParamInterface<unsigned> {
 protected:
  Restless() : random(GetParam(), 60) {
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
          if (action->isEnabled() && !action->text().isEmpty() && action->shortcut() != QKeySequence("Ctrl+Q"))
            enabled << action;
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
        drag(*widget, anywhere(*widget), anywhere(*widget));
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
        random.oneIn(3) ? bench->document().undoStack().redo() : bench->document().undoStack().undo();
    }
    QCoreApplication::processEvents();
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  }

  RandomChains random;
  QTimer closer;
  QStringList done;
};

TEST_P(Restless, HandsBreakNothing) {
  open(clip());
  const auto steps = [&] { return bench->document().undoStack().index(); };
  const Project empty = project();
  const int begun = steps();
  Project first = project();
  first.chain = random.chain(random.within(1, 3));
  bench->document().apply({"A chain", first, {}});
  for (int i = 0; i < 150; ++i) {
    SCOPED_TRACE(done.isEmpty() ? std::string() : done.back().toStdString());
    act();
    ASSERT_TRUE(bench->isVisible()) << done.join("\n").toStdString();
    ASSERT_EQ(project().source.path, empty.source.path) << done.join("\n").toStdString();
    if (i % 25 != 24) continue;
    // What is there can be saved, and comes back the same.
    const std::string file = folder / "saved.molten";
    ASSERT_TRUE(saveProject(project(), file));
    const auto again = loadProject(file);
    ASSERT_TRUE(again) << again.error().message << "\n" << chainWords(project().chain);
    EXPECT_EQ(again->chain, project().chain) << chainWords(project().chain) << "\n" << chainWords(again->chain);
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

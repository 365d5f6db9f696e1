#pragma once
// The Time Chart in the real window, with a Pace on it.

#include "bench_fixture.h"

namespace molten::test {

/// Marks at 0.5 s and 1.2 s of a clip of 2 s at 30 a second, made by keys.
class ChartTest : public BenchTest {
 protected:
  void openWithMarks() {
    open(clip());
    dropMark(15);
    dropMark(36);
  }
  void dropMark(std::int64_t frame) {
    goTo(frame);
    QTest::keyClick(&picture(), Qt::Key_M);
    stillFor(40);
  }
  QString undoText() { return bench->document().undoStack().undoText(); }
  /// The middle of a span's line.
  QPoint onSpan(std::size_t i) { return chart().sight().spanPoint(i).toPoint(); }
  /// What is said while the hand moves, and what stands after it.
  QString saidWhileDragging(QPointF from, QPointF to) {
    QString last;
    const auto listening = QObject::connect(&chart(), &ChartPlot::said, [&](const QString& words) {
      if (!words.isEmpty()) last = words;
    });
    drag(chart(), from, to);
    QObject::disconnect(listening);
    return last;
  }
};

}  // namespace molten::test

// The window's thread never works: on a clip of ten minutes, whatever is dragged, an event takes no longer than drawing the
// window.
#include "app/dials/number_dial.h"
#include "bench_fixture.h"

namespace molten::test {
namespace {

class LongClip : public BenchTest {
 protected:
  /// Ten minutes at 30 a second, in a file that is quick to make: each frame stands for itself.
  void openLong() {
    const std::string path = folder / "long.mkv";
    ASSERT_EQ(runCommand("ffmpeg -v error -f lavfi -i testsrc2=s=64x36:r=30:d=600 -c:v mjpeg -q:v 20 " + path).exitCode,
              0);
    open(path);
    ASSERT_EQ(bench->footage()->clock().frameCount(), 18000);
    ASSERT_TRUE(until([&] { return bench->player().filled() >= 1; }));
  }
  void addKeyedField() {
    addTimeField();
    Project keyed = project();
    const std::size_t i = parameterIndex(keyed.chain[0].kind->description(), "back");
    KeyTrack track;
    for (int k = 0; k < 40; ++k) track = withKey(track, Rational(k * 15), {k % 2 ? 2.0 : 0.5, 0});
    bench->document().apply(setKeys(keyed, 0, i, track, 0, "Keys"));
    stillFor(100);
  }
  /// In milliseconds, of what the window's own thread does: what others take of the machine is not this window's.
  template <class Act>
  static double spentOn(Act act) {
    const auto now = [] {
      timespec at;
      clock_gettime(CLOCK_THREAD_CPUTIME_ID, &at);
      return static_cast<double>(at.tv_sec) * 1e3 + static_cast<double>(at.tv_nsec) / 1e6;
    };
    const double before = now();
    act();
    return now() - before;
  }
  /// So many may be the machine's own doing, which takes it from one thread in the middle of its work and gives it back with
  /// nothing at hand; what grows with the clip would be nearly all.
  static constexpr std::size_t borne(std::size_t events) { return events / 10; }
  /// The events that took several times what it takes to draw the whole window, then and there.
  template <class Act>
  std::vector<double> slowEvents(int count, Act act) {
    const auto drawing = [&] { return spentOn([&] { bench->grab(); }); };
    drawing();
    double drawn = drawing();
    std::vector<double> slow;
    for (int i = 0; i < count; ++i) {
      const double spent = spentOn([&] {
        act(i);
        QApplication::processEvents();
      });
      if (spent > 2 * drawn) drawn = drawing();
      if (spent > 2 * drawn) slow.push_back(spent / drawn);
      QTest::qWait(10);
    }
    return slow;
  }
  void moveHeld(QWidget& widget, QPointF at) {
    QMouseEvent move(QEvent::MouseMove, at, widget.mapToGlobal(at), Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&widget, &move);
  }
};

TEST_F(LongClip, DraggingADialKeepsNoEventWaiting) {
  openLong();
  addKeyedField();
  auto* slider = field("ahead").parentWidget()->findChild<DialSlider*>();
  ASSERT_NE(slider, nullptr);
  QTest::mousePress(slider, Qt::LeftButton, {}, QPoint(10, 11));
  const auto slow = slowEvents(200, [&](int i) {
    moveHeld(*slider, QPointF(10 + (slider->width() - 20) * (0.5 + 0.5 * std::sin(i / 20.0)), 11));
  });
  QTest::mouseRelease(slider, Qt::LeftButton, {}, QPoint(30, 11));
  EXPECT_LE(slow.size(), borne(200)) << "the first as long as drawing the window " << slow.front() << " times";
}

TEST_F(LongClip, DraggingAHandleAndPointingKeepNoEventWaiting) {
  openLong();
  addKeyedField();
  const QPointF from = picture().toWidget(picture().state().handles[0].place);
  QTest::mousePress(&picture(), Qt::LeftButton, {}, from.toPoint());
  auto slow = slowEvents(200, [&](int i) { moveHeld(picture(), from + QPointF(0, 40 * std::sin(i / 15.0) + 41)); });
  QTest::mouseRelease(&picture(), Qt::LeftButton, {}, from.toPoint());
  const auto pointing = slowEvents(100, [&](int i) {
    const QPointF at = picture().toWidget({0.2 + i / 200.0, 0.7});
    QMouseEvent move(QEvent::MouseMove, at, picture().mapToGlobal(at), Qt::NoButton, Qt::NoButton, Qt::NoModifier);
    QApplication::sendEvent(&picture(), &move);
  });
  slow.insert(slow.end(), pointing.begin(), pointing.end());
  EXPECT_LE(slow.size(), borne(300)) << "the first as long as drawing the window " << slow.front() << " times";
}

TEST_F(LongClip, ScrubbingKeepsNoEventWaiting) {
  openLong();
  addKeyedField();
  QTest::mousePress(&scrubber(), Qt::LeftButton, {}, QPoint(200, 26));
  const auto slow =
      slowEvents(200, [&](int i) { moveHeld(scrubber(), QPointF(200 + 500 * std::sin(i / 30.0) + 500, 26)); });
  QTest::mouseRelease(&scrubber(), Qt::LeftButton, {}, QPoint(200, 26));
  EXPECT_LE(slow.size(), borne(200)) << "the first as long as drawing the window " << slow.front() << " times";
}

}  // namespace
}  // namespace molten::test

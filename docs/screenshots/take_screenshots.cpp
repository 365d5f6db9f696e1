// Takes the pictures of docs/screenshots from the demo: take-screenshots FOLDER [WIDTHxHEIGHT [FILE]]
#include <QApplication>
#include <QElapsedTimer>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>
#include <QTemporaryDir>
#include <QTest>

#include "app/bench/bench.h"
#include "app/bench/player.h"
#include "app/chain/chain_bar.h"
#include "app/picture/picture_view.h"
#include "app/render/render_dialog.h"
#include "app/theme/theme.h"

extern "C" {
#include <libavutil/log.h>
}

using namespace molten;

namespace {

/// Lets the window work until it has been still for a while.
void settle(int milliseconds = 900) {
  QTest::qWait(milliseconds);
}

void waitForFootage(Bench& bench) {
  QElapsedTimer timer;
  timer.start();
  while (!bench.footage() && timer.elapsed() < 20000) QTest::qWait(20);
  settle();
}

}  // namespace

int main(int argc, char** argv) {
  av_log_set_level(AV_LOG_QUIET);
  QTemporaryDir scratch;
  QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, scratch.path());
  QApplication application(argc, argv);
  QApplication::setOrganizationName("molten-clock");
  QApplication::setApplicationName("screenshots");
  theme::apply(application);
  const QStringList arguments = QApplication::arguments();
  const QString folder = arguments.value(1, ".");
  const QStringList size = arguments.value(2, "1280x800").split('x');
  const QString file = arguments.value(3, QString(MOLTEN_SOURCE) + "/demo/gather.molten");
  BenchOptions options;
  options.autosaveFolder = scratch.path() + "/autosave";
  options.memoryBytes = std::size_t(2) << 30;
  options.askQuestions = false;
  Bench bench(options);
  bench.resize(size.value(0).toInt(), size.value(1).toInt());
  bench.show();
  settle(300);
  const auto take = [&](QWidget& widget, const char* name) { widget.grab().save(folder + "/" + name + ".png"); };
  take(bench, "first-start");

  bench.openPath(file);
  waitForFootage(bench);
  auto* picture = bench.findChild<PictureView*>();
  if (bench.document().project().chain.empty()) {
    take(bench, "footage");
    bench.document().apply(addStage(bench.document().project(), *findStageKind("time-field")));
    QTest::keyClick(&bench, Qt::Key_1);
  }
  for (int i = 0; i < 13; ++i) QTest::keyClick(picture, Qt::Key_Right, Qt::ShiftModifier);
  settle();
  take(bench, "bench");

  QTest::keyPress(picture, Qt::Key_B);
  settle(400);
  take(bench, "before");
  QTest::keyRelease(picture, Qt::Key_B);

  // Hold reads before the clip: said in words, hatched, with a remedy.
  Project held = bench.document().project();
  const std::size_t past = parameterIndex(held.chain[0].kind->description(), "past-the-ends");
  bench.document().apply(setValue(held, 0, past, std::size_t{0}));
  picture->setZoom(4);
  settle(600);
  take(bench, "zoomed");
  picture->fit();

  QTest::keyClick(picture, Qt::Key_R, Qt::ControlModifier);
  settle(300);
  if (auto* dialog = bench.findChild<RenderDialog*>()) {
    dialog->findChild<QLineEdit*>("place")->setText("films/twisted-vessel.mp4");
    take(*dialog, "render");
    dialog->close();
  }
  return 0;
}

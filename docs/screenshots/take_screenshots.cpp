// Takes the pictures of docs/screenshots from the demo: take-screenshots FOLDER [WIDTHxHEIGHT [PROJECT [KEYS...]]]. With
// PROJECT only the Bench with that one open, after keys like T or Ctrl+2; `live`: on the simulated camera.
#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QLabel>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPushButton>
#include <QRegularExpression>
#include <QSettings>
#include <QTemporaryDir>
#include <QTest>

#include "app/bench/bench.h"
#include "app/playback/player.h"
#include "app/chain/chain_bar.h"
#include "app/chart/chart_plot.h"
#include "app/help/manual_view.h"
#include "app/live/live_room.h"
#include "app/picture/picture_view.h"
#include "app/reel/reel_strip.h"
#include "app/render/render_dialog.h"
#include "app/render/render_list.h"
#include "app/sections/slices.h"
#include "app/sound/sound_lanes.h"
#include "app/starters/starters_view.h"
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

class Photographer {
 public:
  Photographer(Bench& bench, QString folder) : bench_(bench), folder_(std::move(folder)) {}

  void open(const QString& path) {
    bench_.openPath(path);
    QElapsedTimer timer;
    timer.start();
    while (!bench_.footage() && timer.elapsed() < 20000) QTest::qWait(20);
    // A dialog may have had the keys.
    bench_.activateWindow();
    settle(1800);
    // Small pictures come after all that is more urgent.
    for (int i = 0; i < 100 && bench_.player().filled() < 1; ++i) settle(100);
  }
  void openDemo(const QString& name) { open(QString(MOLTEN_SOURCE) + "/demo/" + name + ".molten"); }
  void take(QWidget& widget, const char* name) { widget.grab().save(folder_ + "/" + name + ".png"); }
  void take(const char* name) { take(bench_, name); }
  /// For a page of the manual: as wide as its text.
  void takeForManual(QWidget& widget, const char* name) {
    constexpr int wide = 520;
    QDir(folder_).mkpath("manual");
    widget.grab().toImage().scaledToWidth(wide, Qt::SmoothTransformation).save(folder_ + "/manual/" + name + ".png");
  }
  PictureView* picture() { return bench_.findChild<PictureView*>(); }
  ChartPlot* chart() { return bench_.findChild<ChartPlot*>(); }
  void step(int tens, int ones = 0) {
    for (int i = 0; i < tens; ++i) QTest::keyClick(picture(), Qt::Key_Right, Qt::ShiftModifier);
    for (int i = 0; i < ones; ++i) QTest::keyClick(picture(), Qt::Key_Right);
    settle();
  }

  void timeField() {
    openDemo("gather");
    step(13);
    take("bench");
    // Hold reads before the clip: said in words, hatched, with a remedy.
    Project held = bench_.document().project();
    const std::size_t past = parameterIndex(held.chain[0].kind->description(), "past-the-ends");
    bench_.document().apply(setValue(held, 0, past, std::size_t{0}));
    QTest::keyClick(picture(), Qt::Key_R, Qt::ControlModifier);
    settle(300);
    if (auto* dialog = bench_.findChild<RenderDialog*>()) {
      dialog->findChild<QLineEdit*>("place")->setText("films/twisted-vessel.mp4");
      take(*dialog, "render");
      dialog->close();
    }
    renders();
  }

  /// One that is written, one that goes on, one that waits.
  void renders() {
    const QTemporaryDir films;
    auto* list = bench_.findChild<RenderList*>();
    const auto render = [&](const char* name, int inPictures) {
      bench_.activateWindow();
      settle(100);
      bench_.document().apply(setSpan(bench_.document().project(), 0, inPictures - 1, "In and out"));
      QTest::keyClick(picture(), Qt::Key_R, Qt::ControlModifier);
      auto* form = bench_.findChild<RenderDialog*>();
      form->findChild<QLineEdit*>("place")->setText(films.filePath(name));
      settle(300);
      QTest::mouseClick(form->findChild<QPushButton*>("render"), Qt::LeftButton);
      settle(300);
    };
    render("twisted-short.mkv", 30);
    settle(1500);
    render("twisted-vessel.mp4", 400);
    render("twisted-vessel-master.mkv", 400);
    settle(300);
    // Whatever this machine's scratch folder is called.
    for (auto* detail : list->findChildren<QLabel*>("detail")) detail->setText(detail->text().replace(QRegularExpression("/tmp/\\S*"), "films"));
    take(*list, "render-queue");
    for (auto* cancel : list->findChildren<QPushButton*>("cancel")) QTest::mouseClick(cancel, Qt::LeftButton);
    settle();
    list->close();
  }

  void pace() {
    openDemo("racing");
    QTest::keyClick(picture(), Qt::Key_D);
    step(13, 4);
    QTest::mouseClick(chart(), Qt::LeftButton, {}, chart()->sight().spanPoint(2).toPoint());
    settle(400);
    take("pace");
    openDemo("ramp-on-whirrs");
    step(15, 5);
    settle(1500);
    auto* lanes = bench_.findChild<SoundLanes*>();
    QTest::mouseClick(lanes, Qt::LeftButton, {}, (lanes->sight().bodyRect(1).bottomLeft() + QPointF(30, -4)).toPoint());
    settle(400);
    bench_.findChild<QLineEdit*>("file")->setText("rising-whirr.flac");
    take("sound");
    QTest::keyClick(picture(), Qt::Key_D);
    openDemo("tongs");
    step(0, 9);
    take("frame-order");
  }

  /// The first cut, while it is pulled to be run through.
  void reel() {
    openDemo("round-of-the-works");
    settle(3000);
    step(9);
    QTest::keyClick(picture(), Qt::Key_1);
    auto* strip = bench_.findChild<ReelStrip*>();
    const QPoint cut = strip->cutRect(0).center();
    QTest::mousePress(strip, Qt::LeftButton, {}, cut);
    for (int i = 0; i < 3; ++i) {
      const QPointF at = cut + QPointF(0, 8 + i / 2);
      QMouseEvent move(QEvent::MouseMove, at, strip->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
      QApplication::sendEvent(strip, &move);
      settle(600);
    }
    take("reel");
    QTest::mouseRelease(strip, Qt::LeftButton, {}, cut);
    settle();
  }

  void inserts() {
    openDemo("inspection");
    QTest::keyClick(picture(), Qt::Key_3);
    step(46);
    settle(2500);
    bench_.findChild<QLineEdit*>("source")->setText("inspector.mp4");
    take("insert");
    // Its own chain.
    auto* chain = bench_.findChild<ChainBar*>();
    QTest::mouseClick(chain, Qt::LeftButton, {}, chain->branchRect(3).center());
    settle(2500);
    step(13);
    settle(1500);
    take("branch");
    openDemo("night-shift");
    QTest::keyClick(picture(), Qt::Key_3);
    step(21);
    settle(2500);
    take("title");
  }

  void manyMoments() {
    openDemo("light-trails");
    step(15);
    settle(2500);
    take("echoes");
    open(QString(MOLTEN_SOURCE) + "/demo/yard.mp4");
    QTest::keyClick(picture(), Qt::Key_T, Qt::ControlModifier);
    settle(25000);
    if (auto* starters = bench_.findChild<StartersView*>()) {
      starters->resize(1096, 720);
      settle(200);
      take(*starters, "starters");
      starters->close();
    }
  }

  /// Four taps on the simulated camera, once the ring is full enough for them.
  void live() {
    openDemo("four-clocks");
    QTest::keyClick(picture(), Qt::Key_1);
    CameraChoice camera;
    camera.rate = 30;
    bench_.live().begin(camera);
    settle(11500);
    take("live");
    QTest::keyClick(&bench_, Qt::Key_G, Qt::ControlModifier);
    settle();
  }

  void fields() {
    auto* slices = bench_.findChild<Slices*>();
    const auto whole = [&] {
      for (int i = 0; i < 400 && slices->known() < slices->count(); ++i) QTest::qWait(50);
      settle(400);
    };
    // A frame that draws nearer by keys, trembling, and sways in waves.
    openDemo("pour");
    Project moves = bench_.document().project();
    for (const auto& [id, text] : {std::pair{"zoom", "100%@0.4s+280%@2s~ease+280%@6.4s+100%@8s~ease_jitter_20%_3"}, {"turn", "0_wave_2deg_2.5s"}})
      (void)readValue(moves.chain[1], parameterIndex(moves.chain[1].kind->description(), id), text, 30);
    bench_.document().apply({"Moves", moves, {}});
    QTest::keyClick(picture(), Qt::Key_2);
    step(13);
    QTest::mouseClick(bench_.findChild<QWidget*>("movement zoom"), Qt::LeftButton);
    settle(2500);
    take("keys");
    openDemo("shaken-shutter");
    QTest::keyClick(picture(), Qt::Key_3);
    step(9);
    settle(6000);
    take("finish");
    openDemo("accordion");
    step(11);
    whole();
    take("across-and-down");
    QTest::keyClick(picture(), Qt::Key_W);
    settle(3000);
    take("compare");
    QTest::keyClick(picture(), Qt::Key_W);
    // Painted: a vessel-shaped stroke, and the steps that it makes.
    openDemo("gather");
    step(20);
    QTest::mouseClick(bench_.findChild<QPushButton*>("shape=painted"), Qt::LeftButton);
    settle(300);
    QTest::mouseClick(bench_.findChild<QPushButton*>("paint=brush"), Qt::LeftButton);
    const Place way[] = {{0.30, 0.30}, {0.36, 0.62}, {0.45, 0.72}, {0.54, 0.62}, {0.60, 0.30}};
    QTest::mousePress(picture(), Qt::LeftButton, {}, picture()->toWidget(way[0]).toPoint());
    for (const Place& place : way) {
      const QPointF at = picture()->toWidget(place);
      QMouseEvent move(QEvent::MouseMove, at, picture()->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
      QApplication::sendEvent(picture(), &move);
      settle(60);
    }
    QTest::mouseRelease(picture(), Qt::LeftButton, {}, picture()->toWidget(way[4]).toPoint());
    QTest::keyClick(picture(), Qt::Key_E);
    whole();
    take("painted");
    QTest::keyClick(picture(), Qt::Key_E);
  }

  void manual() {
    for (const auto& [demo, stage, name] : {std::tuple{"day-fan", Qt::Key_2, "loop-of-strips"}, {"strip-photograph", Qt::Key_1, "strip-photograph"}, {"race-and-rest", Qt::Key_1, "slow-motion"}}) {
      openDemo(demo);
      QTest::keyClick(picture(), stage);
      step(4);
      settle(2500);
      takeForManual(bench_, name);
    }
    auto* view = bench_.findChild<ManualView*>();
    view->openAt("subject-held-still");
    settle(300);
    takeForManual(*view, "manual");
    view->close();
    bench_.activateWindow();
  }

 private:
  Bench& bench_;
  QString folder_;
};

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
  QDir().mkpath(folder);
  const QStringList size = arguments.value(2, "1280x800").split('x');
  BenchOptions options;
  options.autosaveFolder = scratch.path() + "/autosave";
  options.queueFolder = scratch.path() + "/renders";
  options.memoryBytes = std::size_t(2) << 30;
  options.askQuestions = false;
  Bench bench(options);
  bench.resize(size.value(0).toInt(), size.value(1).toInt());
  bench.show();
  settle(300);
  Photographer photographer(bench, folder);
  if (arguments.size() > 3 && !arguments.contains("manual")) {
    photographer.open(arguments[3]);
    photographer.step(4);
    if (arguments.contains("live")) {
      bench.live().begin({});
      settle(11500);
    }
    for (const QString& keys : arguments.mid(4)) {
      if (keys == "live") continue;
      QTest::keySequence(photographer.picture(), QKeySequence(keys));
      settle();
    }
    photographer.take("bench");
    return 0;
  }
  if (arguments.contains("manual")) return photographer.manual(), 0;
  photographer.take("first-start");
  photographer.manyMoments();
  photographer.timeField();
  photographer.fields();
  photographer.inserts();
  photographer.pace();
  photographer.reel();
  photographer.live();
  photographer.manual();
  return 0;
}

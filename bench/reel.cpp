// A reel of 60 shots, ten minutes: opening, scrubbing, playing through cuts, edits, memory.
// molten-bench-reel CLIP...: the shots' footage in turn, each a file of its own; 10 s of each are shown where it has them
#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QFile>
#include <QFileInfo>
#include <QSettings>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <cstdio>
#include <fstream>
#include <random>

#include "app/bench/bench.h"
#include "app/picture/picture_view.h"
#include "app/playback/player.h"
#include "app/reel/reel_strip.h"
#include "app/theme/theme.h"
#include "core/engine/render_job.h"
#include "core/project/project_file.h"
#include "core/project/reel.h"

extern "C" {
#include <libavutil/log.h>
}

using namespace molten;

namespace {

constexpr int shots = 60;

double percentile(std::vector<double> values, double part) {
  std::sort(values.begin(), values.end());
  return values.empty() ? 0 : values[static_cast<std::size_t>(part * static_cast<double>(values.size() - 1) + 0.5)];
}

double megabytesHeld() {
  std::ifstream status("/proc/self/status");
  for (std::string line; std::getline(status, line);)
    if (line.starts_with("VmRSS:")) return std::atof(line.c_str() + 6) / 1024;
  return 0;
}

}  // namespace

int main(int argc, char** argv) {
  av_log_set_level(AV_LOG_QUIET);
  QTemporaryDir scratch;
  QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, scratch.path());
  QApplication application(argc, argv);
  theme::apply(application);
  QStringList clips = QApplication::arguments().mid(1);
  if (clips.isEmpty()) clips << QString(MOLTEN_SOURCE) + "/demo/gather.mp4";
  Project reel;
  for (int i = 0; i < shots; ++i) {
    // Files of their own: nothing that one has read serves another.
    const QString clip = clips[i % clips.size()], path = QString("%1/%2-%3").arg(scratch.path()).arg(i).arg(QFileInfo(clip).fileName());
    if (!QFile::copy(clip, path)) return 1;
    Shot shot;
    shot.source.path = path.toStdString();
    shot.place.to = Rational(10);
    if (i % 5 == 1) shot.place.cut.dissolve = Rational(1, 2);
    if (i % 5 == 3) shot.place.cut.through = {4, Rational(1, 2)};
    if (i % 3 == 2) shot.chain = {*parseStage("time-field:back=0.5s", 25)};
    if (i == 0) {
      reel.source = shot.source, reel.place = shot.place, reel.chain = shot.chain;
    } else {
      reel.more.push_back(std::move(shot));
    }
  }
  const QString project = scratch.path() + "/reel.molten";
  if (!saveProject(reel, project.toStdString())) return 1;

  BenchOptions options;
  options.autosaveFolder = scratch.path();
  options.queueFolder = scratch.path() + "/renders";
  options.memoryBytes = usualBudget();
  options.askQuestions = false;
  Bench bench(options);
  bench.resize(1280, 800);
  bench.show();
  QElapsedTimer timer;
  bool came = false;
  QObject::connect(&bench, &Bench::pictureShown, [&] { came = true; });
  const auto waitFor = [&](const std::function<bool()>& there, int most) {
    QElapsedTimer waited;
    waited.start();
    while (!there() && waited.elapsed() < most) QApplication::processEvents(QEventLoop::WaitForMoreEvents, 20);
  };
  timer.start();
  bench.openPath(project);
  waitFor([&] { return came; }, 30000);
  std::printf("opening to first picture %28.0f ms   reach 2000\n", static_cast<double>(timer.nsecsElapsed()) / 1e6);
  auto* const strip = bench.findChild<ReelStrip*>();
  const auto lengthOf = [&] {
    double sum = 0;
    for (const StripShot& shot : strip->state().shots) sum += shot.seconds;
    return sum;
  };
  double known = 0;
  waitFor([&] { return std::exchange(known, lengthOf()) > 0 && std::all_of(strip->state().shots.begin(), strip->state().shots.end(), [](const StripShot& shot) { return !shot.picture.isNull(); }); }, 60000);
  std::printf("until all shots are known and have their picture %4.0f ms; %.0f s\n", static_cast<double>(timer.nsecsElapsed()) / 1e6, lengthOf());

  Player& player = bench.player();
  const std::int64_t length = player.view().piece.length;
  std::mt19937 random(4);
  bool right = false;
  QObject::connect(&player, &Player::pictureReady, [&](const QImage&, const QImage&, const Shown& about) { right = right || !about.roughly; });
  const auto scrub = [&](const char* what) {
    std::vector<double> first, itself;
    for (int i = 0; i < 60; ++i) {
      View view = player.view();
      view.frame = static_cast<std::int64_t>(random() % static_cast<unsigned>(length));
      came = right = false;
      timer.start();
      player.setView(view);
      waitFor([&] { return came; }, 20000);
      first.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
      waitFor([&] { return right; }, 20000);
      itself.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
    }
    std::printf("%-36s a picture: median %5.0f p95 %5.0f ms reach 100; the one itself: %5.0f %5.0f\n", what, percentile(first, 0.5), percentile(first, 0.95),
                percentile(itself, 0.5), percentile(itself, 0.95));
  };
  scrub("scrubbing to anywhere");
  scrub("again");

  // Playing through cuts: each from a second before it to a second after.
  auto* const picture = bench.findChild<PictureView*>();
  std::vector<double> gaps;
  int played = 0, late = 0, worst = 0;
  for (int i = 4; i < shots - 1; i += 7) {
    QTest::mouseClick(strip, Qt::LeftButton, {}, strip->shotRect(static_cast<std::size_t>(i)).center());
    for (int k = 0; k < 3; ++k) QTest::keyClick(picture, Qt::Key_Left, Qt::ShiftModifier);
    QTest::qWait(700);
    double last = -1;
    std::vector<double> mine;
    timer.start();
    const auto connection = QObject::connect(&player, &Player::frameReached, [&](std::int64_t) {
      const double now = static_cast<double>(timer.nsecsElapsed()) / 1e6;
      if (last >= 0) mine.push_back(now - last);
      last = now;
    });
    QTest::keyClick(picture, Qt::Key_Space);
    QTest::qWait(2200);
    QTest::keyClick(picture, Qt::Key_Space);
    QObject::disconnect(connection);
    // What is late in the first quarter of a second is the start's.
    const double usual = percentile(mine, 0.5);
    for (std::size_t k = 8; k < mine.size(); ++k) {
      ++played;
      late += mine[k] > usual * 1.5 + 4;
      worst = std::max(worst, static_cast<int>(mine[k]));
    }
  }
  std::printf("playing through cuts %32d pictures, %d late, longest gap %d ms\n", played, late, worst);

  // Edits: what the interface's thread takes for each.
  std::vector<double> edits;
  Document& document = bench.document();
  for (int i = 0; i < 40; ++i) {
    const std::size_t shot = random() % shots;
    const Edit edit = i % 4 == 0   ? moveShot(document.project(), shot, random() % shots)
                      : i % 4 == 1 ? trimShot(document.project(), shot, Rational(i, 25), std::nullopt)
                      : i % 4 == 2 ? setCut(document.project(), shot, {.through = {Rational(3), Rational(1, 4)}})
                                   : switchShot(document.project(), shot, !placeOf(document.project(), shot).on);
    timer.start();
    document.apply(edit);
    edits.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
    QTest::qWait(60);
  }
  std::printf("edits of the reel %35.1f ms median, %.1f p95, %.1f most; reach 33\n", percentile(edits, 0.5), percentile(edits, 0.95), percentile(edits, 1));
  std::vector<double> taken;
  for (std::size_t i = 0; i < shots; i += 3) {
    timer.start();
    emit strip->taken(i);
    taken.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
    QTest::qWait(60);
  }
  std::printf("taking another shot %33.1f ms median, %.1f p95, %.1f most\n", percentile(taken, 0.5), percentile(taken, 0.95), percentile(taken, 1));
  std::printf("memory %46.0f MB held, budget %.0f MB, used of it %.0f MB\n", megabytesHeld(), static_cast<double>(player.memoryBudget()) / 1e6,
              static_cast<double>(player.memoryUsed()) / 1e6);
}

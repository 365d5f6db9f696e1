// The window in use for long: shots are opened, played, scrubbed, changed by a handle, undone. Each minute the memory that is
// taken, and the longest that the window's own thread and the Picture stood still; on a machine that shares its processors with
// others, without what those have taken meanwhile.
// molten-bench-hours MINUTES [FOOTAGE...]
#include <QApplication>
#include <QElapsedTimer>
#include <QSettings>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <fstream>
#include <random>
#include <sstream>
#include <vector>

#include "app/bench/bench.h"
#include "app/picture/picture_view.h"
#include "app/playback/player.h"
#include "app/theme/theme.h"
#include "core/engine/render_job.h"
#include "core/machine.h"

extern "C" {
#include <libavutil/log.h>
}

using namespace molten;

namespace {

/// In MB, of what the process holds now.
double memoryHeld() {
  std::ifstream status("/proc/self/status");
  for (std::string line; std::getline(status, line);)
    if (line.starts_with("VmRSS:")) return std::atof(line.c_str() + 6) / 1024;
  return 0;
}

/// How long each processor has been lent to other machines so far, in nanoseconds.
std::vector<qint64> lentSoFar() {
  constexpr qint64 tick = 10'000'000;
  std::vector<qint64> all;
  std::ifstream file("/proc/stat");
  for (std::string line; std::getline(file, line) && line.starts_with("cpu");) {
    std::istringstream words(line);
    std::string name;
    std::array<qint64, 8> spent{};
    words >> name;
    for (qint64& one : spent) words >> one;
    if (name != "cpu") all.push_back(spent.back() * tick);
  }
  return all;
}

/// How long something that should happen again and again did not.
class Gaps {
 public:
  /// In nanoseconds: worth counting.
  static constexpr qint64 tooLong = 100'000'000;
  void tick(const std::string& during) {
    if (since_.isValid()) {
      const qint64 gap = since_.nsecsElapsed() - lent();
      count_ += gap > tooLong;
      if (gap > longest_) longest_ = gap, during_ = during;
    }
    since_.start();
  }
  /// From here on it should happen.
  void begin() {
    lent();
    since_.start();
  }
  /// What comes next does not belong to what was.
  void pause() { since_.invalidate(); }
  /// In milliseconds, and during what; begins anew.
  std::string take() {
    char text[200];
    std::snprintf(text, sizeof text, "%6.0f ms (%s), %d over 100", static_cast<double>(std::exchange(longest_, 0)) / 1e6,
                  during_.c_str(), std::exchange(count_, 0));
    return text;
  }

 private:
  /// Since it was asked last, at most, of any processor.
  qint64 lent() {
    const std::vector<qint64> now = lentSoFar();
    qint64 most = 0;
    for (std::size_t i = 0; i < std::min(now.size(), lent_.size()); ++i) most = std::max(most, now[i] - lent_[i]);
    lent_ = now;
    return most;
  }

  QElapsedTimer since_;
  std::vector<qint64> lent_;
  qint64 longest_ = 0;
  int count_ = 0;
  std::string during_;
};

const char* const chains[] = {
    "time-field:back=1s",
    "time-field:shape=radial,back=0.8s",
    "pace:spans=1s@100%~0.4s+1.5s@35%~0.4s+1s@-140%",
    "strips:count=12,stagger=3f",
    "slit-scan",
    "echoes:repeats=4,mix=light",
    "framing:zoom=100%@0s+160%@3s~ease",
    "finish:exposure=0.3",
    "time-field:shape=footage,back=1s,blur=1%",
};

}  // namespace

int main(int argc, char** argv) {
  returnMemoryAtOnce();
  av_log_set_level(AV_LOG_QUIET);
  QTemporaryDir scratch;
  QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, scratch.path());
  QApplication application(argc, argv);
  theme::apply(application);
  const double minutes = QApplication::arguments().value(1, "60").toDouble();
  QStringList files = QApplication::arguments().mid(2);
  for (const char* name : {"/demo/gather.mp4", "/demo/inspector.mp4"})
    if (files.size() < 2) files.push_back(QString(MOLTEN_SOURCE) + name);
  BenchOptions options;
  options.autosaveFolder = scratch.path();
  options.queueFolder = scratch.path() + "/renders";
  options.memoryBytes = usualBudget() / 4;
  options.askQuestions = false;
  Bench bench(options);
  bench.resize(1280, 800);
  bench.show();

  Gaps thread, playing;
  std::string doing;
  QTimer heart;
  heart.callOnTimeout([&] { thread.tick(doing); });
  heart.start(5);
  bool plays = false;
  QObject::connect(&bench, &Bench::pictureShown, [&] {
    if (plays) playing.tick(doing);
  });
  QElapsedTimer all, minute;
  all.start(), minute.start();
  std::mt19937 random(7);
  int edits = 0, rounds = 0;
  double opened = 0;
  std::printf("MB: taken, in the budget, taken just after a shot was opened; the window stood, played pictures were apart, at most\n"
              "minute   rounds   edits      taken budget opened\n");
  while (static_cast<double>(all.elapsed()) < minutes * 60000) {
    auto* const picture = bench.findChild<PictureView*>();
    doing = "opening";
    const QString& file = files[rounds++ % files.size()];
    bench.openPath(file);
    QTest::qWait(500);
    if (!bench.footage()) QTest::qWait(2000);
    if (!bench.footage()) return std::printf("%s does not open\n", qPrintable(file)), 1;
    opened = memoryHeld();
    const auto length = static_cast<unsigned>(bench.footage()->clock().length());
    const Rational rate = bench.footage()->clock().rate();
    Document& document = bench.document();
    const auto apply = [&](Edit edit) {
      document.apply(std::move(edit));
      ++edits;
    };
    for (int step = 0; step < 4; ++step) {
      Project project = document.project();
      const std::string chain = chains[random() % std::size(chains)];
      project.chain.assign(1, *parseStage(chain, rate));
      doing = "a new chain, " + chain;
      apply({"Chain", project, {}});
      QTest::qWait(300);
      doing = "scrubbing, " + chain;
      for (int i = 0; i < 40; ++i) {
        View view = bench.player().view();
        view.frame = random() % length;
        bench.player().setView(view);
        QTest::qWait(25);
      }
      doing = "playing, " + chain;
      plays = true;
      playing.begin();
      QTest::keyClick(picture, Qt::Key_Space);
      QTest::qWait(4000);
      plays = false;
      playing.pause();
      QTest::keyClick(picture, Qt::Key_Space);
      doing = "a value, " + chain;
      // A value under the hand, in one step of undo.
      const StageDescription& described = document.project().chain[0].kind->description();
      for (std::size_t p = 0; p < described.parameters.size(); ++p) {
        const auto* const value = std::get_if<double>(&document.project().chain[0].values[p]);
        if (!value) continue;
        const double first = *value;
        for (int i = 1; i <= 30; ++i) {
          Edit edit = setValue(document.project(), 0, p, first + 0.001 * i);
          edit.mergeKey = "hand";
          apply(std::move(edit));
          QTest::qWait(15);
        }
        break;
      }
      doing = "undoing, " + chain;
      for (int i = 0; i < 2; ++i) QTest::keyClick(picture, Qt::Key_Z, Qt::ControlModifier), QTest::qWait(100);
    }
    if (minute.elapsed() < 60000) continue;
    minute.start();
    std::printf("%6.1f %8d %7d %10.0f %6.0f %6.0f   %s, %s\n", static_cast<double>(all.elapsed()) / 60000, rounds, edits,
                memoryHeld(), static_cast<double>(bench.player().memoryUsed()) / (1 << 20), opened, thread.take().c_str(),
                playing.take().c_str());
    std::fflush(stdout);
  }
  return 0;
}

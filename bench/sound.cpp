// Sound beside the picture while the window is used: played, jumped in, looped, changed, on a machine that is busy every other
// minute. How far what is heard lies from what is shown, by the simulated device, and how often nothing was there to be heard.
// molten-bench-sound MINUTES [PROJECT]
// And how long a lane takes to be drawn, at several zooms: molten-bench-sound lane SOUND
#include <QApplication>
#include <QElapsedTimer>
#include <QSettings>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <atomic>
#include <cmath>
#include <cstdio>
#include <random>
#include <thread>

#include "app/bench/bench.h"
#include "app/picture/picture_view.h"
#include "app/playback/player.h"
#include "app/sound/hearing.h"
#include "app/sound/sound_lanes.h"
#include "app/theme/theme.h"
#include "core/engine/render_job.h"
#include "core/machine.h"
#include "core/project/sound_edits.h"

extern "C" {
#include <libavutil/log.h>
}

using namespace molten;

namespace {

/// Work that keeps all processors from idling, while it is on.
class Busy {
 public:
  Busy() {
    for (unsigned i = 0; i < std::max(1u, std::thread::hardware_concurrency()); ++i)
      threads_.emplace_back([this](std::stop_token stop) {
        volatile double sum = 0;
        while (!stop.stop_requested()) {
          if (!on_) std::this_thread::sleep_for(std::chrono::milliseconds(5));
          for (int k = 0; on_ && k < 100'000; ++k) sum = sum + std::sqrt(static_cast<double>(k));
        }
      });
  }
  void set(bool on) { on_ = on; }
  bool on() const { return on_; }

 private:
  std::atomic<bool> on_ = false;
  std::vector<std::jthread> threads_;
};

struct Figures {
  std::vector<double> apart;  ///< pictures
  int gaps = 0;
};

void print(const char* when, Figures& figures) {
  auto& all = figures.apart;
  if (all.empty()) return;
  std::sort(all.begin(), all.end());
  const auto part = [&](double share) { return all[static_cast<std::size_t>(share * static_cast<double>(all.size() - 1))]; };
  const auto far = std::count_if(all.begin(), all.end(), [](double one) { return std::abs(one) > 0.5; });
  std::printf("%-8s %7zu pictures; heard after shown, in pictures: least %.3f, middle %.3f, 99 of 100 %.3f, most %.3f; over a half: %td; gaps: %d\n",
              when, all.size(), all.front(), part(0.5), part(0.99), all.back(), far, figures.gaps);
}

int drawLane(const std::string& path) {
  auto feed = SoundFeed::open(path, std::make_shared<MemoryBudget>(std::size_t(256) << 20));
  if (!feed) return std::printf("%s\n", feed.error().message.c_str()), 1;
  (*feed)->waitForPeaks();
  const double length = static_cast<double>((*feed)->length()) / soundRate;
  SoundLanes lanes;
  lanes.resize(1280, SoundLanes::laneHeight);
  SoundLane lane;
  lane.which = 0;
  lane.feed = *feed;
  lane.end = length;
  SoundLanesState state;
  state.lanes = {lane};
  state.length = length;
  lanes.setState(state);
  std::printf("a lane of %.0f s, 1280 pixels wide\n", length);
  QImage image(lanes.size(), QImage::Format_ARGB32_Premultiplied);
  lanes.render(&image);  // fonts come with the first picture
  for (double seconds = length; seconds > 0.01; seconds /= 6) {
    double most = 0, sum = 0;
    constexpr int times = 50;
    for (int i = 0; i < times; ++i) {
      ChartView view;
      view.area = QRectF(60, 0, 1200, SoundLanes::laneHeight);
      // Each time another part, so that none is known.
      view.left = (length - seconds) * i / times, view.right = view.left + seconds;
      lanes.setView(view);
      QElapsedTimer took;
      took.start();
      lanes.render(&image);
      const double ms = static_cast<double>(took.nsecsElapsed()) / 1e6;
      most = std::max(most, ms), sum += ms;
    }
    std::printf("%10.3f s in sight: %.2f ms, at most %.2f\n", seconds, sum / times, most);
  }
  return 0;
}

}  // namespace

int main(int argc, char** argv) {
  returnMemoryAtOnce();
  av_log_set_level(AV_LOG_QUIET);
  qputenv("MOLTEN_SOUND", "simulated");
  QTemporaryDir scratch;
  QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, scratch.path());
  QApplication application(argc, argv);
  theme::apply(application);
  if (QApplication::arguments().value(1) == "lane") return drawLane(QApplication::arguments().value(2).toStdString());
  const double minutes = QApplication::arguments().value(1, "10").toDouble();
  const QString project = QApplication::arguments().value(2, QString(MOLTEN_SOURCE) + "/demo/ramp-on-whirrs.molten");
  BenchOptions options;
  options.autosaveFolder = scratch.path();
  options.queueFolder = scratch.path() + "/renders";
  options.memoryBytes = usualBudget();
  options.askQuestions = false;
  Bench bench(options);
  bench.resize(1280, 800);
  bench.show();
  bench.openPath(project);
  auto& hearing = *bench.findChild<Hearing*>();
  auto& picture = *bench.findChild<PictureView*>();
  for (int i = 0; i < 1000 && !bench.footage(); ++i) QTest::qWait(10);
  QTest::qWait(1500);

  Busy busy;
  Figures quiet, loaded;
  int gapsBefore = 0;
  QObject::connect(&bench.player(), &Player::frameReached, [&](std::int64_t frame) {
    const auto now = hearing.now();
    // Before it has begun, and after its end, nothing is heard.
    if (!bench.player().playing() || !now || std::isnan(now->seconds)) return;
    const Piece& piece = bench.player().view().piece;
    const double length = static_cast<double>(piece.length);
    double apart = now->seconds * piece.rate.toDouble() - static_cast<double>(frame);
    // Across the seam of a loop.
    if (apart > length / 2) apart -= length;
    if (apart < -length / 2) apart += length;
    Figures& figures = busy.on() ? loaded : quiet;
    figures.apart.push_back(apart);
    figures.gaps += now->gaps - gapsBefore;
    gapsBefore = now->gaps;
  });
  std::mt19937 random(3);
  QElapsedTimer all;
  all.start();
  int jumps = 0, edits = 0, loops = 0;
  while (all.elapsed() < minutes * 60'000) {
    busy.set((all.elapsed() / 60'000) % 2 == 1);
    if (!bench.player().playing()) QTest::keyClick(&picture, Qt::Key_Space);
    QTest::qWait(1000 + static_cast<int>(random() % 3000));
    switch (random() % 3) {
      case 0:
        QTest::keyClick(&picture, static_cast<Qt::Key>(random() % 2 ? Qt::Key_Home : Qt::Key_End)), ++jumps;
        break;
      case 1: {
        const Project& now = bench.document().project();
        if (now.sounds.empty()) break;
        bench.document().apply(setSoundValue(now, 0, soundParameters(now.sounds[0]).gain, -static_cast<double>(random() % 12)));
        bench.document().endGesture(), ++edits;
        break;
      }
      case 2:
        bench.player().setLoop(!bench.player().loop()), ++loops;
        break;
    }
  }
  std::printf("%.1f minutes, %d jumps, %d edits, loop on or off %d times\n", static_cast<double>(all.elapsed()) / 60'000, jumps, edits, loops);
  print("alone", quiet), print("busy", loaded);
  return 0;
}

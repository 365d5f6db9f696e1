// molten-clock: the window.
#include <sys/signalfd.h>

#include <QApplication>
#include <QIcon>
#include <QLoggingCategory>
#include <QSettings>
#include <QSocketNotifier>
#include <QStandardPaths>
#include <QTimer>
#include <csignal>
#include <cstdio>

#include "app/bench/bench.h"
#include "app/files/desktop_dialogs.h"
#include "app/live/live_call.h"
#include "app/live/live_keeping.h"
#include "app/live/live_room.h"
#include "app/playback/player.h"
#include "app/settings/settings_view.h"
#include "app/theme/theme.h"
#include "core/engine/render_job.h"
#include "core/machine.h"

namespace {

/// Becomes readable when the process is asked to end. Call before there is any other thread.
int signalDescriptor() {
  static const int descriptor = [] {
    std::signal(SIGXFSZ, SIG_IGN);
    sigset_t asked;
    sigemptyset(&asked);
    for (const int one : {SIGINT, SIGTERM, SIGHUP, SIGQUIT}) sigaddset(&asked, one);
    pthread_sigmask(SIG_BLOCK, &asked, nullptr);
    return signalfd(-1, &asked, SFD_CLOEXEC | SFD_NONBLOCK);
  }();
  return descriptor;
}

}  // namespace

int main(int argc, char** argv) {
  molten::beginProgram();
  signalDescriptor();
  // Before there is an application: it asks for this once.
  if (const int percent = molten::interfaceSize(); percent > 100 && qEnvironmentVariableIsEmpty("QT_SCALE_FACTOR"))
    qputenv("QT_SCALE_FACTOR", QByteArray::number(percent / 100.0));
  molten::useDesktopDialogs();
  QApplication application(argc, argv);
  QApplication::setOrganizationName("molten-clock");
  QApplication::setApplicationName("molten-clock");
  QGuiApplication::setDesktopFileName("org.moltenclock.MoltenClock");
  QApplication::setWindowIcon(QIcon(":/icons/app.svg"));
  // What Qt's media library says of itself goes to no terminal; what goes wrong with sound the program says itself.
  QLoggingCategory::setFilterRules("qt.multimedia.*=false");
  const QStringList arguments = QApplication::arguments().mid(1);
  if (arguments.contains("--help") || arguments.contains("-h")) {
    std::puts(qPrintable(molten::callHelp()));
    return 0;
  }
  if (arguments.contains("--version")) {
    std::puts("molten-clock " MOLTEN_VERSION);
    return 0;
  }
  const auto call = molten::callOf(arguments);
  if (!call) {
    std::fprintf(stderr, "%s\n", call.error().message.c_str());
    return 2;
  }
  if (call->listCameras) {
    std::fputs(qPrintable(molten::camerasListed()), stdout);
    return 0;
  }
  molten::theme::apply(application);

  molten::BenchOptions options;
  options.autosaveFolder = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/autosave";
  options.memoryBytes = molten::usualBudget();
  molten::Document::clearLeftovers(options.autosaveFolder);
  molten::Bench bench(options);
  bench.show();
  if (!call->open.isEmpty()) bench.openPath(call->open);
  QTimer telling;
  if (call->camera) {
    QObject::connect(&bench.live().keeping(), &molten::LiveKeeping::said, &bench,
                     [](const QString& sentence) { std::fprintf(stderr, "%s\n", qPrintable(sentence)); });
    bench.beginLive(*call);
    // For the log of a machine that nobody sits at.
    QObject::connect(&telling, &QTimer::timeout, &bench, [&bench] {
      std::puts(qPrintable(bench.live().logLine()));
      std::fflush(stdout);
    });
    telling.start(1000);
  }
  QTimer::singleShot(0, &bench, &molten::Bench::offerLostWork);
  // Whoever has never been here is shown round, once there is something to be seen.
  if (!call->camera && !QSettings().contains("tour taken"))
    QObject::connect(&bench.player(), &molten::Player::pictureReady, &bench, [&bench] { QTimer::singleShot(600, &bench, &molten::Bench::lookRound); },
                     Qt::SingleShotConnection);
  // The end of the session, or of the terminal: what was done is kept, nothing half-written stays.
  const int asked = signalDescriptor();
  QSocketNotifier ended(asked, QSocketNotifier::Read);
  QObject::connect(&ended, &QSocketNotifier::activated, &bench, &molten::Bench::endNow);
  return QApplication::exec();
}

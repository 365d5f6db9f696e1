// molten-clock: the window.
#include <sys/signalfd.h>

#include <QApplication>
#include <QIcon>
#include <QLocale>
#include <QSettings>
#include <QSocketNotifier>
#include <QStandardPaths>
#include <QTimer>
#include <clocale>
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
#include "app/trouble/application.h"
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

/// What reaches the terminal is the program's own: what goes wrong it says itself, in the window or in a line of its own.
/// MOLTEN_QT_MESSAGES lets Qt speak, for developers.
void keepQtQuiet() {
  if (!qEnvironmentVariableIsEmpty("MOLTEN_QT_MESSAGES")) return;
  qInstallMessageHandler([](QtMsgType type, const QMessageLogContext&, const QString& message) {
    if (type == QtFatalMsg) std::fprintf(stderr, "%s\n", qPrintable(message));
  });
  // Only sound goes through Qt's media library: it need not look for hardware that decodes pictures, which speaks for itself.
  for (const char* const name : {"QT_FFMPEG_DECODING_HW_DEVICE_TYPES", "QT_FFMPEG_ENCODING_HW_DEVICE_TYPES"})
    if (!qEnvironmentVariableIsSet(name)) qputenv(name, ",");
}

}  // namespace

int main(int argc, char** argv) {
  molten::beginProgram();
  keepQtQuiet();
  signalDescriptor();
  // Before there is an application: it asks for this once.
  if (const int percent = molten::interfaceSize(); percent > 100 && qEnvironmentVariableIsEmpty("QT_SCALE_FACTOR"))
    qputenv("QT_SCALE_FACTOR", QByteArray::number(percent / 100.0));
  molten::useDesktopDialogs();
  molten::Application application(argc, argv);
  // Numbers have a decimal point in every language, also for libraries that go by the C locale, which QApplication sets.
  std::setlocale(LC_NUMERIC, "C");
  QLocale::setDefault(QLocale::c());
  QApplication::setOrganizationName("molten-clock");
  QApplication::setApplicationName("molten-clock");
  QGuiApplication::setDesktopFileName("org.moltenclock.MoltenClock");
  QApplication::setWindowIcon(QIcon(":/icons/app.svg"));
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
    QObject::connect(&telling, &QTimer::timeout, &bench, [&bench, json = call->statusJson] {
      std::puts(json ? bench.live().statusJson().constData() : qPrintable(bench.live().logLine()));
      std::fflush(stdout);
    });
    telling.start(1000);
    constexpr int longestWait = 10'000;  // milliseconds
    if (!call->waitForCamera)
      QTimer::singleShot(longestWait, &bench, [&bench] {
        const std::optional<molten::LiveState> state = bench.live().state();
        if (!state || state->arrived() > 0) return;
        std::fprintf(stderr, "%s\n", state->trouble.empty() ? "The camera gives no picture." : state->trouble.c_str());
        bench.endNow();
        QApplication::exit(1);
      });
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

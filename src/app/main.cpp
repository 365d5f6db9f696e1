// molten-clock: the window.

#include <QApplication>
#include <QIcon>
#include <QStandardPaths>
#include <QTimer>
#include <cstdio>

#include "app/bench/bench.h"
#include "app/theme/theme.h"
#include "core/engine/render_job.h"

extern "C" {
#include <libavutil/log.h>
}

int main(int argc, char** argv) {
  av_log_set_level(AV_LOG_QUIET);
  QApplication application(argc, argv);
  QApplication::setOrganizationName("molten-clock");
  QApplication::setApplicationName("molten-clock");
  QApplication::setWindowIcon(QIcon(":/icons/app.svg"));
  const QStringList arguments = QApplication::arguments();
  if (arguments.contains("--help") || arguments.contains("-h")) {
    std::puts(
        "molten-clock [PROJECT.molten | FOOTAGE]\nOpens the window, with a project, a clip, or a folder of numbered "
        "stills.");
    return 0;
  }
  molten::theme::apply(application);

  molten::BenchOptions options;
  options.autosaveFolder = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/autosave";
  options.memoryBytes = molten::usualBudget();
  molten::Bench bench(options);
  bench.show();
  if (arguments.size() > 1) bench.openPath(arguments[1]);
  QTimer::singleShot(0, &bench, &molten::Bench::offerLostWork);
  return QApplication::exec();
}

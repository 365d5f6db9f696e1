#include "open_through_portal.h"

#include <QAction>
#include <QApplication>
#include <QDBusConnection>
#include <QDBusMessage>
#include <QFileDialog>
#include <QFileInfo>
#include <QTest>
#include <QTimer>
#include <cstdio>

#include "app/bench/bench.h"
#include "core/media/footage.h"

namespace molten::test {

int openThroughPortal(const QString& folder) {
  BenchOptions options;
  options.autosaveFolder = folder + "/autosave";
  options.queueFolder = folder + "/renders";
  options.askQuestions = false;
  Bench bench(options);
  bench.show();
  // What Qt asked the portal at its beginning is answered before this is: the portal itself answers both, one after another.
  auto version = QDBusMessage::createMethodCall("org.freedesktop.portal.Desktop", "/org/freedesktop/portal/desktop", "org.freedesktop.DBus.Properties", "Get");
  version << QString("org.freedesktop.portal.FileChooser") << QString("version");
  QDBusConnection::sessionBus().call(version);
  QCoreApplication::processEvents();
  bool ofQt = false;
  QTimer looking;
  looking.setInterval(20);
  looking.callOnTimeout([&] {
    auto* const dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
    // What the desktop shows is not on the screen as Qt's.
    if (!dialog || dialog->testAttribute(Qt::WA_DontShowOnScreen)) return;
    ofQt = true;
    dialog->reject();
  });
  looking.start();
  for (QAction* const action : bench.findChildren<QAction*>())
    if (action->text() == Bench::tr("Open footage…")) {
      action->trigger();
      break;
    }
  if (ofQt) {
    std::puts("a dialog of Qt's");
    return 0;
  }
  constexpr int patience = 20'000;
  if (!QTest::qWaitFor([&] { return bench.footage() != nullptr; }, patience)) return 1;
  std::printf("%s %s\n", qgetenv("QT_QPA_PLATFORMTHEME").constData(), qPrintable(QFileInfo(QString::fromStdString(bench.document().project().source.path)).fileName()));
  return 0;
}

}  // namespace molten::test

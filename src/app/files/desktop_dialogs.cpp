#include "app/files/desktop_dialogs.h"

#include <QDBusConnection>
#include <QDBusMessage>
#include <QFile>

namespace molten {
namespace {

constexpr const char* themeVariable = "QT_QPA_PLATFORMTHEME";

/// A portal that is there but gives no answer is none.
bool portalAnswers() {
  constexpr int patience = 3000;  // milliseconds; one that runs takes one or two, one that is begun for it a second
  // No bus is begun for this.
  const QString own = qEnvironmentVariable("XDG_RUNTIME_DIR") + "/bus";
  if (qEnvironmentVariableIsEmpty("DBUS_SESSION_BUS_ADDRESS") && !QFile::exists(own)) return false;
  const QString name = "portal";
  bool answers = false;
  {
    const QDBusConnection bus = QDBusConnection::connectToBus(QDBusConnection::SessionBus, name);
    if (bus.isConnected()) {
      auto call = QDBusMessage::createMethodCall("org.freedesktop.portal.Desktop", "/org/freedesktop/portal/desktop", "org.freedesktop.DBus.Properties", "Get");
      call << QString("org.freedesktop.portal.FileChooser") << QString("version");
      answers = bus.call(call, QDBus::Block, patience).type() == QDBusMessage::ReplyMessage;
    }
  }
  QDBusConnection::disconnectFromBus(name);
  return answers;
}

}  // namespace

void useDesktopDialogs() {
  if (qEnvironmentVariableIsEmpty(themeVariable) && portalAnswers()) qputenv(themeVariable, "xdgdesktopportal");
}

}  // namespace molten

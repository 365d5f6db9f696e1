#include "app/render/desktop_notice.h"

#include <QDBusConnection>
#include <QDBusMessage>
#include <QVariantMap>

namespace molten {

void noticeOnDesktop(const QString& title, const QString& sentence) {
  auto call = QDBusMessage::createMethodCall("org.freedesktop.Notifications", "/org/freedesktop/Notifications",
                                             "org.freedesktop.Notifications", "Notify");
  constexpr int asLongAsUsual = -1;
  call.setArguments({QString("Molten Clock"), 0u, QString("molten-clock"), title, sentence, QStringList(), QVariantMap(), asLongAsUsual});
  // Nothing waits for an answer.
  QDBusConnection::sessionBus().send(call);
}

}  // namespace molten

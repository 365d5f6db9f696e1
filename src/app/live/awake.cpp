#include "app/live/awake.h"

#include <QCoreApplication>
#include <QDBusConnection>
#include <QDBusMessage>
#include <QDBusPendingCallWatcher>
#include <QDBusPendingReply>
#include <utility>

namespace molten {
namespace {

constexpr int patience = 1000;  // milliseconds

QDBusMessage call(const char* method) {
  return QDBusMessage::createMethodCall("org.freedesktop.ScreenSaver", "/org/freedesktop/ScreenSaver", "org.freedesktop.ScreenSaver", method);
}

void letGo(std::uint32_t cookie) {
  QDBusMessage message = call("UnInhibit");
  message << cookie;
  QDBusConnection::sessionBus().asyncCall(message, patience);
}

}  // namespace

struct Awake::Wish {
  bool stands = false;
  std::uint32_t cookie = 0;  ///< what the desktop knows it by; 0: it does not
};

Awake::Awake() : wish_(std::make_shared<Wish>()) {}

void Awake::keep(bool awake) {
  if (wish_->stands == awake) return;
  wish_->stands = awake;
  if (!awake) {
    if (const auto cookie = std::exchange(wish_->cookie, 0)) letGo(cookie);
    return;
  }
  if (!QDBusConnection::sessionBus().isConnected()) return;
  QDBusMessage message = call("Inhibit");
  message << QCoreApplication::applicationName() << QCoreApplication::translate("molten::Awake", "A live picture is shown");
  auto* const watcher = new QDBusPendingCallWatcher(QDBusConnection::sessionBus().asyncCall(message, patience), QCoreApplication::instance());
  QObject::connect(watcher, &QDBusPendingCallWatcher::finished, watcher, [wish = wish_, watcher] {
    const QDBusPendingReply<std::uint32_t> answer = *watcher;
    watcher->deleteLater();
    if (answer.isError()) return;
    if (wish->stands && wish->cookie == 0)
      wish->cookie = answer.value();
    else
      letGo(answer.value());
  });
}

}  // namespace molten

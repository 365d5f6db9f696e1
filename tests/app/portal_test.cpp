// Files are asked for by the desktop's portal, where there is one: a bus and a portal of the test's own, and the window in a
// process beside it.
#include <QDBusConnection>
#include <QDBusMessage>
#include <QDBusVariant>
#include <QDBusVirtualObject>
#include <QLibraryInfo>
#include <QProcess>
#include <QTimer>
#include <QUrl>

#include "app/bench/bench.h"
#include "bench_fixture.h"
#include "open_through_portal.h"

namespace molten {
namespace {

/// Answers every question for a file with the same one.
class Portal : public QDBusVirtualObject {
 public:
  explicit Portal(QString file) : file_(std::move(file)) {}
  QStringList asked;

  QString introspect(const QString&) const override { return {}; }
  bool handleMessage(const QDBusMessage& message, const QDBusConnection& bus) override {
    if (message.member() == "Get") return bus.send(message.createReply(QVariant::fromValue(QDBusVariant(QVariant::fromValue(4u)))));
    if (message.interface() != "org.freedesktop.portal.FileChooser") return bus.send(message.createErrorReply(QDBusError::UnknownMethod, "There is no such thing here."));
    asked << message.member() + ": " + message.arguments().value(1).toString();
    const QString request = "/org/freedesktop/portal/desktop/request/one";
    bus.send(message.createReply(QVariant::fromValue(QDBusObjectPath(request))));
    auto answer = QDBusMessage::createTargetedSignal(message.service(), request, "org.freedesktop.portal.Request", "Response");
    answer << 0u << QVariantMap{{"uris", QStringList{QUrl::fromLocalFile(file_).toString()}}};
    // Whoever asked listens only once it knows its request's name, and nobody says when: it is told until it has heard.
    telling_.callOnTimeout([bus, answer] { bus.send(answer); });
    telling_.start(20);
    return true;
  }

 private:
  QString file_;
  QTimer telling_;
};

class PortalTest : public ::testing::Test {
 protected:
  void SetUp() override {
    const QString themes = QLibraryInfo::path(QLibraryInfo::PluginsPath) + "/platformthemes";
    if (!QFile::exists(themes + "/libqxdgdesktopportal.so")) GTEST_SKIP() << "Qt's part for portals is not installed";
    daemon.start("dbus-daemon", {"--session", "--nofork", "--print-address"});
    if (!daemon.waitForReadyRead()) GTEST_SKIP() << "there is no dbus-daemon";
    address = QString::fromUtf8(daemon.readLine()).trimmed();
  }
  void TearDown() override {
    QDBusConnection::disconnectFromBus("tests");
    daemon.kill();
    daemon.waitForFinished();
  }
  /// What the window in another process says after having been asked to open footage.
  QString opened() {
    QProcess window;
    auto environment = QProcessEnvironment::systemEnvironment();
    environment.insert("DBUS_SESSION_BUS_ADDRESS", address);
    environment.remove("QT_QPA_PLATFORMTHEME");
    window.setProcessEnvironment(environment);
    window.start(QApplication::applicationFilePath(), {test::openThroughPortalWord, QString::fromStdString(folder / "")});
    QEventLoop loop;
    QObject::connect(&window, &QProcess::finished, &loop, &QEventLoop::quit);
    if (window.state() != QProcess::NotRunning) loop.exec();
    return QString::fromUtf8(window.readAllStandardOutput()).trimmed();
  }
  QProcess daemon;
  QString address;
  test::TempFolder folder;
};

TEST_F(PortalTest, AsksForFilesWhereThereIsOne) {
  const std::string clip = folder / "clip.mkv";
  test::makeNumberedClip(clip, 10, {64, 36}, "-c:v ffv1");
  Portal portal(QString::fromStdString(clip));
  QDBusConnection bus = QDBusConnection::connectToBus(address, "tests");
  ASSERT_TRUE(bus.registerVirtualObject("/org/freedesktop/portal/desktop", &portal, QDBusConnection::SubPath));
  ASSERT_TRUE(bus.registerService("org.freedesktop.portal.Desktop"));
  EXPECT_EQ(opened().toStdString(), "xdgdesktopportal clip.mkv");
  ASSERT_EQ(portal.asked.size(), 1) << portal.asked.join(", ").toStdString();
  EXPECT_TRUE(portal.asked[0].startsWith("OpenFile: ")) << portal.asked[0].toStdString();
}

TEST_F(PortalTest, DialogsAreQtsOwnWhereThereIsNone) {
  EXPECT_EQ(opened().toStdString(), "a dialog of Qt's");
}

}  // namespace
}  // namespace molten

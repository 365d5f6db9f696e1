#include <gtest/gtest.h>

#include <QApplication>
#include <QLocale>
#include <QSettings>
#include <QTemporaryDir>
#include <cstdio>
#include <mutex>

#include "app/files/desktop_dialogs.h"
#include "app/theme/theme.h"
#include "app/trouble/application.h"
#include "open_through_portal.h"
#include "save_over_and_over.h"

namespace {

/// What Qt says of what is wrong is a fault of the test in which it says so; but not what its plugin without a screen, its library of
/// tests, its media library without a sound server, or its lock of a file in a folder that a test has closed says of itself.
class Messages : public testing::EmptyTestEventListener {
 public:
  Messages() {
    qInstallMessageHandler([](QtMsgType type, const QMessageLogContext&, const QString& message) {
      std::fprintf(stderr, "%s\n", qPrintable(message));
      const auto ofItself = [&](const char* head) { return message.startsWith(head); };
      if (type == QtDebugMsg || type == QtInfoMsg || ofItself("This plugin does not support ") || ofItself("Mouse event ") || ofItself("Keyboard event ") || ofItself("PulseAudioService: ") || ofItself("Could not remove our own lock file ")) return;
      const std::scoped_lock lock(mutex);
      said << message;
    });
  }
  void OnTestEnd(const testing::TestInfo&) override {
    const std::scoped_lock lock(mutex);
    EXPECT_TRUE(said.isEmpty()) << said.join('\n').toStdString();
    said.clear();
  }

 private:
  static inline std::mutex mutex;
  static inline QStringList said;
};

}  // namespace

int main(int argc, char** argv) {
  testing::InitGoogleTest(&argc, argv);
  if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  // What is heard is kept, to be looked at.
  if (qEnvironmentVariableIsEmpty("MOLTEN_SOUND")) qputenv("MOLTEN_SOUND", "simulated");
  QTemporaryDir settings;
  QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, settings.path());
  // Of the tests themselves no desktop is asked.
  const bool throughPortal = argc == 3 && argv[1] == QByteArray(molten::test::openThroughPortalWord);
  if (throughPortal) molten::useDesktopDialogs();
  molten::Application application(argc, argv);
  QLocale::setDefault(QLocale::c());
  QApplication::setOrganizationName("molten-clock");
  QApplication::setApplicationName("tests");
  molten::theme::apply(application);
  if (argc == 3 && argv[1] == molten::test::saveOverAndOverWord) return molten::test::saveOverAndOver(argv[2]);
  if (throughPortal) return molten::test::openThroughPortal(argv[2]);
  testing::UnitTest::GetInstance()->listeners().Append(new Messages);
  return RUN_ALL_TESTS();
}

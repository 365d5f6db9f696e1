#include <gtest/gtest.h>

#include <QApplication>
#include <QSettings>
#include <QTemporaryDir>

#include "app/files/desktop_dialogs.h"
#include "app/theme/theme.h"
#include "open_through_portal.h"
#include "save_over_and_over.h"

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
  QApplication application(argc, argv);
  QApplication::setOrganizationName("molten-clock");
  QApplication::setApplicationName("tests");
  molten::theme::apply(application);
  if (argc == 3 && argv[1] == molten::test::saveOverAndOverWord) return molten::test::saveOverAndOver(argv[2]);
  if (throughPortal) return molten::test::openThroughPortal(argv[2]);
  return RUN_ALL_TESTS();
}

#include "app/files/desktop_dialogs.h"

#include <QByteArray>

namespace molten {

void useDesktopDialogs() {
  constexpr const char* theme = "QT_QPA_PLATFORMTHEME";
  if (qEnvironmentVariableIsEmpty(theme)) qputenv(theme, "xdgdesktopportal");
}

}  // namespace molten

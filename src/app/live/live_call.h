#pragma once
// Live by the command line: for a machine that starts by itself.

#include <QString>
#include <QStringList>
#include <optional>

#include "core/media/camera.h"

namespace molten {

/// How the window is to begin.
struct Call {
  QString open;                        ///< a project or footage; empty: nothing
  std::optional<CameraChoice> camera;  ///< live on it
  bool fullScreen = false, mirrored = false;
  int turned = 0;  ///< degrees
  int screen = -1;  ///< number, from 0; −1: the window's own
  QString record, recordCamera;  ///< files; empty: nothing is recorded
  bool listCameras = false;
  bool waitForCamera = false;  ///< for as long as it takes; otherwise the call fails after a while
  bool statusJson = false;     ///< how it goes is told in JSON
};
/// `arguments`: without the program's name. Fails with a sentence.
Result<Call> callOf(const QStringList& arguments);
/// What `--help` says.
QString callHelp();
/// The cameras that there are, a line each.
QString camerasListed();

}  // namespace molten

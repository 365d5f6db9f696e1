#pragma once
// Where files stand that are named without a folder.

#include <QDir>

#include "app/session/session.h"
#include "core/picture/blank.h"

namespace molten {

/// A file that others stand beside: the project's, as long as that has no place the footage's; of a blank, one at home.
inline QString besideWhat(const Session& session) {
  if (const QString project = session.document().path(); !project.isEmpty()) return project;
  const std::string& footage = (session.reelInHand() ? session.whole() : session.project()).source.path;
  return namesBlank(footage) ? QDir::home().filePath("blank") : QString::fromStdString(footage);
}

}  // namespace molten

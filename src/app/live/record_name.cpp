#include "app/live/record_name.h"

#include <QFileInfo>

#include "core/files/safe_file.h"

namespace molten {

Result<QString> recordName(QString wanted, const QDateTime& now, const QStringList& taken) {
  wanted.replace("%t", now.toString("yyyy-MM-dd_HH-mm-ss"));
  const QString ending = QFileInfo(wanted).suffix();
  if (ending.compare("mp4", Qt::CaseInsensitive) != 0 && ending.compare("mov", Qt::CaseInsensitive) != 0)
    return Error{("\"" + wanted + "\" is no name of a recording: end it in .mp4 or .mov.").toStdString()};
  // Whether a file can be made there is found out by making one, which goes again.
  if (const auto tried = SafeFile::create(wanted.toStdString()); !tried) return tried.error();
  const QString stem = wanted.chopped(ending.size() + 1);
  QString name = wanted;
  for (int number = 2; QFileInfo(name).exists() || QFileInfo(name).isSymLink() || taken.contains(name); ++number) name = QString("%1-%2.%3").arg(stem).arg(number).arg(ending);
  return name;
}

}  // namespace molten

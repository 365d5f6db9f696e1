#include "app/files/demos.h"

#include <QCoreApplication>
#include <QDir>
#include <QFileInfo>
#include <QTextStream>

namespace molten {

std::vector<Demo> demos() {
  const QString beside = QCoreApplication::applicationDirPath();
  for (const QString& folder : {beside + "/../../demo", beside + "/../share/molten-clock/demo"}) {
    QFile list(folder + "/demonstrations.txt");
    if (!list.open(QIODevice::ReadOnly)) continue;
    std::vector<Demo> found;
    QTextStream lines(&list);
    while (!lines.atEnd()) {
      const QString line = lines.readLine();
      const Demo demo{QDir(folder).canonicalPath() + "/" + line.section('\t', 0, 0), line.section('\t', 1)};
      if (!demo.shows.isEmpty() && QFileInfo::exists(demo.path)) found.push_back(demo);
    }
    return found;
  }
  return {};
}

}  // namespace molten

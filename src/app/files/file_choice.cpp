#include "app/files/file_choice.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QSettings>

namespace molten {
namespace {

QString folder() {
  return QSettings().value("folder").toString();
}

QString remembered(const QString& path) {
  if (!path.isEmpty()) QSettings().setValue("folder", QFileInfo(path).absolutePath());
  return path;
}

}  // namespace

QString chooseFile(QWidget* window, const QString& title, const QString& kinds, const QString& from) {
  return remembered(QFileDialog::getOpenFileName(window, title, from.isEmpty() ? folder() : from, kinds));
}

QString chooseFolder(QWidget* window, const QString& title) {
  return remembered(QFileDialog::getExistingDirectory(window, title, folder()));
}

QString chooseNewFile(QWidget* window, const QString& title, const QString& kinds, const QString& proposed) {
  return remembered(QFileDialog::getSaveFileName(window, title, proposed.isEmpty() ? folder() : proposed, kinds));
}

}  // namespace molten

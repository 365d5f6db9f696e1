#pragma once
// Choosing files in the system's way; the folder is remembered.

#include <QString>

class QWidget;

namespace molten {

/// Each gives an empty text where none is chosen. `kinds`: `Projects (*.molten);;All files (*)`; empty: all.
QString chooseFile(QWidget* window, const QString& title, const QString& kinds = {});
QString chooseFolder(QWidget* window, const QString& title);
QString chooseNewFile(QWidget* window, const QString& title, const QString& kinds);

}  // namespace molten

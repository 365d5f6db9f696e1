#pragma once
// Choosing files in the system's way; the folder is remembered.

#include <QString>

class QWidget;

namespace molten {

/// Each gives an empty text where none is chosen. `kinds`: `Projects (*.molten);;All files (*)`; empty: all. `from`: the
/// folder to begin in; `proposed`: the path; empty: where the last choice was.
QString chooseFile(QWidget* window, const QString& title, const QString& kinds = {}, const QString& from = {});
QString chooseFolder(QWidget* window, const QString& title);
QString chooseNewFile(QWidget* window, const QString& title, const QString& kinds, const QString& proposed = {});

}  // namespace molten

#pragma once
// A word to the desktop, for whoever works in another window just now.

#include <QString>

namespace molten {

/// Where there is no desktop that shows such, nothing happens.
void noticeOnDesktop(const QString& title, const QString& sentence);

}  // namespace molten

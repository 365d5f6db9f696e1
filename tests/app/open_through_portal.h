#pragma once
// What a process beside the test does: a window that is asked to open footage.

#include <QString>

namespace molten::test {

inline const char* const openThroughPortalWord = "--open-through-portal";
/// Says what theme file dialogs come from, and what was opened. 0 if it came to an end.
int openThroughPortal(const QString& folder);

}  // namespace molten::test

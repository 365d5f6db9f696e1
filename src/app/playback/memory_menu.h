#pragma once
// The choice of the memory budget.

#include <cstddef>

class QMenu;

namespace molten {

class Playback;

/// What the user has chosen for all starts; `usual` where that is nothing.
std::size_t chosenMemory(std::size_t usual);
/// What frames, flows and prepared pictures may take up together. Kept for the next start.
void fillMemoryMenu(QMenu* menu, std::size_t usual, Playback& playback);

}  // namespace molten

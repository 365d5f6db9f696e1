#pragma once
// The choice of the memory budget.

#include <QString>
#include <cstddef>
#include <vector>

class QMenu;

namespace molten {

class Playback;

/// What the user has chosen for all starts; `usual` where that is nothing.
std::size_t chosenMemory(std::size_t usual);
/// Budgets that suit this machine, in bytes; first, as 0, the usual one.
std::vector<std::size_t> memoryChoices();
QString memoryName(std::size_t choice, std::size_t usual);
/// For now and all starts: one of those.
void chooseMemory(std::size_t choice, std::size_t usual, Playback& playback);
/// Which of those it is.
std::size_t memoryChoice();
/// What frames, flows and prepared pictures may take up together. Kept for the next start.
void fillMemoryMenu(QMenu* menu, std::size_t usual, Playback& playback);

}  // namespace molten

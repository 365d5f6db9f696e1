#pragma once
// Help: the keys, and what this is.

class QMenu;
class QWidget;

namespace molten {

class Commands;

void fillHelpMenu(Commands& commands, QMenu* menu, QWidget* window);

}  // namespace molten

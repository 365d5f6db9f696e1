#pragma once
// Help: the keys, and what this is.

class QMenu;
class QWidget;

namespace molten {

class Commands;
class Session;

void fillHelpMenu(Commands& commands, QMenu* menu, const Session& session, QWidget* window);

}  // namespace molten

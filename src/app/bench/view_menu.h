#pragma once
// The menu of what is in sight, and how.

#include <functional>

class QAction;
class QMenu;
class QWidget;

namespace molten {

class Commands;
class Comparison;
class Deck;
class DeckSplit;
class LogView;
class PictureView;
class SectionView;
class Sections;
class Session;
class Viewing;

struct ViewParts {
  Session& session;
  Viewing& viewing;
  PictureView& picture;
  SectionView &across, &down;
  Sections& sections;
  Comparison& comparison;
  Deck& deck;
  DeckSplit& split;
  LogView& log;
};

/// Gives the entry by which the Picture fills the window.
QAction* fillViewMenu(Commands& commands, QMenu* menu, const ViewParts& parts, const std::function<void()>& fillWindow, QWidget* window);

}  // namespace molten

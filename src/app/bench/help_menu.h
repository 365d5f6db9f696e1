#pragma once
// Help: the keys, and what this is.

class QMenu;
class QWidget;

namespace molten {

class Commands;
class Session;

/// What a first look round speaks of.
struct TourPlaces {
  QWidget *chain, *picture, *dials, *deck, *transport;
};

void fillHelpMenu(Commands& commands, QMenu* menu, const Session& session, const TourPlaces& places, QWidget* window);

}  // namespace molten

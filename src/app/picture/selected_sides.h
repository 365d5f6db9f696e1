#pragma once
// What the selected stage does to the picture as a whole: its frame on a small one, and how bright it makes it.

#include <QObject>

#include "app/picture/picture_view.h"
#include "app/session/session.h"
#include "core/engine/stage_sides.h"

namespace molten {

class Dials;
class Player;
class Viewing;

/// Asks for the pictures on both sides of the selected stage, if its description has a use for them; lays its frame on
/// the Picture and moves it as the hand does, and tells the Dials how bright they are.
class SelectedSides : public QObject {
  Q_OBJECT

 public:
  SelectedSides(Session& session, const Player& player, PictureView& picture, Viewing& viewing, Dials& dials,
                QObject* parent = nullptr);

 private:
  /// Of the selected one, if it is on.
  struct Selected {
    std::size_t stage, place;  ///< in the chain, and among those that are on
    Moment entering, leaving;
  };
  std::optional<Selected> selected() const;
  std::optional<SidesOf> wanted() const;
  std::optional<ShownFrame> frame() const;
  void moveFrame(Place middle);

  Session& session_;
  const Player& player_;
  PictureView& picture_;
  Dials& dials_;
};

}  // namespace molten

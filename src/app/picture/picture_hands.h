#pragma once
// Hands on the Picture: the selected stage's handles and paths, and places that are picked for it.

#include <QObject>
#include <string>

#include "app/picture/moment_finder.h"
#include "app/picture/picture_view.h"
#include "app/picture/laid_guides.h"

namespace molten {

class Viewing;

/// Lays the selected stage's handles on the Picture and makes edits of what is done to them.
class PictureHands : public QObject {
  Q_OBJECT

 public:
  PictureHands(Session& session, const Player& player, PictureView& picture, Viewing& viewing,
               QObject* parent = nullptr);

  /// The next click on the Picture is for an action of the selected stage.
  void pickFor(const std::string& action);
  /// False if nothing was being picked.
  bool stopPicking();

 private:
  void moveHandle(std::size_t handle, Place place);
  void moveKey(std::size_t parameter, std::size_t key, Place place);
  void pick(Place place);
  void pickColour(Place place);
  /// Of the selected stage; nullptr: none waits for a place.
  const StageAction* waiting() const;
  void lay(PictureState& state) const;
  void layHandles(PictureState& state, const Stage& stage, std::size_t index) const;
  void layGuides(PictureState& state, const Stage& stage, std::size_t index) const;
  void layPaths(PictureState& state, const Stage& stage, std::size_t index) const;

  Session& session_;
  PictureView& picture_;
  Viewing& viewing_;
  MomentFinder moments_;
  LaidPictures* laid_;
  LaidGuides guides_;
  std::string picking_;  ///< the action that waits for a place
};

}  // namespace molten

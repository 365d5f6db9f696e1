#pragma once
// Where titles begin and end, as lines on the Picture that others hold to.

#include <list>

#include "app/session/session.h"

namespace molten {

class Viewing;

/// Guides are those of all titles of the chain, and the middle and the edges of the picture, which are held to but not drawn.
class TitleGuides {
 public:
  explicit TitleGuides(const Session& session) : session_(session) {}

  /// Guides at the playhead, as fractions of what leaves a stage: upright ones across, level ones down.
  struct Lines {
    std::vector<double> across, down;
  };
  Lines ofTitles() const;
  /// By how much what a stage lays over the picture, with these values, has to be moved so that a side or its middle stands
  /// on a guide of another: as fractions; 0 where none is near.
  Place pull(std::size_t stage, const StageValues& values, double nearAcross, double nearDown) const;
  /// The corners of what a stage with these values lays over the picture; none, where that is no title.
  std::vector<Place> cornersOf(std::size_t stage, const StageValues& values) const;

 private:
  const OwnPicture& measured(const TitleLook& look) const;

  const Session& session_;
  /// Of late, the newest first.
  mutable std::list<std::pair<TitleLook, OwnPicture>> known_;
};

}  // namespace molten

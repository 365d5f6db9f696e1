#pragma once
// Where what is laid over the picture begins and ends, as lines on the Picture that others hold to.

#include "app/picture/laid_pictures.h"
#include "app/session/session.h"

namespace molten {

/// Guides are the sides of all that the chain's stages lay over the picture, and the middle and the edges of the picture.
class LaidGuides {
 public:
  LaidGuides(const Session& session, LaidPictures& pictures) : session_(session), pictures_(pictures) {}

  /// At the playhead, as fractions of what leaves a stage: upright ones across, level ones down.
  struct Lines {
    std::vector<double> across, down;
  };
  /// Where titles begin and end.
  Lines ofTitles() const;
  /// By how much what a stage lays over the picture, with these values, has to be moved so that a side or its middle stands
  /// on a guide of another: as fractions; 0 where none is near.
  Place pull(std::size_t stage, const StageValues& values, double nearAcross, double nearDown) const;
  /// The corners of what a stage with these values lays over the picture; none, where that is nothing or not known yet.
  std::vector<Place> cornersOf(std::size_t stage, const StageValues& values) const;

 private:
  const Session& session_;
  LaidPictures& pictures_;
};

}  // namespace molten

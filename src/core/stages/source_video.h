#pragma once
// What stages read besides the video that enters: sources of their own.

#include <memory>
#include <string>
#include <vector>

#include "core/picture/picture.h"
#include "core/stages/source_use.h"
#include "core/stages/followed_sounds.h"

namespace molten {

/// A source as it stands in its file.
struct SourceVideo {
  SourceUse frames;        ///< that are decoded for it
  PictureShape shape;      ///< of these, at their full size
  FrameClock clock;        ///< likewise
  VideoDescription video;  ///< they are this
  Chain stages = {};       ///< that make the source of it: none, but where it is the result of a project
  VideoDescription made;   ///< what leaves those: the source
  std::string project = {};  ///< the project's file
  FollowedSounds sounds = {};  ///< of that project
  std::vector<std::string> files = {};  ///< that it depends on, where it is the result of a project
};

}  // namespace molten

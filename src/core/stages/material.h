#pragma once
// What stages are made of besides numbers: pictures for fields, and sources of their own.

#include <memory>
#include <string>

#include "core/field/gray_picture.h"
#include "core/picture/title_look.h"
#include "core/sound/loudness_course.h"
#include "core/stages/source_video.h"
#include "core/stages/stage.h"

namespace molten {

/// How a source is read: all along, and of a project on through its stages; or for a while and then others for long, and of a project the
/// whole pictures of its result.
enum class SourceStays { Open, Known };

/// What of a video a field is made of.
enum class Measured { Brightness, Motion };

/// Where a file's pictures stand in time.
struct FileMoment {
  double seconds = 0;        ///< since its beginning
  std::int64_t picture = 0;  ///< likewise, for numbered stills: those go by pictures of the video
  PastTheEnds past = PastTheEnds::StandStill;
};

/// A title as it is drawn, and where its lines lie in it, in pixels of the full size.
struct TitleOnPicture {
  Picture picture;  ///< so many times smaller as it was asked for
  Size full;        ///< its size where it is not
  double left = 0, top = 0, right = 0, bottom = 0;
};

/// Safe for several threads. What cannot be had is nullptr, and the reason is kept by who made this.
class Material {
 public:
  virtual ~Material() = default;
  /// A file's picture: of a still the one there is; of numbered stills, or a clip, the one at a moment.
  virtual std::shared_ptr<const GrayPicture> ofFile(const std::string& path, const FileMoment& at, Measured what) = 0;
  /// What leaves the stages `upstream`, at a moment. Motion is in picture heights a second, from the picture before.
  virtual std::shared_ptr<const GrayPicture> ofVideo(const Chain& upstream, const Moment& moment, Measured what) = 0;
  /// A source besides the footage; the same one for as long as its file is. `between`: what is seen between two frames.
  virtual std::shared_ptr<const SourceVideo> source(const SourceUse& use, InBetween between, SourceStays stays) = 0;
  /// The same material for stages over that source in place of the footage. `sounds`: that their values go by; none: those of
  /// the project that it is the result of, or the same ones.
  virtual std::shared_ptr<Material> over(const std::shared_ptr<const SourceVideo>& source, const std::optional<FollowedSounds>& sounds) = 0;
  /// Of the footage, or of what stands in its place: what stages at the beginning of a chain are over.
  virtual VideoDescription footage() const = 0;
  /// How loud a sound is: the own sound of that, by its time, or a laid one by the piece's. nullptr: there is none.
  virtual std::shared_ptr<const LoudnessCourse> loudness(const Follow::Listening& listening) = 0;
  /// Drawn so many times smaller.
  virtual std::shared_ptr<const TitleOnPicture> title(const TitleLook& look, int scale) = 0;
  /// What fields that are kept for other moments may take together, in bytes.
  virtual std::size_t mostKept() const = 0;
};

}  // namespace molten

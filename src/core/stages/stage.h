#pragma once
// What a stage is: a description, and a map from the pictures that leave it to the pictures that enter.

#include <memory>
#include <nlohmann/json.hpp>
#include <span>
#include <string>
#include <vector>

#include "core/stages/parameter.h"
#include "core/time/frame_clock.h"

namespace molten {

/// The video that enters a stage or leaves it.
struct VideoDescription {
  Size size;                 ///< in pixels
  Rational pixelAspect = 1;  ///< width of a pixel over its height
  Rational rate = 25;        ///< pictures a second
  std::int64_t length = 1;   ///< pictures
};

/// Two places that a line joins on the Picture, by parameter id.
struct HandleLine {
  std::string from, to;
};

struct StageDescription {
  std::string id;     ///< `time-field`
  std::string label;  ///< `Time Field`
  std::string help;   ///< one line: what it does
  std::vector<ParameterDescription> parameters;
  std::vector<HandleLine> handleLines;
};

/// Values in the order of the description's parameters.
using StageValues = std::vector<ParameterValue>;

/// A sentence about the stage as it is set, shown on one of its cards.
struct StageNote {
  std::string card;
  std::string text;
};

/// Least and most displacement of a stage's pixels, in incoming frames.
struct Reach {
  double least = 0, most = 0;
};

/// From the pictures that leave a stage to those that enter it: the pixel at a site of picture n reads the incoming
/// position n + displacement. Both videos have the same rate and size.
class TimeMap {
 public:
  virtual ~TimeMap() = default;
  /// In incoming frames, for every site of a row. Requires out.size() == sites.width.
  virtual void displacements(const PlaneSites& sites, int row, std::span<double> out) const = 0;
  /// Bounds of the displacements over the picture, in incoming frames.
  virtual Reach reach() const = 0;
  virtual PastTheEnds pastTheEnds() const = 0;
  virtual InBetween inBetween() const = 0;
};

/// One kind of stage. Stateless; there is one object of each, in the registry.
class StageKind {
 public:
  virtual ~StageKind() = default;
  virtual const StageDescription& description() const = 0;
  virtual std::unique_ptr<TimeMap> timeMap(const StageValues& values, const VideoDescription& incoming) const = 0;
  /// One line for the tile in the Chain.
  virtual std::string summary(const StageValues& values) const = 0;
  /// What is worth knowing about these values on this video.
  virtual std::vector<StageNote> notes(const StageValues& values, const VideoDescription& incoming) const = 0;
  /// The moment, in seconds beside the present one, that is read at a place parameter's handle.
  virtual double momentAt(const StageValues& values, std::size_t parameter) const = 0;
};

/// A stage in a chain.
struct Stage {
  const StageKind* kind = nullptr;
  bool on = true;
  StageValues values;
  nlohmann::ordered_json unknown = nlohmann::ordered_json::object();  ///< of its file, kept on saving

  friend bool operator==(const Stage&, const Stage&) = default;
};
using Chain = std::vector<Stage>;

/// A stage as it is when it is added.
Stage newStage(const StageKind& kind);
/// The index of a parameter by its id; the number of parameters if there is none.
std::size_t parameterIndex(const StageDescription& description, std::string_view id);

/// How many frames before and after its own moment a picture reads, at most.
struct FrameReach {
  std::int64_t before = 0, after = 0;
};
/// Of the stages that are on, together. Exact for one stage; for several the sum, which they may not use up.
FrameReach frameReach(const Chain& chain, const VideoDescription& footage);

/// All kinds, in the order in which they are offered.
std::span<const StageKind* const> stageKinds();
/// By id; nullptr if there is none.
const StageKind* findStageKind(std::string_view id);

}  // namespace molten

#pragma once
// What a stage is: a description, and a map from the pictures that leave it to the pictures that enter.

#include <memory>
#include <nlohmann/json.hpp>
#include <span>
#include <string>
#include <vector>

#include "core/picture/video_description.h"
#include "core/stages/parameter.h"
#include "core/time/frame_clock.h"
#include "core/time/moment.h"

namespace molten {

/// Two places that a line joins on the Picture, by parameter id.
struct HandleLine {
  std::string from, to;
};

/// Something that can be done for a stage besides setting its values: what needs pictures to be looked at.
struct StageAction {
  std::string id;     ///< `find-a-loop`
  std::string label;  ///< `Find a loop`
  std::string card;   ///< that it stands on
  std::string help;   ///< one line
};

struct StageDescription {
  std::string id;     ///< `time-field`
  std::string label;  ///< `Time Field`
  std::string help;   ///< one line: what it does
  std::vector<ParameterDescription> parameters;
  std::vector<HandleLine> handleLines;
  std::vector<StageAction> actions;
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

/// What a picture reads before its pixels are displaced: a position, or two that are mixed.
struct MomentRead {
  Position first;
  Position second;   ///< counts only if share > 0
  double share = 0;  ///< of `second`, 0…1; `first` has the rest
};

/// From the pictures that leave a stage to those that enter it: the pixel at a site of a picture reads the incoming
/// position readAt(moment) + displacement. Both videos have the same rate and size. A map either moves whole pictures
/// in time, or displaces the pixels of each about its own moment.
class TimeMap {
 public:
  explicit TimeMap(const VideoDescription& outgoing) : outgoing_(outgoing) {}
  virtual ~TimeMap() = default;
  /// What leaves the stage.
  const VideoDescription& outgoing() const { return outgoing_; }

  /// True if all pixels of a picture read alike: there are no displacements. Otherwise readAt() gives the moment
  /// itself.
  virtual bool wholePicture() const { return false; }
  virtual MomentRead readAt(const Moment& moment) const { return {{moment.whole, moment.rest.toDouble()}, {}, 0}; }
  /// readAt().first, quicker and rounded, for drawing. In and out in pictures from the first one.
  virtual double roughly(double position) const { return position; }
  /// True if readAt() mixes two positions at some moments.
  virtual bool dissolves() const { return false; }

  /// In incoming frames, for every site of a row. Requires out.size() == sites.width.
  virtual void displacements(const PlaneSites& sites, int row, std::span<double> out) const;
  /// Bounds of the displacements over the picture, in incoming frames.
  virtual Reach reach() const { return {}; }

  virtual PastTheEnds pastTheEnds() const = 0;
  virtual InBetween inBetween() const { return InBetween::Nearest; }
  /// True if pictures are made of two: between frames, or in a dissolve.
  bool mixes() const { return inBetween() != InBetween::Nearest || dissolves(); }

 private:
  VideoDescription outgoing_;
};

/// One kind of stage. Stateless; there is one object of each, in the registry.
class StageKind {
 public:
  virtual ~StageKind() = default;
  virtual const StageDescription& description() const = 0;
  virtual std::unique_ptr<TimeMap> timeMap(const StageValues& values, const VideoDescription& incoming) const = 0;
  /// One line for the tile in the Chain: what the stage does to this video.
  virtual std::string summary(const StageValues& values, const VideoDescription& incoming) const = 0;
  /// What is worth knowing about these values on this video, whose result is shown at `outputRate`.
  virtual std::vector<StageNote> notes(const StageValues& values, const VideoDescription& incoming,
                                       Rational outputRate) const = 0;
  /// The moment, in seconds beside the present one, that is read at a place parameter's handle.
  virtual double momentAt(const StageValues&, std::size_t) const { return 0; }
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

/// The maps of the stages that are on, the one at the footage first, each made for what leaves the one before.
std::vector<std::unique_ptr<TimeMap>> timeMaps(const Chain& chain, const VideoDescription& footage);
/// The video that enters stage `stage` of a chain; with `stage` the chain's size, the one that leaves it.
VideoDescription videoAt(const Chain& chain, std::size_t stage, const VideoDescription& footage);

/// All kinds, in the order in which they are offered.
std::span<const StageKind* const> stageKinds();
/// By id; nullptr if there is none.
const StageKind* findStageKind(std::string_view id);

}  // namespace molten

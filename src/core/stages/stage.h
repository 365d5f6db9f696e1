#pragma once
// What a stage is: a description, how it is set, and the map of time that it makes.

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/picture/title_look.h"
#include "core/picture/video_description.h"
#include "core/stages/parameter.h"
#include "core/stages/source_use.h"
#include "core/stages/time_map.h"
#include "core/time/drives.h"
#include "core/time/keys.h"

namespace molten {

/// Something that can be done for a stage besides setting its values.
struct StageAction {
  enum class Wants {
    Place,        ///< a place of the Picture that is clicked: see StageKind::picked()
    Colour,       ///< one that is clicked on the Picture: see StageKind::withColour()
    BetterRound,  ///< one that is looked for: see StageKind::withRound()
    Nothing       ///< it is done at once: see StageKind::acted()
  };
  std::string id;     ///< `find-a-loop`
  std::string label;  ///< `Find a loop`
  std::string card;   ///< that it stands on
  std::string help;   ///< one line
  Wants wants = Wants::Place;
};

/// What a card says of itself.
struct CardDescription {
  std::string title;
  bool seldom = false;  ///< it is one line that says how it stands, until it is opened
  int lines = 0;        ///< of what is said on it at most: they have a place of their own, so that nothing moves
  bool brightness = false;  ///< it shows how bright pictures are before the stage and after it
};

struct StageDescription {
  std::string id;     ///< `time-field`
  std::string label;  ///< `Time Field`
  std::string help;   ///< one line: what it does
  std::vector<ParameterDescription> parameters;
  std::vector<StageAction> actions;
  std::vector<CardDescription> cards = {};  ///< those that are not daily, or on which something is said
  bool branches = false;                    ///< it reads a source of its own, which may have a chain
};

/// A sentence about the stage as it is set, shown on one of its cards.
struct StageNote {
  std::string card;
  std::string text;
};

/// Something to take hold of on the Picture.
struct StageHandle {
  Place place;
  std::optional<double> moment;       ///< that is read there, in seconds beside the present one
  std::string label;                  ///< what it says instead of a moment
  std::optional<std::size_t> anchor;  ///< the handle from which it goes straight, if it is held to straight ways
};

/// A place of the Picture that was picked, and what is read there, in seconds of the video that enters.
struct PickedPlace {
  Place place;
  double now = 0;    ///< the present moment
  double reads = 0;  ///< of the pixel there
};

/// The pictures of the incoming video that a loop goes round in: first and last.
struct Round {
  std::int64_t first = 0, last = 0;
  std::int64_t count() const { return last - first + 1; }
};

/// A line that shows how a field lies on the Picture: the moment goes evenly from its first point to its last.
struct FieldLine {
  std::vector<Place> points;
  double from = 0, to = 0;  ///< moments at its ends, in seconds beside the present one
};

/// A picture that a stage lays over what enters: its size, and what of it counts.
struct OwnPicture {
  Size size;
  Rational pixelAspect = 1;
  double left = 0, top = 0, right = 0, bottom = 0;  ///< in its pixels
};

struct Stage;
using Chain = std::vector<Stage>;
class Material;
struct PaceParameters;

/// What a map is made of besides its stage and the video that enters it.
struct Surroundings {
  std::shared_ptr<Material> material;     ///< none: fields that are made of pictures are 0
  std::shared_ptr<const Chain> upstream;  ///< the stages before this one; none without material
};

/// One kind of stage. Stateless; there is one object of each, in the registry.
class StageKind {
 public:
  virtual ~StageKind() = default;
  virtual const StageDescription& description() const = 0;
  virtual std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                           const Surroundings& around = {}) const = 0;
  /// One line for the tile in the Chain: what the stage does to this video.
  virtual std::string summary(const StageValues& values, const VideoDescription& incoming) const = 0;
  /// What is worth knowing about these values on this video, whose result is shown at `outputRate`.
  virtual std::vector<StageNote> notes(const StageValues& values, const VideoDescription& incoming,
                                       Rational outputRate) const = 0;

  /// The same stage, but each pixel reads what the one beyond the nearest border reads: shows how different the two
  /// sides of its borders are. None if it has no borders.
  virtual std::optional<Stage> contrast(const Stage& stage) const;
  /// The pictures that it goes round in, if it makes a loop; and the values for another round.
  virtual std::optional<Round> round(const StageValues&, const VideoDescription&) const { return std::nullopt; }
  virtual StageValues withRound(StageValues values, const Round&, const VideoDescription&) const { return values; }
  /// By how many incoming pictures it scatters what its pixels read, at most; and the stage without that.
  virtual double scatter(const StageValues&) const { return 0; }
  virtual Stage withoutScatter(const Stage& stage) const;
  /// The title that it lays over the picture, if it does, and the corners of a picture of its own there, as fractions of
  /// what enters, going round from the upper left.
  virtual std::optional<TitleLook> title(const StageValues&, const VideoDescription&) const { return std::nullopt; }
  virtual std::vector<Place> corners(const StageValues&, const VideoDescription&, const OwnPicture&) const { return {}; }
  /// The source that a stage which branches reads, if it reads one; and the values for another.
  virtual std::optional<OwnSource> ownSource(const StageValues&) const { return std::nullopt; }
  virtual StageValues withOwnSource(StageValues values, const OwnSource&) const { return values; }
  /// Why a stage of this kind cannot run on a camera, which has no end: a sentence that says what to use instead. None: it can.
  virtual std::optional<std::string> liveTrouble(const Stage&) const { return std::nullopt; }
  /// By which its pace is set, if it is a pace that can be drawn: see pace.h.
  virtual const PaceParameters* paceHandles() const { return nullptr; }

  /// How the stage is set by hand on the Picture. `incoming`: the video that enters.
  virtual std::vector<StageHandle> handles(const StageValues&, const VideoDescription&) const { return {}; }
  virtual std::vector<FieldLine> lines(const StageValues&, const VideoDescription&) const { return {}; }
  /// The values with a handle moved to a place.
  virtual StageValues withHandle(StageValues values, std::size_t, Place, const VideoDescription&) const {
    return values;
  }
  /// The values with what is seen moved so that its middle lies at a place of the picture that enters, as a fraction of it,
  /// or as near as can be: of a stage that lays pictures out anew. `position`: in pictures of what leaves.
  virtual StageValues withFrameAt(StageValues values, Place, double /*position*/, const VideoDescription&) const {
    return values;
  }
  /// The values after an action that picks a place. `incoming`: the video that enters.
  virtual StageValues picked(StageValues values, std::string_view, const PickedPlace&, const VideoDescription&) const {
    return values;
  }
  /// The stage as it is shown while an action waits for a colour; and its values with that.
  virtual Stage shownForColour(const Stage& stage, std::string_view action) const;
  virtual StageValues withColour(StageValues values, std::string_view, Colour) const { return values; }
  /// The stage after an action that wants nothing; defined for stages of this kind.
  virtual Stage acted(const Stage& stage, std::string_view action, const VideoDescription& incoming) const;
  /// The values if the line of moments is pulled by `by` seconds where a pixel reads `at` seconds beside its moment.
  virtual StageValues pulled(StageValues values, double, double) const { return values; }
};

/// Shots that a stage puts in a row: see shot_row.h. Copies are cheap; two are the same where what they hold is.
struct ShotRow;
struct SharedRow {
  std::shared_ptr<const ShotRow> row = {};
  friend bool operator==(const SharedRow& a, const SharedRow& b);
};

/// A stage in a chain.
struct Stage {
  const StageKind* kind = nullptr;
  bool on = true;
  std::string name = {};                 ///< that the user has given it; empty: its kind's
  StageValues values;                    ///< of a parameter with keys: the first key's
  std::map<std::size_t, KeyTrack> keys;  ///< by parameter; none of the tracks is empty
  std::map<std::size_t, Drives> drives = {};  ///< likewise; with keys as well they act on what those give
  std::vector<Stage> branch = {};             ///< the chain of its own source: see StageDescription::branches
  SharedRow shots = {};                       ///< of a row of shots
  std::string unknown = {};                   ///< members of its file that are not known here, as JSON; kept on saving

  /// Whether any value, or one, moves by itself.
  bool varies() const { return !keys.empty() || !drives.empty(); }
  bool varies(std::size_t parameter) const { return keys.contains(parameter) || drives.contains(parameter); }
  /// The values at a moment of what leaves the stage, in seconds. `followed`: none: nothing is.
  StageValues valuesAt(double seconds, const Followed* followed = nullptr) const;
  /// As keys alone have them: what a hand sets there.
  StageValues keyedAt(double seconds) const;
  /// Numbers, each as little or as much as it comes to be.
  StageValues leastValues() const { return boundOf(false); }
  StageValues mostValues() const { return boundOf(true); }
  /// Numbers that move as far from 0 as they come: for words about the stage as a whole.
  StageValues widestValues() const;
  /// Some value does, of this stage alone.
  bool follows(Follow::What what) const;
  friend bool operator==(const Stage&, const Stage&) = default;

 private:
  StageValues boundOf(bool most) const;
};

/// What moves a value.
struct Movement {
  ParameterValue value;  ///< with keys: the first one's
  KeyTrack keys;
  Drives drives;
};
Movement movementOf(const Stage& stage, std::size_t parameter);
void setMovement(Stage& stage, std::size_t parameter, const Movement& movement);

/// What a stage is called: its name, or its kind's.
const std::string& titleOf(const Stage& stage);
/// A stage as it is when it is added.
Stage newStage(const StageKind& kind);
/// The index of a parameter by its id, or by an earlier one; the number of parameters if there is none.
std::size_t parameterIndex(const StageDescription& description, std::string_view id);

/// Whether a parameter counts, as the other values are.
bool isInUse(const StageDescription& description, const StageValues& values, std::size_t parameter);

/// A key's value as a parameter's, and back. Requires a number, a place or a colour.
ParameterValue keyedParameter(const ParameterDescription& parameter, const KeyValue& value);
KeyValue keyValue(const ParameterValue& value);

/// The maps of the stages that are on, the one at the footage first, each made for what leaves the one before.
/// `under`: stages that have made `footage` of what the material knows as the footage.
std::vector<std::unique_ptr<TimeMap>> timeMaps(const Chain& chain, const VideoDescription& footage,
                                               const std::shared_ptr<Material>& material = nullptr,
                                               const Chain& under = {});
/// The video that enters stage `stage` of a chain; with `stage` the chain's size, the one that leaves it.
VideoDescription videoAt(const Chain& chain, std::size_t stage, const VideoDescription& footage);

/// Some value of some stage does, or of its branch.
bool anyFollows(const Chain& chain, Follow::What what);

/// All kinds, in the order in which they are offered.
std::span<const StageKind* const> stageKinds();
/// Others in their place; none: those of the program again. Before anything is made of them.
void offerStageKinds(std::span<const StageKind* const> kinds);
/// By id; nullptr if there is none.
const StageKind* findStageKind(std::string_view id);

}  // namespace molten

#pragma once
// What is saved: footage, chain, in and out, output. A value: copies are cheap enough to be the steps of undo.

#include <map>
#include <optional>
#include <string>

#include "core/stages/followed_sounds.h"
#include "core/stages/laid_sound.h"
#include "core/stages/stage.h"

namespace molten {

/// In one chain.
inline constexpr std::size_t mostStages = 100;

/// How the result was last rendered, or is to be.
struct OutputSettings {
  std::string path;
  std::string codec;               ///< an id of codecs(), or empty: by the path's ending
  int quality = -1;                ///< −1: the codec's default
  std::optional<Size> size;        ///< none: the footage's
  std::optional<Rational> rate;    ///< none: the footage's
  std::optional<Rational> length;  ///< of the piece, in seconds; none: it follows the chain

  std::string unknown = {};  ///< as a stage's

  friend bool operator==(const OutputSettings&, const OutputSettings&) = default;
};

/// What a shot's chain reads in the end.
struct Source {
  std::string path;                      ///< empty: none chosen yet
  std::optional<Rational> rate;          ///< of stills, or of footage with a varying rate; none: its own
  InBetween between = InBetween::Whole;  ///< what is seen between two of its frames

  std::string unknown = {};  ///< as a stage's

  friend bool operator==(const Source&, const Source&) = default;
};

/// The choices of a source's in-between, as the project file and the command line write them.
const std::vector<ChoiceDescription>& inBetweenChoices();
/// By id or label; none if it is none of them.
std::optional<InBetween> inBetweenOf(std::string_view text);

/// A cut that is run through: one shot races up to it, the next one comes out of it as fast and slows down.
struct RunThrough {
  Rational speed = 1;  ///< of the footage of both at the cut; 1: it is not run through
  Rational lasts = 0;  ///< seconds of the reel that either takes to change its speed
  friend bool operator==(const RunThrough&, const RunThrough&) = default;
};

/// How a shot goes over into the next one.
struct Cut {
  Rational dissolve = 0;     ///< seconds that both are seen; 0: it is hard
  bool linearLight = false;  ///< of a dissolve: mixed as light is
  RunThrough through = {};
  friend bool operator==(const Cut&, const Cut&) = default;
};

/// How a shot stands in the reel.
struct ShotPlace {
  std::string name = {};                                ///< empty: its footage's
  bool on = true;
  std::optional<Rational> from = std::nullopt, to = std::nullopt;  ///< seconds of what leaves its chain; none: all of it
  bool fills = false;                                   ///< of another shape than the reel: it is cut to that, not fitted into it
  Cut cut = {};
  friend bool operator==(const ShotPlace&, const ShotPlace&) = default;
};

/// A shot after the first.
struct Shot {
  Source source = {};
  Chain chain = {};
  std::optional<Chain> versionB = std::nullopt;
  Stage ownSound = molten::ownSound();
  ShotPlace place = {};
  std::string unknown = {};  ///< as a stage's
  friend bool operator==(const Shot&, const Shot&) = default;
};

/// The first shot, those after it, and what all of them have.
struct Project {
  Source source;
  Chain chain;
  std::optional<Chain> versionB;    ///< other settings, kept to be compared and changed over
  std::optional<std::int64_t> in;   ///< first picture of the piece that is played and rendered, at the output's rate
  std::optional<std::int64_t> out;  ///< last one
  OutputSettings output;
  Stage ownSound = molten::ownSound();  ///< how the footage's sound is heard
  ShotPlace place = {};
  std::vector<Shot> more = {};          ///< shots after the first
  Chain reelChain = {};                 ///< of all of them, after the last cut
  bool stopsAtCuts = false;             ///< what that reads of other moments ends where its shot does
  Chain sounds = {};                    ///< laid on the piece's time
  std::string unknownShot = {}, unknownReel = {}, unknown = {};  ///< as a stage's
  std::map<std::string, std::string> unknownOfSources = {};  ///< likewise, of other sources than the shot's, by path

  friend bool operator==(const Project&, const Project&) = default;
};

/// For the values of its chain, or of its version B; none unless one of them follows how loud a sound is.
FollowedSounds followedSounds(const Project& project);

/// Every chain of a project, as it may be changed: of each shot, with its version B, and the one after the last cut.
std::vector<Chain*> chainsOf(Project& project);

/// First and last picture of what is played and rendered, in a result of `length` pictures.
struct Span {
  std::int64_t first = 0, last = 0;
  std::int64_t count() const { return last - first + 1; }
};
Span spanOf(const Project& project, std::int64_t length);

/// A change to a project with its name, as undo menus show it: `Back 1.250 s`.
struct Edit {
  std::string name;
  Project after;
  /// Edits that follow each other with the same key are one step, as when a handle is dragged. Empty: always its own.
  std::string mergeKey;
};

Edit setValue(const Project& before, std::size_t stage, std::size_t parameter, const ParameterValue& value);
/// Likewise, but where the parameter has keys: of the key at a moment of the stage's output, in seconds, or of a new
/// one.
Edit setValueAt(const Project& before, std::size_t stage, std::size_t parameter, const ParameterValue& value,
                Rational at);
/// Several values, each like setValueAt().
Edit setValuesAt(const Project& before, std::size_t stage, const StageValues& values, Rational at,
                 const std::string& name, const std::string& mergeKey);
/// Other keys for a parameter; none: it keeps the value that it has at a moment.
Edit setKeys(const Project& before, std::size_t stage, std::size_t parameter, const KeyTrack& track, Rational at,
             const std::string& name, const std::string& mergeKey = {});
/// Other drives for a parameter; none: its keys, or its value, alone.
Edit setDrives(const Project& before, std::size_t stage, std::size_t parameter, const Drives& drives,
               const std::string& name, const std::string& mergeKey = {});
Edit addStage(const Project& before, const StageKind& kind);
Edit renameStage(const Project& before, std::size_t stage, const std::string& name);
/// Stages from elsewhere come to stand at index `at`.
Edit insertStages(const Project& before, std::size_t at, const Chain& stages, const std::string& name);
/// Another chain in place of the one that there is.
Edit setChain(const Project& before, const Chain& chain, const std::string& name);
Edit removeStage(const Project& before, std::size_t stage);
Edit duplicateStage(const Project& before, std::size_t stage);
/// The stage comes to stand at index `to`.
Edit moveStage(const Project& before, std::size_t stage, std::size_t to);
Edit switchStage(const Project& before, std::size_t stage, bool on);
Edit setSpan(const Project& before, std::optional<std::int64_t> in, std::optional<std::int64_t> out,
             const std::string& name);
Edit replaceFootage(const Project& before, const std::string& path, const std::string& name);
/// Another rate for footage that has none of its own.
Edit setSourceRate(const Project& before, Rational rate);
Edit setInBetween(const Project& before, InBetween between);
/// The chain as it is becomes version B.
Edit keepVersion(const Project& before);
/// The chain and version B change places. Requires that there is one.
Edit swapVersions(const Project& before);
/// Several values of a stage at once, as one step of undo.
Edit setValues(const Project& before, std::size_t stage, const StageValues& values, const std::string& name,
               const std::string& mergeKey = {});

/// A parameter's value or keys from text.
Status readValue(Stage& stage, std::size_t parameter, std::string_view written, Rational rate);
/// Several, as `back=0.5s,start=0.5x0`. Fails with a sentence that says what there is.
Status readValues(Stage& stage, std::string_view written, Rational rate);
/// `FILE@2.5s,gain=-3dB,fade-in=0.2s` to a sound that is laid on the piece; without `@` it begins at 0. Fails with a sentence.
Result<Stage> parseLaidSound(std::string_view text, Rational rate);
/// `time-field:back=0.5s,start=0.5x0` to a stage.
Result<Stage> parseStage(std::string_view text, Rational rate);
/// A stage to the end of a chain; `insert/pace:…` to the chain of the last Insert's own source.
Status appendStage(Chain& chain, std::string_view text, Rational rate);
/// Back to the text: only what differs from the defaults.
std::string stageText(const Stage& stage);

}  // namespace molten

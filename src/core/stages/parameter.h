#pragma once
// What a stage can be told: its parameters, described as data. Dials, project file, command line, undo texts and the
// reference page are made from these descriptions and from nothing else.

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "core/field/painting.h"
#include "core/field/response_curve.h"
#include "core/result.h"
#include "core/time/frame_order.h"
#include "core/time/pace_curve.h"
#include "core/time/rational.h"

namespace molten {

enum class Unit {
  None,
  Seconds,
  PerSecond,  ///< pictures a second
  Times,      ///< a second, of what is no picture
  Frames,     ///< of the incoming video
  Percent,    ///< the value is the fraction: 0.4 is 40 %
  Degrees,    ///< clockwise
  Stops,      ///< of light: each is twice the one before
  Decibels,   ///< of sound: 6 of them are twice as much
  Hertz,      ///< how high a tone is
  Pixels      ///< of the full size
};
/// Which side of the present moment a number reaches to; it is shown in that side's colour.
enum class Tense { None, Past, Ahead };

struct ChoiceDescription {
  std::string id;     ///< `stand-still`
  std::string label;  ///< `Stand still`
  std::string help;   ///< one line: what the user gets
};

struct NumberDescription {
  Unit unit = Unit::None;
  double least = 0, most = 1, initial = 0;
  double step = 0.1;  ///< of the wheel and the arrow keys
  double usual = 1;   ///< a slider spans least…usual; more can be typed
  int decimals = 3;   ///< shown
  Tense tense = Tense::None;
  bool whole = false;          ///< whole numbers only
  const char* none = nullptr;  ///< what a value of 0 is called, where that means something of its own: `off`
  bool moment = false;         ///< a moment of what enters, in seconds: it goes along when what lies before it gets longer
};

struct PlaceDescription {
  Place initial;
};

struct ToggleDescription {
  bool initial = false;
};

struct ChoicesDescription {
  std::vector<ChoiceDescription> choices;
  std::size_t initial = 0;
};

/// The spans of a Pace.
struct SpansDescription {};

/// A list of frames with holds.
struct OrderDescription {};

/// A curve from 0…1 to 0…1.
struct CurveDescription {};

/// The path of a picture or a clip.
struct FileDescription {
  std::string none = "none yet";  ///< what stands in its place while there is none
  bool isSource = false;          ///< it is a source of its own: see StageKind::ownSource()
};

/// Words.
struct TextDescription {
  std::string initial;
  bool lines = false;     ///< of several lines
  bool typeface = false;  ///< the name of one
};

/// A picture painted by hand.
struct PaintingDescription {};

/// A colour as it is shown: red, green and blue in 0…255.
struct Colour {
  std::uint8_t red = 0, green = 0, blue = 0;
  friend bool operator==(const Colour&, const Colour&) = default;
};

struct ColourDescription {
  Colour initial;
};

/// What is measured of a stage, and told on the card of the parameters that it is about.
enum class Figure {
  Outside,  ///< where it reads outside of what enters it
  Steps,    ///< how smooth its field is
  Round,    ///< how well its loop closes
  Borders   ///< how different the two sides of its borders are
};

struct ParameterDescription {
  std::string id;     ///< the label in lower case with hyphens: `past-the-ends`
  std::string label;  ///< `Past the ends`
  std::string card;   ///< title of the card that it stands on
  std::string help;   ///< one line
  bool animatable = false;
  std::variant<NumberDescription, PlaceDescription, ToggleDescription, ChoicesDescription, SpansDescription,
               OrderDescription, CurveDescription, FileDescription, TextDescription, PaintingDescription,
               ColourDescription>
      kind;
  /// Only of use where another parameter, a choice, is one of these: `{"shape", {"radial", "sweep"}}`. With no choices:
  /// where that one, a switch, a number or a path, is on, not 0 (or at least so much), or named.
  struct Condition {
    std::string parameter;
    std::vector<std::string> choices = {};
    bool unless = false;  ///< the other way round: of no use where that one counts, and is so
    double atLeast = 0;   ///< a number, from which on it is so; 0: wherever it is not 0
  };
  /// All of them hold where the parameter counts.
  struct Conditions : std::vector<Condition> {
    Conditions() = default;
    Conditions(Condition one) : std::vector<Condition>{std::move(one)} {}
    Conditions(std::initializer_list<Condition> all) : std::vector<Condition>(all) {}
  };
  Conditions when = {};
  std::optional<Figure> figure = std::nullopt;
  std::string was = {};  ///< the id that it had in earlier files, which still open
  bool ofSound = false;  ///< there is no picture that it could go by
};

/// A value of one parameter: a number in the description's unit, a place, on or off, the index of a choice, a list, a
/// path or words, a painting, or a colour.
using ParameterValue =
    std::variant<double, Place, bool, std::size_t, PaceSpans, FrameOrder, CurvePoints, std::string, Painting, Colour>;

/// Values in the order of a description's parameters.
using StageValues = std::vector<ParameterValue>;

ParameterValue initialValue(const ParameterDescription& parameter);
/// The value brought into the parameter's range. Requires the parameter's own kind of value.
ParameterValue withinRange(const ParameterDescription& parameter, const ParameterValue& value);

/// Reads what a person writes: `1.5s`, `1,5s`, `36f`, `1/12s`, `500ms` (seconds and frames by `rate`), `0.5x1` (a place), `on`,
/// a choice's id or label, words (`\\n` a new line, `\\,` a comma, `\\\\` a backslash), `ffd24a` or `#ffd24a` (a colour), lists as pace_text.h and frame_order.h say. Fails with a
/// sentence that says what is wanted.
Result<ParameterValue> parseValue(const ParameterDescription& parameter, std::string_view text, Rational rate);

/// What a person has typed, brought into the range; `said`: that it was not in it, or nothing.
struct TypedValue {
  ParameterValue value;
  std::string said;
};
/// As parseValue, but a number or a place out of range is the nearest that can be.
Result<TypedValue> typedValue(const ParameterDescription& parameter, std::string_view text, Rational rate);

/// The shortest text that parseValue reads back to the same value.
std::string valueText(const ParameterDescription& parameter, const ParameterValue& value);
/// The unit as it is written after a number: ` s`, ` %`, or nothing.
const char* unitText(Unit unit);
/// For a person: `1.000 s`, `Stand still`, `0.500 × 1.000`.
std::string valueLabel(const ParameterDescription& parameter, const ParameterValue& value);

/// `1.000 s`, with a true minus sign.
std::string secondsText(double seconds, int decimals = 3);
/// A moment beside another, as handles say it: `now`, `−1.000 s`, `+0.250 s`.
std::string momentText(double seconds);

}  // namespace molten

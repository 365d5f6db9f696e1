#pragma once
// Drives as they are described, shown and written.

#include "core/stages/stage.h"

namespace molten {

struct DriveDescription {
  std::string id;     ///< `jitter`
  std::string label;  ///< `Jitter`
  std::string help;   ///< one line
};
/// All kinds, by the index of the Drive.
const std::vector<DriveDescription>& driveKinds();

/// What a drive of a parameter can be told, as a stage's parameters are. Requires an animatable parameter.
std::vector<ParameterDescription> driveParameters(std::size_t kind, const ParameterDescription& parameter);
/// A drive as it is when it is added: its size goes by the parameter's usual range.
Drive newDrive(std::size_t kind, const ParameterDescription& parameter);
/// A drive's values in the order of driveParameters(), and back.
StageValues driveValues(const Drive& drive, const ParameterDescription& parameter);
Drive driveOf(std::size_t kind, const StageValues& values);

/// True if a parameter's written value says that it moves.
bool isMovementText(const ParameterDescription& parameter, std::string_view text);
/// `VALUE` or keys (see key_text.h), then drives joined by `_`, each its id and its values in order, of which the last
/// ones may be left out: `0_jitter_0.5_8`, `100%_follow_speed_0%`, `1s@0s+3s@4s_wave_0.2s_2s_sine`. Times as
/// parseValue() reads them. Fails with a sentence that says what is wanted.
Result<Movement> parseMovement(const ParameterDescription& parameter, std::string_view text, Rational rate);
/// The shortest text that is read back to the same.
std::string movementText(const ParameterDescription& parameter, const Movement& movement);
/// For a person, one line: `jitter ±0.50 stops, 8 fps`.
std::string driveLabel(const Drive& drive, const ParameterDescription& parameter);

}  // namespace molten

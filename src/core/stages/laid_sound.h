#pragma once
// How sounds are set: a shot's own, and those that are laid on the piece's time. They have parameters as stages have, but change
// no picture, and are not among those that are offered.

#include "core/stages/stage.h"

namespace molten {

/// What becomes of a shot's own sound where its speed is not its own.
enum class OtherSpeeds { Tape, KeepPitch, Silent };

/// Whether a sound, of either kind, is heard at all.
struct SoundSwitches {
  bool mute = false, alone = false;  ///< alone: all that are not are silent
};
SoundSwitches soundSwitches(const Stage& sound);
/// A factor, at so many seconds of the piece. `followed`: none: nothing is.
double soundGain(const Stage& sound, double seconds, const Followed* followed = nullptr);

/// The parameters that a lane lays its hands on, by their indices; none: sounds of that kind have no such.
struct SoundParameters {
  std::size_t gain = 0, mute = 0, alone = 0;
  std::optional<std::size_t> otherSpeeds, at, loop, sensitivity;
};
SoundParameters soundParameters(const Stage& sound);

/// A shot's own sound, as it is unless it is set.
Stage ownSound();
OtherSpeeds otherSpeeds(const Stage& ownSound);

/// A sound laid on the piece's time. In seconds.
struct LaidSound {
  std::string file;
  double at = 0;         ///< of the piece, where it begins
  double skipStart = 0;  ///< of the file, that is left out
  double length = 0;     ///< 0: to the end of the file
  bool loop = false;     ///< what is left of the file is heard again and again for that length; without one to the piece's end
  double fadeIn = 0, fadeOut = 0;
};
/// With everything as it is at first.
Stage layingSound(const std::string& file, double at);
LaidSound laidSound(const Stage& sound);
/// 0 only the clearest onsets of it … 1 all that could be one.
double onsetSensitivity(const Stage& laidSound);
Stage withLaidSound(Stage sound, const LaidSound& laid);

}  // namespace molten

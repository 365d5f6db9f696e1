#pragma once
// How loud a whole is, as broadcasting measures it.

#include <memory>
#include <optional>

#include "core/sound/sound.h"

namespace molten {

/// Of sound that is given to it piece by piece. EBU R 128, by libebur128.
class Loudness {
 public:
  Loudness();
  ~Loudness();
  Loudness(const Loudness&) = delete;
  Loudness& operator=(const Loudness&) = delete;
  void add(const Sound& sound);
  /// Of all of it, in LUFS; none: too short or too soft to be measured.
  std::optional<double> whole() const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace molten

#include "core/sound/loudness.h"

#include <ebur128.h>

#include <cmath>

namespace molten {

struct Loudness::State {
  ebur128_state* measuring = ebur128_init(soundChannels, soundRate, EBUR128_MODE_I);
  ~State() {
    if (measuring) ebur128_destroy(&measuring);
  }
};

Loudness::Loudness() : state_(std::make_unique<State>()) {}

Loudness::~Loudness() = default;

void Loudness::add(const Sound& sound) {
  if (state_->measuring) ebur128_add_frames_float(state_->measuring, sound.values().data(), sound.samples());
}

std::optional<double> Loudness::whole() const {
  double loudness = 0;
  if (!state_->measuring || ebur128_loudness_global(state_->measuring, &loudness) != EBUR128_SUCCESS || !std::isfinite(loudness)) return std::nullopt;
  return loudness;
}

}  // namespace molten

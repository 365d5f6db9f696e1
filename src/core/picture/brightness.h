#pragma once
// How bright a picture is.

#include <array>

#include "core/picture/picture.h"

namespace molten {

struct Brightness {
  static constexpr int steps = 64;
  /// Of all pixels, those whose luma as it is shown lies in each step from black (0) to white (1), those beyond in the
  /// first and the last one; the sum is 1.
  std::array<float, steps> shares{};
  /// Of all pixels: those in which a colour is at white or beyond, within half an 8-bit step, so that nothing is to be
  /// seen in it; and those that are all black.
  double burntOut = 0, black = 0;
  friend bool operator==(const Brightness&, const Brightness&) = default;
};

/// On the threads of the caller's ThreadLimit; the same on any number of them.
Brightness brightnessOf(const Picture& picture);

}  // namespace molten

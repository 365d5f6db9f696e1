#pragma once
// Footage of nothing, which needs no file: what titles and other sources are laid into.

#include <optional>
#include <string>
#include <string_view>

#include "core/picture/picture.h"
#include "core/time/rational.h"

namespace molten {

/// Clear pictures.
struct Blank {
  Size size{1920, 1080};
  Rational rate = 25;
  Rational seconds = 10;
  /// At least one.
  std::int64_t pictures() const;
  friend bool operator==(const Blank&, const Blank&) = default;
};

/// It stands where else a path does: `blank:1280x720@30:10s`.
inline constexpr std::string_view blankPrefix = "blank:";
inline bool namesBlank(std::string_view path) {
  return path.starts_with(blankPrefix);
}
/// Lengths in thousandths of a second, rounded up.
std::string blankPath(const Blank& blank);
/// With or without `blank:`. None if it is none, or larger or longer than is worked with: 16384 pixels a side, a day.
std::optional<Blank> parseBlank(std::string_view text);

/// Of blanks and of titles: R G B and alpha of 8 bits.
PictureShape drawnShape(Size size);

}  // namespace molten

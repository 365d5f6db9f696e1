#pragma once
// What a title says, and how it looks.

#include <array>
#include <string>

namespace molten {

/// Lengths are in pixels of the full size; colours R G B, 0…1 as they are shown.
struct TitleLook {
  enum class Align { Left, Middle, Right };
  std::string text;      ///< UTF-8; lines end with a line feed
  std::string typeface;  ///< a family's name; one that is not there is replaced by one that is near
  int weight = 700;      ///< 100 thin … 400 as books have it … 700 bold … 900 heavy
  double size = 80;      ///< of the letters
  double tracking = 0;   ///< more (or less) room between letters
  double lineDistance = 1.2;  ///< from line to line, in sizes
  Align align = Align::Middle;
  double width = 1280;   ///< where lines are broken, at the latest
  std::array<double, 3> colour{1, 1, 1};
  double outline = 0;    ///< its width
  std::array<double, 3> outlineColour{};
  double shade = 0;      ///< how dark the shade behind it is, 0…1
  double shadeAway = 0, shadeSoft = 0;  ///< how far it falls, down and to the right, and how soft it is

  friend bool operator==(const TitleLook&, const TitleLook&) = default;
};

}  // namespace molten

#pragma once
// Footage of high dynamic range (PQ, HLG) as an ordinary screen can show it. For looking alone: what is written keeps its values and tags.

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "core/picture/picture_format.h"
#include "core/picture/primaries.h"

namespace molten {

class ToneMapping {
 public:
  /// None for what is no footage of high dynamic range.
  static std::optional<ToneMapping> of(const ColourTags& colour);

  /// Pixels of 16-bit R G B A in the footage's signal, to 8-bit B G R A in 0xAARRGGBB words (sRGB, colour not yet multiplied by alpha).
  void map(std::span<const std::uint16_t> pixels, std::span<std::uint32_t> screen) const;

 private:
  explicit ToneMapping(const ColourTags& colour);
  std::vector<float> light_;  ///< of each signal, by its upper bits; of HLG the scene's
  bool ofScene_;              ///< HLG: what the screen gives depends on all three
  ColourMatrix matrix_;       ///< to BT.709
};

/// Light on a screen whose white is 1, of light of which 1 is diffuse white (203 cd/m², ITU-R BT.2408) and 1000 cd/m² are the most:
/// up to three quarters as it is, what is brighter drawn together (Reinhard and others, Photographic tone reproduction, 2002,
/// equation 4, above the knee).
float toneMapped(float light);

}  // namespace molten

#include "core/picture/tone_mapping.h"

#include <algorithm>
#include <cmath>

#include "core/parallel.h"

namespace molten {
namespace {

constexpr float diffuseWhite = 203, peak = 1000;  // cd/m²
constexpr std::size_t signals = 4096, shades = 16384;

/// SMPTE ST 2084: light in cd/m².
double pqLight(double signal) {
  constexpr double m1 = 2610.0 / 16384, m2 = 2523.0 / 4096 * 128, c1 = 3424.0 / 4096, c2 = 2413.0 / 4096 * 32, c3 = 2392.0 / 4096 * 32;
  const double p = std::pow(signal, 1 / m2);
  return 10'000 * std::pow(std::max(p - c1, 0.0) / (c2 - c3 * p), 1 / m1);
}

/// ITU-R BT.2100: of the scene, 0 … 1.
double hlgScene(double signal) {
  constexpr double a = 0.17883277, b = 0.28466892, c = 0.55991073;
  return signal <= 0.5 ? signal * signal / 3 : (std::exp((signal - c) / a) + b) / 12;
}

/// sRGB, as bytes.
const std::vector<std::uint8_t>& shadeOf() {
  static const std::vector<std::uint8_t> table = [] {
    std::vector<std::uint8_t> all(shades);
    for (std::size_t i = 0; i < shades; ++i) {
      const double l = static_cast<double>(i) / (shades - 1);
      const double s = l <= 0.0031308 ? 12.92 * l : 1.055 * std::pow(l, 1 / 2.4) - 0.055;
      all[i] = static_cast<std::uint8_t>(std::lround(s * 255));
    }
    return all;
  }();
  return table;
}

}  // namespace

float toneMapped(float light) {
  constexpr float knee = 0.75f, room = 1 - knee, most = (peak / diffuseWhite - knee) / room;
  if (light <= knee) return std::max(light, 0.0f);
  const float over = std::min((light - knee) / room, most);
  return knee + room * over * (1 + over / (most * most)) / (1 + over);
}

std::optional<ToneMapping> ToneMapping::of(const ColourTags& colour) {
  if (colour.transfer != AVCOL_TRC_SMPTE2084 && colour.transfer != AVCOL_TRC_ARIB_STD_B67) return std::nullopt;
  return ToneMapping(colour);
}

ToneMapping::ToneMapping(const ColourTags& colour) : light_(signals), ofScene_(colour.transfer == AVCOL_TRC_ARIB_STD_B67) {
  for (std::size_t i = 0; i < signals; ++i) {
    const double signal = static_cast<double>(i) / (signals - 1);
    light_[i] = static_cast<float>(ofScene_ ? hlgScene(signal) : pqLight(signal) / diffuseWhite);
  }
  const AVColorPrimaries from = colour.primaries == AVCOL_PRI_UNSPECIFIED ? AVCOL_PRI_BT2020 : colour.primaries;
  matrix_ = betweenPrimaries(from, AVCOL_PRI_BT709).value_or(ColourMatrix{{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}});
}

void ToneMapping::map(std::span<const std::uint16_t> pixels, std::span<std::uint32_t> screen) const {
  const auto& shade = shadeOf();
  const auto byteOf = [&](float light) {
    return static_cast<std::uint32_t>(shade[static_cast<std::size_t>(std::clamp(light, 0.0f, 1.0f) * (shades - 1) + 0.5f)]);
  };
  const auto one = [&](std::size_t i) {
    std::array<float, 3> in;
    for (std::size_t c = 0; c < 3; ++c) in[c] = light_[pixels[i * 4 + c] >> 4];
    if (ofScene_) {
      // The system's curve of a screen of 1000 cd/m².
      const float y = 0.2627f * in[0] + 0.6780f * in[1] + 0.0593f * in[2];
      const float gain = y > 0 ? std::pow(y, 0.2f) * peak / diffuseWhite : 0;
      for (float& c : in) c *= gain;
    }
    std::array<float, 3> out;
    for (std::size_t c = 0; c < 3; ++c) out[c] = std::max(0.0f, matrix_[c][0] * in[0] + matrix_[c][1] * in[1] + matrix_[c][2] * in[2]);
    // All three by the same, so that hues stay.
    const float most = std::max({out[0], out[1], out[2]}), gain = most > 0 ? toneMapped(most) / most : 0;
    screen[i] = static_cast<std::uint32_t>(pixels[i * 4 + 3] >> 8) << 24 | byteOf(out[0] * gain) << 16 | byteOf(out[1] * gain) << 8 | byteOf(out[2] * gain);
  };
  constexpr std::size_t block = 1 << 14;
  parallelRows(static_cast<int>((screen.size() + block - 1) / block), 1, [&](int from, int to) {
    const std::size_t end = std::min(static_cast<std::size_t>(to) * block, screen.size());
    for (std::size_t i = static_cast<std::size_t>(from) * block; i < end; ++i) one(i);
  });
}

}  // namespace molten

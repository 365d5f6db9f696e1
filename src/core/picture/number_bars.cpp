#include "core/picture/number_bars.h"

#include <algorithm>
#include <cstring>

namespace molten {
namespace {

constexpr std::uint8_t blackBar = 16, whiteBar = 235, trembling = 24;

std::optional<bool> bit(std::uint8_t sample) {
  if (sample <= blackBar + trembling) return false;
  if (sample >= whiteBar - trembling) return true;
  return std::nullopt;
}

/// value(x, y) of bar k's middle, put together.
template <class SampleOf>
std::optional<std::uint32_t> read(SampleOf sampleOf) {
  std::uint32_t number = 0;
  for (int k = 0; k < numberBits; ++k) {
    const auto set = bit(sampleOf(k));
    if (!set) return std::nullopt;
    if (*set) number |= 1u << k;
  }
  return number;
}

}  // namespace

int numberBarWidth(Size size) {
  return std::max(2, std::min(size.width, size.height) / 5 / numberBits / 2 * 2);
}

void drawNumber(Picture& picture, std::uint32_t number) {
  const Size size = picture.shape().size;
  const int bar = numberBarWidth(size), broad = bar * numberBits;
  const auto fill = [&](int plane, int x0, int x1, int y, std::uint8_t value) {
    x1 = std::min(x1, picture.planeWidth(plane));
    if (x0 < x1 && y >= 0 && y < picture.planeHeight(plane)) std::memset(picture.writableRow(plane, y) + x0, value, static_cast<std::size_t>(x1 - x0));
  };
  const auto sampleOf = [&](int k) { return (number >> k & 1) ? whiteBar : blackBar; };
  for (int y = 0; y < size.height - broad; ++y)
    for (int k = 0; k < numberBits; ++k) fill(0, k * bar, (k + 1) * bar, y, sampleOf(k));
  for (int k = 0; k < numberBits; ++k)
    for (int i = 0; i < bar; ++i) fill(0, 0, size.width, size.height - 1 - k * bar - i, sampleOf(k));
  const int sx = picture.format().shiftX, sy = picture.format().shiftY;
  for (int p = 1; p < picture.format().colourPlanes(); ++p)
    for (int y = 0; y < picture.planeHeight(p); ++y) fill(p, 0, y >= (size.height - broad) >> sy ? picture.planeWidth(p) : broad >> sx, y, 128);
}

std::optional<std::uint32_t> numberInColumn(const Picture& picture, int x) {
  const Size size = picture.shape().size;
  const int bar = numberBarWidth(size);
  return read([&](int k) { return picture.row(0, size.height - 1 - k * bar - bar / 2)[x]; });
}

std::optional<std::uint32_t> numberInRow(const Picture& picture, int y) {
  const int bar = numberBarWidth(picture.shape().size);
  return read([&](int k) { return picture.row(0, y)[k * bar + bar / 2]; });
}

}  // namespace molten

// A Pace's spans: whatever is read is written, and read again as the same; its curve lies within its own bounds.
#include "core/time/pace_curve.h"
#include "core/time/pace_text.h"
#include "fuzz/text.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  using namespace molten;
  const auto spans = parsePaceSpans(fuzz::textOf(bytes, count), 25);
  if (!spans) return 0;
  const auto again = parsePaceSpans(paceSpansText(*spans), 25);
  fuzz::require(again && *again == *spans);
  if (spans->empty()) return 0;
  const PaceCurve curve(0, *spans);
  const double length = curve.length().toDouble();
  const auto [low, high] = curve.range(0, length);
  for (int i = 0; i <= 8; ++i) {
    const double at = curve.atSeconds(length * i / 8), slack = 1e-6 * (1 + (high - low));
    fuzz::require(at >= low - slack && at <= high + slack);
  }
  return 0;
}

#pragma once
// A written list of frames with holds: `1:4+3:2+4+2-6:2`.

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/result.h"
#include "core/time/rational.h"

namespace molten {

/// A frame, or a run of frames up or down, each shown `hold` times.
struct OrderItem {
  std::int32_t first = 0, last = 0;  ///< counted from 0; last may be the lower one
  std::int32_t hold = 1;             ///< pictures, at least 1

  std::int64_t frames() const { return (last < first ? first - last : last - first) + std::int64_t(1); }
  std::int64_t pictures() const { return frames() * hold; }
  friend bool operator==(const OrderItem&, const OrderItem&) = default;
};
/// Where a list is empty, the source is taken as it runs.
using FrameOrder = std::vector<OrderItem>;

/// Pictures that a list gives altogether.
std::int64_t picturesOf(const FrameOrder& order);

/// Items joined by `+`: a frame or first-last, then `:` and the hold, in pictures or as a time of `rate` pictures a
/// second (`3:0.2s`), a picture at least. `whole` is the source as it runs. Fails with a sentence that says what is
/// wanted.
Result<FrameOrder> parseFrameOrder(std::string_view text, Rational rate = 25);
/// A hold as it is typed: `6`, `6f`, `0.2s`, `1/12s`; none if it is no such thing.
std::optional<std::int32_t> parseHold(std::string_view text, Rational rate);
std::string frameOrderText(const FrameOrder& order);

}  // namespace molten

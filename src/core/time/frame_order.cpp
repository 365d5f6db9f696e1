#include "core/time/frame_order.h"

#include <algorithm>

#include "core/number_text.h"
#include "core/time/pace_text.h"

namespace molten {
namespace {

constexpr std::int32_t mostFrames = 1 << 30;
constexpr std::int64_t mostPictures = 1 << 30;
constexpr std::size_t mostItems = 100'000;

std::optional<std::int32_t> number(std::string_view text) {
  const auto value = readWhole(text);
  if (!value || *value < 0 || *value > mostFrames) return std::nullopt;
  return static_cast<std::int32_t>(*value);
}

std::optional<OrderItem> parseItem(std::string_view text, Rational rate) {
  const auto colon = text.find(':');
  const std::string_view frames = text.substr(0, colon);
  const auto dash = frames.find('-');
  const auto first = number(frames.substr(0, dash));
  const auto last = dash == std::string_view::npos ? first : number(frames.substr(dash + 1));
  const auto hold = colon == std::string_view::npos ? std::optional(1) : parseHold(text.substr(colon + 1), rate);
  if (!first || !last || !hold || *hold < 1) return std::nullopt;
  return OrderItem{*first, *last, *hold};
}

}  // namespace

std::optional<std::int32_t> parseHold(std::string_view text, Rational rate) {
  if (const auto pictures = number(text)) return pictures;
  const auto seconds = parseSeconds(text, rate);
  if (!seconds || *seconds <= Rational(0) || *seconds > Rational(longestPace)) return std::nullopt;
  return static_cast<std::int32_t>(std::clamp<std::int64_t>((*seconds * rate + Rational(1, 2)).floor(), 1, mostFrames));
}

std::int64_t picturesOf(const FrameOrder& order) {
  std::int64_t pictures = 0;
  for (const OrderItem& item : order) pictures += item.pictures();
  return pictures;
}

Result<FrameOrder> parseFrameOrder(std::string_view text, Rational rate) {
  FrameOrder order;
  if (text.empty() || text == "whole") return order;
  std::int64_t total = 0;
  while (true) {
    const auto plus = std::min(text.find('+'), text.size());
    const auto item = parseItem(text.substr(0, plus), rate);
    if (!item)
      return Error{"A frame order is written like 1:4+3:2+4+2-6:2: frames counted from 0, : their hold in pictures, or as a time like 0.2s; \"" +
                   std::string(text.substr(0, plus)) + "\" is none."};
    order.push_back(*item);
    total += item->pictures();
    if (total > mostPictures || order.size() > mostItems)
      return Error{"This frame order is longer than any clip can be; shorten it."};
    if (plus == text.size()) break;
    text.remove_prefix(plus + 1);
  }
  return order;
}

std::string frameOrderText(const FrameOrder& order) {
  if (order.empty()) return "whole";
  std::string text;
  for (const OrderItem& item : order) {
    if (!text.empty()) text += '+';
    text += std::to_string(item.first);
    if (item.last != item.first) text += "-" + std::to_string(item.last);
    if (item.hold != 1) text += ":" + std::to_string(item.hold);
  }
  return text;
}

}  // namespace molten

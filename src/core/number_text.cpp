#include "core/number_text.h"

#include <charconv>
#include <cmath>
#include <system_error>

namespace molten {
namespace {

/// A double has at most 309 digits before its point, and a sign; those after it are added.
constexpr int mostDigits = 320;

template <class... How>
std::string written(double value, int room, How... how) {
  std::string text(static_cast<std::size_t>(room), '\0');
  text.resize(static_cast<std::size_t>(std::to_chars(text.data(), text.data() + text.size(), value, how...).ptr - text.data()));
  return text;
}

template <class Number>
std::optional<Number> read(std::string_view text) {
  Number value = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  return error == std::errc() && end == text.data() + text.size() ? std::optional(value) : std::nullopt;
}

}  // namespace

std::string fixedText(double value, int decimals) {
  return written(value, mostDigits + decimals, std::chars_format::fixed, decimals);
}

std::string shortText(double value, int digits) {
  return written(value, digits + 16, std::chars_format::general, digits);
}

std::string exactText(double value) {
  return written(value, 32);
}

std::string paddedText(std::int64_t value, int digits) {
  std::string text = std::to_string(value);
  const std::size_t wanted = static_cast<std::size_t>(digits), sign = value < 0 ? 1 : 0;
  if (text.size() < wanted + sign) text.insert(sign, wanted + sign - text.size(), '0');
  return text;
}

std::string hexText(std::uint64_t value) {
  constexpr std::size_t digits = 16;
  std::string text(digits, '0');
  for (std::size_t i = digits; i > 0; value >>= 4) text[--i] = "0123456789abcdef"[value & 15];
  return text;
}

std::optional<double> readNumber(std::string_view text) {
  if (text.starts_with('+')) text.remove_prefix(1);
  std::string withPoint;
  if (const auto comma = text.find(','); comma != text.npos && text.find('.') == text.npos) {
    withPoint = text;
    withPoint[comma] = '.';
    text = withPoint;
  }
  const auto value = read<double>(text);
  return value && std::isfinite(*value) ? value : std::nullopt;
}

std::optional<std::int64_t> readWhole(std::string_view text) {
  return read<std::int64_t>(text);
}

}  // namespace molten

#include "core/time/rational.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <utility>

#include "core/number_text.h"

namespace molten {
namespace {

__extension__ using Wide = __int128;

Rational reduced(Wide num, Wide den) {
  if (den < 0) num = -num, den = -den;
  Wide a = num < 0 ? -num : num, b = den;
  while (b != 0) {
    const Wide rest = a % b;
    a = b;
    b = rest;
  }
  if (a > 1) num /= a, den /= a;
  constexpr Wide most = std::numeric_limits<std::int64_t>::max();
  while (num > most || num < -most || den > most) num /= 2, den /= 2;
  return {static_cast<std::int64_t>(num), den == 0 ? 1 : static_cast<std::int64_t>(den)};
}

/// Decimal digits with at most one point or comma, exactly.
std::optional<Rational> parseDecimal(std::string_view text) {
  const auto point = text.find_first_of(".,");
  if (point == std::string_view::npos) {
    const auto whole = readWhole(text);
    return whole ? std::optional<Rational>(*whole) : std::nullopt;
  }
  const auto decimals = text.substr(point + 1);
  if (decimals.empty() || decimals.size() > 9 || point > 9) return std::nullopt;
  const auto digits = readWhole(std::string(text.substr(0, point)) + std::string(decimals));
  if (!digits) return std::nullopt;
  std::int64_t scale = 1;
  for (std::size_t i = 0; i < decimals.size(); ++i) scale *= 10;
  return Rational(*digits, scale);
}

}  // namespace

Rational::Rational(std::int64_t num, std::int64_t den) {
  const std::int64_t common = std::gcd(num, den) * (den < 0 ? -1 : 1);
  num_ = num / common;
  den_ = den / common;
}

Rational Rational::near(double value) {
  const double wanted = std::abs(value), tolerance = 1e-10 * std::max(1.0, wanted);
  // Convergents of the continued fraction.
  std::int64_t num = 1, den = 0, lastNum = 0, lastDen = 1;
  double rest = wanted;
  for (int i = 0; i < 24; ++i) {
    const double whole = std::floor(rest);
    const double nextNum = whole * static_cast<double>(num) + static_cast<double>(lastNum),
                 nextDen = whole * static_cast<double>(den) + static_cast<double>(lastDen);
    if (nextNum > 9e15 || nextDen > 9e15) break;
    lastNum = std::exchange(num, static_cast<std::int64_t>(nextNum));
    lastDen = std::exchange(den, static_cast<std::int64_t>(nextDen));
    if (std::abs(static_cast<double>(num) / static_cast<double>(den) - wanted) <= tolerance) break;
    if (rest == whole) break;
    rest = 1 / (rest - whole);
  }
  return {value < 0 ? -num : num, den};
}

std::int64_t Rational::floor() const {
  const std::int64_t quotient = num_ / den_;
  return num_ % den_ < 0 ? quotient - 1 : quotient;
}

Rational Rational::part() const {
  return *this - Rational(floor());
}

Rational operator+(Rational a, Rational b) {
  return reduced(Wide(a.num_) * b.den_ + Wide(b.num_) * a.den_, Wide(a.den_) * b.den_);
}
Rational operator-(Rational a, Rational b) {
  return a + Rational(-b.num_, b.den_);
}
Rational operator*(Rational a, Rational b) {
  return reduced(Wide(a.num_) * b.num_, Wide(a.den_) * b.den_);
}
Rational operator/(Rational a, Rational b) {
  return reduced(Wide(a.num_) * b.den_, Wide(a.den_) * b.num_);
}

std::strong_ordering operator<=>(Rational a, Rational b) {
  return Wide(a.num_) * b.den_ <=> Wide(b.num_) * a.den_;
}

std::optional<Rational> parseRational(std::string_view text) {
  const bool minus = text.starts_with('-');
  if (minus || text.starts_with('+')) text.remove_prefix(1);
  if (text.empty() || text[0] < '.' || text[0] > '9') return std::nullopt;
  std::optional<Rational> value;
  if (const auto slash = text.find('/'); slash != std::string_view::npos) {
    const auto num = parseDecimal(text.substr(0, slash)), den = parseDecimal(text.substr(slash + 1));
    if (num && den && *den > Rational(0)) value = *num / *den;
  } else if (text.starts_with('.')) {
    value = parseDecimal("0" + std::string(text));
  } else {
    value = parseDecimal(text);
  }
  return value && minus ? Rational(0) - *value : value;
}

std::string rationalText(Rational value) {
  std::int64_t rest = value.den();
  int twos = 0, fives = 0;
  for (; rest % 2 == 0; rest /= 2) ++twos;
  for (; rest % 5 == 0; rest /= 5) ++fives;
  const int decimals = std::max(twos, fives);
  if (rest != 1 || decimals > 9) return std::to_string(value.num()) + "/" + std::to_string(value.den());
  std::int64_t scale = 1;
  for (int i = 0; i < decimals; ++i) scale *= 10;
  const Rational scaled = value * Rational(scale);
  const std::int64_t digits = scaled.num() < 0 ? -scaled.num() : scaled.num();
  std::string text = (scaled.num() < 0 ? "-" : "") + std::to_string(digits / scale);
  if (decimals > 0) {
    const std::string fraction = std::to_string(digits % scale);
    text += "." + std::string(static_cast<std::size_t>(decimals) - fraction.size(), '0') + fraction;
  }
  return text;
}

std::optional<Rational> parseRate(std::string_view text) {
  std::optional<Rational> rate;
  if (const auto slash = text.find('/'); slash != std::string_view::npos) {
    const auto num = readWhole(text.substr(0, slash)), den = readWhole(text.substr(slash + 1));
    if (num && den && *den > 0) rate = Rational(*num, *den);
  } else {
    rate = parseDecimal(text);
    // What these mean is no decimal number.
    std::string digits(text);
    std::replace(digits.begin(), digits.end(), ',', '.');
    if (digits == "23.976" || digits == "23.98") rate = Rational(24000, 1001);
    if (digits == "29.97") rate = Rational(30000, 1001);
    if (digits == "59.94") rate = Rational(60000, 1001);
    if (digits == "119.88") rate = Rational(120000, 1001);
  }
  if (!rate || *rate <= Rational(0) || *rate > Rational(1000)) return std::nullopt;
  return rate;
}

std::string rateText(Rational rate) {
  std::string out = fixedText(rate.toDouble(), 3);
  while (out.back() == '0') out.pop_back();
  if (out.back() == '.') out.pop_back();
  return out;
}

Rational usualRate(Rational measured) {
  static const Rational usual[] = {
      {24000, 1001}, 24, 25, {30000, 1001}, 30, 48, 50, {60000, 1001}, 60, 12, 15, 100, 120, {120000, 1001}, 240};
  for (const Rational rate : usual)
    if (std::abs(measured.toDouble() / rate.toDouble() - 1) < 1e-4) return rate;
  return measured;
}

}  // namespace molten

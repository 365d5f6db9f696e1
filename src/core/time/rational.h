#pragma once
// Exact times and rates.

#include <compare>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace molten {

/// A fraction in lowest terms with a positive denominator. Times are in seconds, rates in frames a second.
/// Arithmetic is exact as long as the reduced result fits 64 bits a part, which every rate and every time
/// of footage does by a wide margin; a result that does not is rounded to the nearest fraction that fits.
class Rational {
 public:
  constexpr Rational() = default;
  constexpr Rational(std::int64_t whole) : num_(whole) {}
  /// Requires den != 0.
  Rational(std::int64_t num, std::int64_t den);
  /// The simplest fraction within 1e-10 of a number (relative to it, if it is above 1): what a typed decimal or a
  /// fraction that went through floating point stood for. Requires |value| < 2^31.
  static Rational near(double value);

  std::int64_t num() const { return num_; }
  std::int64_t den() const { return den_; }
  double toDouble() const { return static_cast<double>(num_) / static_cast<double>(den_); }
  /// The greatest integer that is not above.
  std::int64_t floor() const;
  /// What floor() leaves, 0 <= part < 1.
  Rational part() const;

  friend Rational operator+(Rational a, Rational b);
  friend Rational operator-(Rational a, Rational b);
  friend Rational operator*(Rational a, Rational b);
  /// Requires b != 0.
  friend Rational operator/(Rational a, Rational b);
  friend bool operator==(Rational a, Rational b) = default;
  friend std::strong_ordering operator<=>(Rational a, Rational b);

 private:
  std::int64_t num_ = 0;
  std::int64_t den_ = 1;
};

/// A decimal of at most nine digits after the point, or a fraction, with or without a sign; exactly.
std::optional<Rational> parseRational(std::string_view text);
/// `1.5`, `-0.35`, or where decimals do not end within nine digits `1/3`; parseRational reads the same back.
std::string rationalText(Rational value);

/// Reads `25`, `30000/1001`, `12.5`, and the trade's short forms `23.976`, `29.97`, `59.94`, `119.88`, which
/// mean n·1000/1001. Nothing if the text is no positive rate of at most 1000 frames a second.
std::optional<Rational> parseRate(std::string_view text);

/// `24`, `29.97`, `26.777`: as a person says it.
std::string rateText(Rational rate);

/// The picture rate that a measured average most likely stands for: the nearest of the usual rates if one is
/// within a hundredth of a percent, the measured one otherwise.
Rational usualRate(Rational measured);

inline Rational absolute(Rational value) {
  return value < Rational(0) ? Rational(0) - value : value;
}

}  // namespace molten

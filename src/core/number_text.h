#pragma once
// Numbers as text and back, always with a decimal point, whatever language the system is set to. All text that holds numbers
// (files, lists, commands, ids, messages) is made and read by these functions.

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace molten {

/// So many digits after the point: `1.50`.
std::string fixedText(double value, int decimals);
/// At most so many significant digits, and no noughts at the end: `1.5`, `1e+06`, as printf's %g writes them.
std::string shortText(double value, int digits);
/// The fewest digits that are read back to the same number.
std::string exactText(double value);
/// A whole number of at least so many digits, with noughts before it: `007`.
std::string paddedText(std::int64_t value, int digits);
/// Sixteen hexadecimal digits.
std::string hexText(std::uint64_t value);

/// The whole text as a finite number: `1.5`, `-2`, `1e-3`; a comma stands for the point where there is none: `1,5`.
std::optional<double> readNumber(std::string_view text);
/// The whole text as a whole number that fits.
std::optional<std::int64_t> readWhole(std::string_view text);

}  // namespace molten

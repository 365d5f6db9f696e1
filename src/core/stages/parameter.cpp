#include "core/stages/parameter.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdio>
#include <limits>
#include <optional>

#include "core/files/path_text.h"
#include "core/near_word.h"
#include "core/number_text.h"
#include "core/time/pace_text.h"

namespace molten {
namespace {

template <class... Visitors>
struct Overloaded : Visitors... {
  using Visitors::operator()...;
};
template <class... Visitors>
Overloaded(Visitors...) -> Overloaded<Visitors...>;

/// A comma between digits where there is no point is one: `1,5`.
std::string withPoints(std::string text) {
  if (text.find('.') == std::string::npos) std::replace(text.begin(), text.end(), ',', '.');
  return text;
}

/// Words, or a path, as they stand among others: what would end them is marked by a backslash.
std::string writtenAs(std::string_view words) {
  std::string text;
  for (const char c : words) {
    if (c == '\\' || c == ',') text += '\\';
    text += c == '\n' ? std::string("\\n") : std::string(1, c);
  }
  return text;
}
std::string meantBy(std::string_view text) {
  std::string words;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const bool marked = text[i] == '\\' && i + 1 < text.size();
    if (marked) ++i;
    words += marked && text[i] == 'n' ? '\n' : text[i];
  }
  return words;
}

std::string lower(std::string_view text) {
  std::string out(text);
  for (char& c : out) c = c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
  return out;
}

/// Without blanks, and with the typographic minus as the plain one.
std::string plain(std::string_view text) {
  std::string out;
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text.substr(i).starts_with("−")) {
      out += '-';
      i += std::string_view("−").size() - 1;
    } else if (text[i] != ' ') {
      out += text[i];
    }
  }
  return out;
}

bool takeEnding(std::string_view& text, std::string_view ending) {
  if (!text.ends_with(ending)) return false;
  text.remove_suffix(ending.size());
  return true;
}

/// The number times ten to the power of `shift`, as near as a double comes: its digits are shifted, not the double.
std::optional<double> parseShifted(std::string_view text, int shift) {
  if (shift == 0) return readNumber(text);
  const auto e = text.find_first_of("eE");
  if (e != std::string_view::npos) {
    int exponent = 0;
    std::string_view digits = text.substr(e + 1);
    if (digits.starts_with('+')) digits.remove_prefix(1);
    const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), exponent);
    if (error != std::errc() || end != digits.data() + digits.size() || std::abs(exponent) > 1000) return std::nullopt;
    shift += exponent;
  }
  return readNumber(std::string(text.substr(0, e)) + "e" + std::to_string(shift));
}

std::optional<double> parseNumber(std::string_view text, Unit unit, Rational rate) {
  double scale = 1;
  int shift = 0;
  if (unit == Unit::PerSecond) {
    takeEnding(text, "fps") || takeEnding(text, "/s");
    const auto perSecond = parseRate(text);
    return perSecond ? std::optional(perSecond->toDouble()) : std::nullopt;
  }
  if (unit == Unit::Percent) {
    takeEnding(text, "%");
    shift = -2;
  } else if (unit == Unit::Degrees) {
    takeEnding(text, "°");
    takeEnding(text, "deg");
  } else if (unit == Unit::Times) {
    takeEnding(text, "a second") || takeEnding(text, "/s");
  } else if (unit == Unit::Stops) {
    takeEnding(text, "stops") || takeEnding(text, "stop");
  } else if (unit == Unit::Decibels) {
    takeEnding(text, "db");
  } else if (unit == Unit::Hertz) {
    if (takeEnding(text, "khz"))
      shift = 3;
    else
      takeEnding(text, "hz");
  } else if (unit == Unit::Pixels) {
    takeEnding(text, "px");
  } else if (unit == Unit::Frames) {
    if (takeEnding(text, "ms"))
      scale = rate.toDouble(), shift = -3;
    else if (takeEnding(text, "s"))
      scale = rate.toDouble();
    else
      takeEnding(text, "f");
  } else if (unit == Unit::Seconds) {
    if (takeEnding(text, "ms"))
      shift = -3;
    else if (takeEnding(text, "f"))
      scale = 1 / rate.toDouble();
    else
      takeEnding(text, "s");
  }
  if (const auto slash = text.find('/'); slash != std::string_view::npos) {
    const auto num = parseShifted(text.substr(0, slash), shift), den = readNumber(text.substr(slash + 1));
    if (!num || !den || *den == 0) return std::nullopt;
    return *num / *den * scale;
  }
  const auto number = parseShifted(text, shift);
  return number ? std::optional(*number * scale) : std::nullopt;
}

std::string fixed(double value, int decimals) {
  // No minus before a number that shows as nothing.
  std::string out = fixedText(value, decimals);
  if (out.find_first_not_of("-0.") == std::string::npos && out[0] == '-') out.erase(0, 1);
  if (out[0] == '-') out.replace(0, 1, "−");
  return out;
}

/// The ending that a value's text has, so that it is read back alike whatever the rate.
const char* textEnding(Unit unit) {
  switch (unit) {
    case Unit::Seconds:
      return "s";
    case Unit::Frames:
      return "f";
    case Unit::Pixels:
      return "px";
    case Unit::Percent:
      return "%";
    case Unit::Degrees:
      return "deg";
    default:
      return "";
  }
}

std::string colourDigits(const Colour& colour) {
  char text[8];
  std::snprintf(text, sizeof text, "%02x%02x%02x", colour.red, colour.green, colour.blue);
  return text;
}

/// A fraction as percent, in the fewest digits that are read back to it: those of the fraction, the point moved.
std::string percentDigits(double value) {
  if (value == 0) return "0";
  char written[40];
  const auto end = std::to_chars(written, written + sizeof written, std::abs(value), std::chars_format::scientific).ptr;
  const std::string_view all(written, static_cast<std::size_t>(end - written));
  const auto e = all.find('e');
  std::string digits(all.substr(0, e));
  std::erase(digits, '.');
  int exponent = 0;
  const auto* const first = all.data() + e + (all[e + 1] == '+' ? 2 : 1);
  std::from_chars(first, end, exponent);
  // Digits before the point.
  const int whole = exponent + 3;
  constexpr int most = 20;
  if (whole > most || whole < -most)
    return (value < 0 ? "-" : "") + std::string(all.substr(0, e)) + "e" + std::to_string(exponent + 2);
  if (whole <= 0) digits.insert(0, static_cast<std::size_t>(1 - whole), '0');
  const auto point = static_cast<std::size_t>(std::max(1, whole));
  if (digits.size() < point) digits.append(point - digits.size(), '0');
  if (digits.size() > point) digits.insert(point, 1, '.');
  return (value < 0 ? "-" : "") + digits;
}

}  // namespace

const char* unitText(Unit unit) {
  switch (unit) {
    case Unit::Seconds:
      return " s";
    case Unit::PerSecond:
      return " fps";
    case Unit::Times:
      return " a second";
    case Unit::Frames:
      return " f";
    case Unit::Pixels:
      return " px";
    case Unit::Percent:
      return " %";
    case Unit::Degrees:
      return "°";
    case Unit::Stops:
      return " stops";
    case Unit::Decibels:
      return " dB";
    case Unit::Hertz:
      return " Hz";
    case Unit::None:
      break;
  }
  return "";
}

ParameterValue initialValue(const ParameterDescription& parameter) {
  return std::visit(Overloaded{[](const NumberDescription& n) -> ParameterValue { return n.initial; },
                               [](const PlaceDescription& p) -> ParameterValue { return p.initial; },
                               [](const ToggleDescription& t) -> ParameterValue { return t.initial; },
                               [](const ChoicesDescription& c) -> ParameterValue { return c.initial; },
                               [](const SpansDescription&) -> ParameterValue { return PaceSpans{}; },
                               [](const OrderDescription&) -> ParameterValue { return FrameOrder{}; },
                               [](const CurveDescription&) -> ParameterValue { return straightCurve; },
                               [](const FileDescription&) -> ParameterValue { return std::string(); },
                               [](const TextDescription& t) -> ParameterValue { return t.initial; },
                               [](const PaintingDescription&) -> ParameterValue { return Painting{}; },
                               [](const ColourDescription& c) -> ParameterValue { return c.initial; }},
                    parameter.kind);
}

ParameterValue withinRange(const ParameterDescription& parameter, const ParameterValue& value) {
  if (const auto* number = std::get_if<NumberDescription>(&parameter.kind)) {
    const double within = std::clamp(std::get<double>(value), number->least, number->most);
    return number->whole ? std::round(within) : within;
  }
  if (std::holds_alternative<PlaceDescription>(parameter.kind)) {
    // Handles may stand outside the picture, not out of reach.
    const Place place = std::get<Place>(value);
    return Place{std::clamp(place.x, -2.0, 3.0), std::clamp(place.y, -2.0, 3.0)};
  }
  return value;
}

Result<ParameterValue> parseValue(const ParameterDescription& parameter, std::string_view written, Rational rate) {
  const std::string text = plain(written);
  const auto wrong = [&](const std::string& wanted) {
    return Error{parameter.label + " takes " + wanted + ", not \"" + std::string(written) + "\"."};
  };
  return std::visit(
      Overloaded{[&](const NumberDescription& n) -> Result<ParameterValue> {
                   auto value = parseNumber(lower(withPoints(text)), n.unit, rate);
                   if (!value && n.none && lower(text) == n.none) value = 0;
                   const std::string unit = unitText(n.unit);
                   const double times = n.unit == Unit::Percent ? 100 : 1;
                   constexpr int digits = 6;
                   const std::string range = shortText(n.least * times, digits) + " to " + shortText(n.most * times, digits) + unit;
                   if (!value)
                     return wrong(n.unit == Unit::Seconds     ? "a time like 1.5s, 36f or 1/12s"
                                  : n.unit == Unit::PerSecond ? "a rate like 8, 12.5 or 24000/1001"
                                                              : "a number, " + range);
                   if (*value < n.least || *value > n.most) return wrong(range);
                   if (n.whole && *value != std::floor(*value)) return wrong("a whole number, " + range);
                   return ParameterValue(*value);
                 },
                 [&](const PlaceDescription&) -> Result<ParameterValue> {
                   std::string pair = withPoints(text);
                   if (const auto times = pair.find("×"); times != std::string::npos)
                     pair.replace(times, std::string_view("×").size(), "x");
                   const auto cross = pair.find('x');
                   const auto x = readNumber(std::string_view(pair).substr(0, cross));
                   const auto y = cross == std::string::npos ? std::nullopt
                                                             : readNumber(std::string_view(pair).substr(cross + 1));
                   if (!x || !y) return wrong("a place as fractions of the picture, across x down, like 0.5x1");
                   if (*x < -2 || *x > 3 || *y < -2 || *y > 3) return wrong("a place from -2 to 3 each way");
                   return ParameterValue(Place{*x, *y});
                 },
                 [&](const ToggleDescription&) -> Result<ParameterValue> {
                   const std::string word = lower(text);
                   if (word == "on" || word == "true" || word == "1" || word == "yes") return ParameterValue(true);
                   if (word == "off" || word == "false" || word == "0" || word == "no") return ParameterValue(false);
                   return wrong("on or off");
                 },
                 [&](const ChoicesDescription& c) -> Result<ParameterValue> {
                   std::string all;
                   std::vector<std::string> ids;
                   for (std::size_t i = 0; i < c.choices.size(); ++i) {
                     if (lower(text) == c.choices[i].id || lower(text) == lower(plain(c.choices[i].label)))
                       return ParameterValue(i);
                     all += (i == 0 ? "" : i + 1 == c.choices.size() ? " or " : ", ") + c.choices[i].id;
                     ids.push_back(c.choices[i].id);
                   }
                   return Error{wrong(all).message + didYouMean(text, ids)};
                 },
                 [&](const SpansDescription&) -> Result<ParameterValue> {
                   auto spans = parsePaceSpans(withPoints(text), rate);
                   return spans ? Result<ParameterValue>(std::move(*spans)) : spans.error();
                 },
                 [&](const OrderDescription&) -> Result<ParameterValue> {
                   auto order = parseFrameOrder(withPoints(text), rate);
                   return order ? Result<ParameterValue>(std::move(*order)) : order.error();
                 },
                 [&](const CurveDescription&) -> Result<ParameterValue> {
                   if (auto points = parseCurve(text)) return ParameterValue(std::move(*points));
                   return wrong("points of a curve from 0 to 1 in rising order, like 0x0+0.3x0.7+1x1, or straight");
                 },
                 [&](const FileDescription&) -> Result<ParameterValue> { return ParameterValue(meantBy(written)); },
                 [&](const TextDescription&) -> Result<ParameterValue> {
                   if (!isUtf8(written)) return Error{parameter.label + " takes words in UTF-8, and these are not."};
                   return ParameterValue(meantBy(written));
                 },
                 [&](const PaintingDescription&) -> Result<ParameterValue> {
                   return ParameterValue(Painting{meantBy(written), nullptr});
                 },
                 [&](const ColourDescription&) -> Result<ParameterValue> {
                   const std::string digits = lower(text.starts_with("#") ? text.substr(1) : text);
                   std::uint32_t all = 0;
                   const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), all, 16);
                   if (digits.size() != 6 || error != std::errc() || end != digits.data() + digits.size())
                     return wrong("a colour of six digits 0-9 and a-f, red, green and blue, like ffd24a");
                   return ParameterValue(Colour{static_cast<std::uint8_t>(all >> 16),
                                                static_cast<std::uint8_t>(all >> 8 & 255),
                                                static_cast<std::uint8_t>(all & 255)});
                 }},
      parameter.kind);
}

Result<TypedValue> typedValue(const ParameterDescription& parameter, std::string_view text, Rational rate) {
  ParameterDescription wide = parameter;
  auto* const number = std::get_if<NumberDescription>(&wide.kind);
  if (number) number->least = -std::numeric_limits<double>::max(), number->most = std::numeric_limits<double>::max();
  if (number) number->whole = false;
  const auto read = parseValue(wide, text, rate);
  if (!read) {
    // In words of the parameter's own range.
    const auto refused = parseValue(parameter, text, rate);
    return refused ? read.error() : refused.error();
  }
  TypedValue typed{withinRange(parameter, *read), {}};
  if (number && typed.value != *read)
    typed.said = parameter.label + " goes from " + valueLabel(parameter, std::get<NumberDescription>(parameter.kind).least) +
                 " to " + valueLabel(parameter, std::get<NumberDescription>(parameter.kind).most) + ": it is " +
                 valueLabel(parameter, typed.value) + " now.";
  return typed;
}

std::string valueText(const ParameterDescription& parameter, const ParameterValue& value) {
  return std::visit(
      Overloaded{[&](const NumberDescription& n) {
                   const double number = std::get<double>(value);
                   if (n.unit == Unit::PerSecond) return rationalText(Rational::near(number));
                   return (n.unit == Unit::Percent ? percentDigits(number) : exactText(number)) + textEnding(n.unit);
                 },
                 [&](const PlaceDescription&) {
                   const Place place = std::get<Place>(value);
                   return exactText(place.x) + "x" + exactText(place.y);
                 },
                 [&](const ToggleDescription&) { return std::string(std::get<bool>(value) ? "on" : "off"); },
                 [&](const ChoicesDescription& c) { return c.choices[std::get<std::size_t>(value)].id; },
                 [&](const SpansDescription&) { return paceSpansText(std::get<PaceSpans>(value)); },
                 [&](const OrderDescription&) { return frameOrderText(std::get<FrameOrder>(value)); },
                 [&](const CurveDescription&) { return curveText(std::get<CurvePoints>(value)); },
                 [&](const FileDescription&) { return writtenAs(std::get<std::string>(value)); },
                 [&](const TextDescription&) { return writtenAs(std::get<std::string>(value)); },
                 [&](const PaintingDescription&) { return writtenAs(std::get<Painting>(value).file); },
                 [&](const ColourDescription&) { return colourDigits(std::get<Colour>(value)); }},
      parameter.kind);
}

std::string valueLabel(const ParameterDescription& parameter, const ParameterValue& value) {
  return std::visit(
      Overloaded{[&](const NumberDescription& n) {
                   const double number = std::get<double>(value);
                   if (n.none && number == 0) return std::string(n.none);
                   return fixed(n.unit == Unit::Percent ? number * 100 : number, n.decimals) + unitText(n.unit);
                 },
                 [&](const PlaceDescription&) {
                   const Place place = std::get<Place>(value);
                   return fixed(place.x, 3) + " × " + fixed(place.y, 3);
                 },
                 [&](const ToggleDescription&) { return std::string(std::get<bool>(value) ? "on" : "off"); },
                 [&](const ChoicesDescription& c) { return c.choices[std::get<std::size_t>(value)].label; },
                 [&](const SpansDescription&) { return paceSpansText(std::get<PaceSpans>(value)); },
                 [&](const OrderDescription&) { return frameOrderText(std::get<FrameOrder>(value)); },
                 [&](const CurveDescription&) { return curveText(std::get<CurvePoints>(value)); },
                 [&](const TextDescription&) {
                   const std::string& words = std::get<std::string>(value);
                   return words.substr(0, words.find('\n'));
                 },
                 [&](const FileDescription&) {
                   const std::string& path = std::get<std::string>(value);
                   return path.empty() ? std::string("none") : path.substr(path.rfind('/') + 1);
                 },
                 [&](const PaintingDescription&) {
                   return std::string(std::get<Painting>(value).picture ? "painted" : "nothing painted");
                 },
                 [&](const ColourDescription&) { return "#" + colourDigits(std::get<Colour>(value)); }},
      parameter.kind);
}

std::string secondsText(double seconds, int decimals) {
  return fixed(seconds, decimals) + " s";
}

std::string momentText(double seconds) {
  if (std::abs(seconds) < 0.0005) return "now";
  return (seconds > 0 ? "+" : "") + secondsText(seconds);
}

}  // namespace molten

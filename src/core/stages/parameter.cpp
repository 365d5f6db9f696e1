#include "core/stages/parameter.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdio>
#include <optional>

#include "core/time/pace_text.h"

namespace molten {
namespace {

template <class... Visitors>
struct Overloaded : Visitors... {
  using Visitors::operator()...;
};

std::optional<double> parseDouble(std::string_view text) {
  if (text.starts_with('+')) text.remove_prefix(1);
  double value = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc() || end != text.data() + text.size() || !std::isfinite(value)) return std::nullopt;
  return value;
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

std::optional<double> parseNumber(std::string_view text, Unit unit, Rational rate) {
  double scale = 1;
  if (unit == Unit::PerSecond) {
    takeEnding(text, "fps") || takeEnding(text, "/s");
    const auto perSecond = parseRate(text);
    return perSecond ? std::optional(perSecond->toDouble()) : std::nullopt;
  }
  if (unit == Unit::Seconds) {
    if (takeEnding(text, "ms"))
      scale = 0.001;
    else if (takeEnding(text, "f"))
      scale = 1 / rate.toDouble();
    else
      takeEnding(text, "s");
  }
  if (const auto slash = text.find('/'); slash != std::string_view::npos) {
    const auto num = parseDouble(text.substr(0, slash)), den = parseDouble(text.substr(slash + 1));
    if (!num || !den || *den == 0) return std::nullopt;
    return *num / *den * scale;
  }
  const auto number = parseDouble(text);
  return number ? std::optional(*number * scale) : std::nullopt;
}

std::string shortest(double value) {
  char text[32];
  return {text, std::to_chars(text, text + sizeof text, value).ptr};
}

const char* unitText(Unit unit) {
  return unit == Unit::Seconds ? " s" : unit == Unit::PerSecond ? " fps" : "";
}

std::string fixed(double value, int decimals) {
  char text[64];
  std::snprintf(text, sizeof text, "%.*f", decimals, value);
  // No minus before a number that shows as nothing.
  std::string out = text;
  if (out.find_first_not_of("-0.") == std::string::npos && out[0] == '-') out.erase(0, 1);
  if (out[0] == '-') out.replace(0, 1, "−");
  return out;
}

}  // namespace

ParameterValue initialValue(const ParameterDescription& parameter) {
  return std::visit(Overloaded{[](const NumberDescription& n) -> ParameterValue { return n.initial; },
                               [](const PlaceDescription& p) -> ParameterValue { return p.initial; },
                               [](const ToggleDescription& t) -> ParameterValue { return t.initial; },
                               [](const ChoicesDescription& c) -> ParameterValue { return c.initial; },
                               [](const SpansDescription&) -> ParameterValue { return PaceSpans{}; },
                               [](const OrderDescription&) -> ParameterValue { return FrameOrder{}; }},
                    parameter.kind);
}

ParameterValue withinRange(const ParameterDescription& parameter, const ParameterValue& value) {
  if (const auto* number = std::get_if<NumberDescription>(&parameter.kind))
    return std::clamp(std::get<double>(value), number->least, number->most);
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
                   const auto value = parseNumber(lower(text), n.unit, rate);
                   const std::string unit = unitText(n.unit);
                   const std::string range = shortest(n.least) + " to " + shortest(n.most) + unit;
                   if (!value)
                     return wrong(n.unit == Unit::Seconds     ? "a time like 1.5s, 36f or 1/12s"
                                  : n.unit == Unit::PerSecond ? "a rate like 8, 12.5 or 24000/1001"
                                                              : "a number, " + range);
                   if (*value < n.least || *value > n.most) return wrong(range);
                   return ParameterValue(*value);
                 },
                 [&](const PlaceDescription&) -> Result<ParameterValue> {
                   std::string pair = text;
                   if (const auto times = pair.find("×"); times != std::string::npos)
                     pair.replace(times, std::string_view("×").size(), "x");
                   const auto cross = pair.find('x');
                   const auto x = parseDouble(std::string_view(pair).substr(0, cross));
                   const auto y = cross == std::string::npos ? std::nullopt
                                                             : parseDouble(std::string_view(pair).substr(cross + 1));
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
                   for (std::size_t i = 0; i < c.choices.size(); ++i) {
                     if (lower(text) == c.choices[i].id || lower(text) == lower(plain(c.choices[i].label)))
                       return ParameterValue(i);
                     all += (i == 0 ? "" : i + 1 == c.choices.size() ? " or " : ", ") + c.choices[i].id;
                   }
                   return wrong(all);
                 },
                 [&](const SpansDescription&) -> Result<ParameterValue> {
                   auto spans = parsePaceSpans(text, rate);
                   return spans ? Result<ParameterValue>(std::move(*spans)) : spans.error();
                 },
                 [&](const OrderDescription&) -> Result<ParameterValue> {
                   auto order = parseFrameOrder(text);
                   return order ? Result<ParameterValue>(std::move(*order)) : order.error();
                 }},
      parameter.kind);
}

std::string valueText(const ParameterDescription& parameter, const ParameterValue& value) {
  return std::visit(
      Overloaded{[&](const NumberDescription& n) {
                   return n.unit == Unit::PerSecond
                              ? rationalText(Rational::near(std::get<double>(value)))
                              : shortest(std::get<double>(value)) + (n.unit == Unit::Seconds ? "s" : "");
                 },
                 [&](const PlaceDescription&) {
                   const Place place = std::get<Place>(value);
                   return shortest(place.x) + "x" + shortest(place.y);
                 },
                 [&](const ToggleDescription&) { return std::string(std::get<bool>(value) ? "on" : "off"); },
                 [&](const ChoicesDescription& c) { return c.choices[std::get<std::size_t>(value)].id; },
                 [&](const SpansDescription&) { return paceSpansText(std::get<PaceSpans>(value)); },
                 [&](const OrderDescription&) { return frameOrderText(std::get<FrameOrder>(value)); }},
      parameter.kind);
}

std::string valueLabel(const ParameterDescription& parameter, const ParameterValue& value) {
  return std::visit(
      Overloaded{
          [&](const NumberDescription& n) { return fixed(std::get<double>(value), n.decimals) + unitText(n.unit); },
          [&](const PlaceDescription&) {
            const Place place = std::get<Place>(value);
            return fixed(place.x, 3) + " × " + fixed(place.y, 3);
          },
          [&](const ToggleDescription&) { return std::string(std::get<bool>(value) ? "on" : "off"); },
          [&](const ChoicesDescription& c) { return c.choices[std::get<std::size_t>(value)].label; },
          [&](const SpansDescription&) { return paceSpansText(std::get<PaceSpans>(value)); },
          [&](const OrderDescription&) { return frameOrderText(std::get<FrameOrder>(value)); }},
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

#include "core/time/pace_text.h"


#include "core/number_text.h"

namespace molten {
namespace {

bool takeEnding(std::string_view& text, std::string_view ending) {
  if (!text.ends_with(ending)) return false;
  text.remove_suffix(ending.size());
  return true;
}

std::string percentText(Rational ratio) {
  const std::string percent = rationalText(ratio * 100);
  return percent.find('/') == std::string::npos ? percent + "%" : rationalText(ratio);
}

Error wrong(std::string_view text) {
  return Error{"Spans are written like 2s@100%~0.4s+1.5s@35%: length@speed, ~ the glide that follows; \"" +
               std::string(text) + "\" is none."};
}

Result<PaceSpan> parseSpan(std::string_view text, Rational rate) {
  PaceSpan span;
  const auto at = text.find('@');
  if (at == std::string_view::npos) return wrong(text);
  const std::string_view rest = text.substr(at + 1);
  const auto tilde = rest.find('~');
  const auto length = parseSeconds(text.substr(0, at), rate);
  const auto speed = parseSpeed(rest.substr(0, tilde));
  if (!length || !speed) return wrong(text);
  if (*length <= Rational(0)) return Error{"A span must last; \"" + std::string(text) + "\" has no length."};
  span.length = *length;
  span.speed = *speed;
  if (tilde == std::string_view::npos) return span;
  std::string_view glide = rest.substr(tilde + 1);
  if (takeEnding(glide, ":before"))
    span.side = GlideSide::Before;
  else if (takeEnding(glide, ":after"))
    span.side = GlideSide::After;
  const auto second = glide.find('~');
  const auto glideLength = parseSeconds(glide.substr(0, second), rate);
  if (!glideLength || *glideLength < Rational(0)) return wrong(text);
  span.glide = *glideLength;
  if (second == std::string_view::npos) return span;
  const auto bend = parseSpeed(glide.substr(second + 1));
  if (!bend || *bend < Rational(-1) || *bend > Rational(1))
    return Error{"A glide bends by -100% to 100%, not by \"" + std::string(glide.substr(second + 1)) + "\"."};
  span.bend = *bend;
  return span;
}

}  // namespace

std::optional<Rational> parseSeconds(std::string_view text, Rational rate) {
  Rational scale = 1;
  if (takeEnding(text, "ms"))
    scale = Rational(1, 1000);
  else if (takeEnding(text, "f"))
    scale = Rational(1) / rate;
  else
    takeEnding(text, "s");
  const auto number = parseRational(text);
  if (!number || *number > Rational(longestPace) * 1000 || *number < Rational(-longestPace) * 1000) return std::nullopt;
  return *number * scale;
}

std::optional<Rational> parseSpeed(std::string_view text) {
  const bool percent = takeEnding(text, "%");
  const bool ratio = !percent && text.find('/') != std::string_view::npos;
  auto number = parseRational(text);
  if (!number) return std::nullopt;
  if (!ratio) number = *number / 100;
  if (*number > Rational(fastestSpeed) || *number < Rational(-fastestSpeed)) return std::nullopt;
  return number;
}

Result<PaceSpans> parsePaceSpans(std::string_view text, Rational rate) {
  PaceSpans spans;
  if (text.empty() || text == "whole") return spans;
  Rational total = 0;
  while (true) {
    // A + that joins stands after something; one that signs stands after @ or ~.
    std::size_t plus = 1;
    while (plus < text.size() && (text[plus] != '+' || text[plus - 1] == '@' || text[plus - 1] == '~')) ++plus;
    auto span = parseSpan(text.substr(0, plus), rate);
    if (!span) return span.error();
    total = total + span->length;
    spans.push_back(*span);
    if (plus >= text.size()) break;
    text.remove_prefix(plus + 1);
    if (text.empty()) return wrong("");
    if (spans.size() >= mostSpans) return Error{"A Pace has at most " + std::to_string(mostSpans) + " spans."};
  }
  if (total > Rational(longestPace)) return Error{"A Pace lasts 24 hours at most."};
  return spans;
}

std::string paceSpansText(const PaceSpans& spans) {
  if (spans.empty()) return "whole";
  std::string text;
  for (const PaceSpan& span : spans) {
    if (!text.empty()) text += '+';
    text += rationalText(span.length) + "s@" + percentText(span.speed);
    // Of a glide of no length its bend and its side stay, for when it is drawn out again.
    const bool aside = span.side != GlideSide::Around;
    if (span.glide > Rational(0) || span.bend != Rational(0) || aside) text += "~" + rationalText(span.glide) + "s";
    if (span.bend != Rational(0)) text += "~" + percentText(span.bend);
    if (aside) text += span.side == GlideSide::Before ? ":before" : ":after";
  }
  return text;
}

std::string speedText(Rational speed) {
  std::string out = fixedText(speed.toDouble() * 100, 2);
  while (out.back() == '0') out.pop_back();
  if (out.back() == '.') out.pop_back();
  if (out == "-0") out = "0";
  if (out[0] == '-') out.replace(0, 1, "−");
  return out + " %";
}

}  // namespace molten

#include "core/stages/key_text.h"

#include <algorithm>

#include "core/stages/stage.h"
#include "core/time/pace_text.h"

namespace molten {
namespace {

constexpr std::size_t mostKeys = 10'000;

std::optional<Ease> parseEase(std::string_view text) {
  if (text == "linear") return Ease{};
  if (text == "hold") return Ease{Ease::Way::Hold, 0, 0};
  if (text == "ease") return softEase;
  const auto cross = text.find('x');
  if (cross == std::string_view::npos) return std::nullopt;
  const auto leave = parseRational(text.substr(0, cross)), arrive = parseRational(text.substr(cross + 1));
  if (!leave || !arrive) return std::nullopt;
  const Ease ease{Ease::Way::Curve, leave->toDouble(), arrive->toDouble()};
  if (ease.leave < 0 || ease.leave > 1 || ease.arrive < 0 || ease.arrive > 1) return std::nullopt;
  return ease;
}

std::string easeText(const Ease& ease) {
  if (ease.way == Ease::Way::Linear) return "";
  if (ease.way == Ease::Way::Hold) return "~hold";
  if (ease == softEase) return "~ease";
  return "~" + rationalText(Rational::near(ease.leave)) + "x" + rationalText(Rational::near(ease.arrive));
}

}  // namespace

bool isKeysText(const ParameterDescription& parameter, std::string_view text) {
  return parameter.animatable && text.find('@') != std::string_view::npos;
}

Result<KeyTrack> parseKeys(const ParameterDescription& parameter, std::string_view text, Rational rate) {
  KeyTrack track;
  if (text.ends_with('+')) return Error{"After the last + there is no key."};
  while (!text.empty()) {
    // A plus may also be the sign of a number: one that ends a key stands after its time or its ease.
    const auto at = text.find('@');
    const auto plus = at == std::string_view::npos ? text.size() : std::min(text.find('+', at), text.size());
    const std::string_view item = text.substr(0, plus);
    text.remove_prefix(std::min(plus + 1, text.size()));
    const auto wrong = [&] {
      return Error{"Keys are written like 1s@0s+3s@4s~ease: value@time, ~ how it comes there; \"" + std::string(item) +
                   "\" is none."};
    };
    if (at == std::string_view::npos || plus < at) return wrong();
    auto value = parseValue(parameter, item.substr(0, at), rate);
    if (!value) return value.error();
    const std::string_view rest = item.substr(at + 1);
    const auto tilde = std::min(rest.find('~'), rest.size());
    const auto time = parseSeconds(rest.substr(0, tilde), rate);
    const auto ease = tilde == rest.size() ? std::optional(Ease{}) : parseEase(rest.substr(tilde + 1));
    if (!time || !ease || *time < Rational(0)) return wrong();
    if (!track.empty() && *time <= track.back().at)
      return Error{"Keys go from the earliest to the latest; \"" + std::string(item) +
                   "\" does not come after the one "
                   "before it."};
    track.push_back({*time, keyValue(*value), *ease});
    if (track.size() > mostKeys) return Error{"There may be 10000 keys at most."};
  }
  if (track.empty()) return Error{"There are no keys in \"\"."};
  return track;
}

std::string keysText(const ParameterDescription& parameter, const KeyTrack& track) {
  std::string text;
  for (const Key& key : track) {
    if (!text.empty()) text += '+';
    text += valueText(parameter, keyedParameter(parameter, key.value)) + "@" + rationalText(key.at) + "s" +
            easeText(key.ease);
  }
  return text;
}

}  // namespace molten

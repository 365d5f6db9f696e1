#include "core/picture/blank.h"

#include <algorithm>

#include "core/number_text.h"

namespace molten {
namespace {

constexpr int mostSide = 16384;
constexpr std::int64_t mostSeconds = 24 * 3600;

std::optional<int> sideOf(std::string_view text) {
  const auto side = readWhole(text);
  if (!side || *side < 1 || *side > mostSide) return std::nullopt;
  return static_cast<int>(*side);
}

}  // namespace

std::int64_t Blank::pictures() const {
  return std::max<std::int64_t>(1, (seconds * rate + Rational(1, 2)).floor());
}

std::string blankPath(const Blank& blank) {
  // Nothing that a path or a stage's text would be cut at: thousandths of a second, so that no picture is lost.
  const Rational thousandths = blank.seconds * Rational(1000), whole = Rational(thousandths.floor());
  const Rational seconds = (whole < thousandths ? whole + Rational(1) : whole) / Rational(1000);
  return std::string(blankPrefix) + std::to_string(blank.size.width) + "x" + std::to_string(blank.size.height) + "@" + rateText(blank.rate) +
         ":" + rationalText(seconds) + "s";
}

std::optional<Blank> parseBlank(std::string_view text) {
  if (namesBlank(text)) text.remove_prefix(blankPrefix.size());
  const auto times = text.find('x'), at = text.find('@'), colon = text.find(':');
  if (times == text.npos || at == text.npos || colon == text.npos || times > at || at > colon || !text.ends_with('s')) return std::nullopt;
  const auto width = sideOf(text.substr(0, times)), height = sideOf(text.substr(times + 1, at - times - 1));
  const auto rate = parseRate(text.substr(at + 1, colon - at - 1));
  const auto seconds = parseRational(text.substr(colon + 1, text.size() - colon - 2));
  if (!width || !height || !rate || !seconds || !(*seconds > Rational(0)) || *seconds > Rational(mostSeconds)) return std::nullopt;
  return Blank{{*width, *height}, *rate, *seconds};
}

PictureShape drawnShape(Size size) {
  PictureShape shape;
  shape.format = {ColourModel::Rgb, 8, 0, 0, true, false};
  shape.size = size;
  shape.colour = {AVCOL_RANGE_JPEG, AVCOL_SPC_RGB, AVCOL_PRI_BT709, AVCOL_TRC_BT709, AVCHROMA_LOC_UNSPECIFIED};
  return shape;
}

}  // namespace molten

#include "core/project/json_text.h"

#include <limits>

namespace molten {
namespace {

constexpr int deepest = 64;

bool isTooDeep(const std::string& text) {
  int depth = 0;
  bool quoted = false;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (quoted) {
      if (c == '\\') ++i;
      quoted = c != '"';
    } else if (c == '"') {
      quoted = true;
    } else if (c == '[' || c == '{') {
      if (++depth > deepest) return true;
    } else if (c == ']' || c == '}') {
      --depth;
    }
  }
  return false;
}

}  // namespace

std::optional<nlohmann::ordered_json> parseJson(const std::string& text) {
  if (isTooDeep(text)) return std::nullopt;
  auto json = nlohmann::ordered_json::parse(text, nullptr, false);
  if (json.is_discarded()) return std::nullopt;
  return json;
}

std::optional<std::int64_t> wholeNumber(const nlohmann::ordered_json& json, std::int64_t least, std::int64_t most) {
  if (!json.is_number_integer()) return std::nullopt;
  if (json.is_number_unsigned() &&
      json.get<std::uint64_t>() > static_cast<std::uint64_t>(std::numeric_limits<std::int64_t>::max()))
    return std::nullopt;
  const auto number = json.get<std::int64_t>();
  return number >= least && number <= most ? std::optional(number) : std::nullopt;
}

}  // namespace molten

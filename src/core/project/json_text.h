#pragma once
// JSON from files that a stranger may have written.

#include <nlohmann/json.hpp>
#include <optional>
#include <string>

namespace molten {

/// None if the text is not JSON, or nests deeper than any file of ours does: what walks it, copies it and writes it
/// again does so level by level.
std::optional<nlohmann::ordered_json> parseJson(const std::string& text);

/// A whole number between two others; none if it is anything else, however large.
std::optional<std::int64_t> wholeNumber(const nlohmann::ordered_json& json, std::int64_t least, std::int64_t most);

}  // namespace molten

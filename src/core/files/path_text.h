#pragma once
// Paths in files that hold text alone (JSON is UTF-8): a file's name may be any bytes.

#include <string>
#include <string_view>

namespace molten {

/// Whether bytes are UTF-8 (RFC 3629).
bool isUtf8(std::string_view bytes);

/// A path as text: as it is where that is UTF-8; otherwise `bytes:` and the path with its other bytes, and percent signs, written as
/// `%E9`.
std::string pathText(const std::string& path);
/// The path that a text stands for.
std::string pathOfText(const std::string& text);

}  // namespace molten

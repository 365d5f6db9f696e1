#include "core/files/path_text.h"

#include <charconv>
#include <cstddef>

namespace molten {
namespace {

constexpr std::string_view mark = "bytes:";

/// How many bytes the letter at the beginning has; 0: it is none.
std::size_t letterAt(std::string_view bytes) {
  const auto byte = [&](std::size_t i) { return static_cast<unsigned char>(bytes[i]); };
  const unsigned char first = byte(0);
  if (first < 0x80) return 1;
  const std::size_t length = first >= 0xc2 && first < 0xe0 ? 2 : first >= 0xe0 && first < 0xf0 ? 3 : first >= 0xf0 && first < 0xf5 ? 4 : 0;
  if (length == 0 || bytes.size() < length) return 0;
  for (std::size_t i = 1; i < length; ++i)
    if ((byte(i) & 0xc0) != 0x80) return 0;
  // Longer than it has to be, half of a pair, or beyond the last one.
  const unsigned char second = byte(1);
  if ((first == 0xe0 && second < 0xa0) || (first == 0xed && second >= 0xa0) || (first == 0xf0 && second < 0x90) || (first == 0xf4 && second >= 0x90)) return 0;
  return length;
}

}  // namespace

bool isUtf8(std::string_view bytes) {
  while (!bytes.empty()) {
    const std::size_t length = letterAt(bytes);
    if (length == 0) return false;
    bytes.remove_prefix(length);
  }
  return true;
}

std::string pathText(const std::string& path) {
  if (isUtf8(path) && !path.starts_with(mark)) return path;
  constexpr std::string_view digits = "0123456789ABCDEF";
  std::string text(mark);
  for (std::string_view left = path; !left.empty();) {
    const std::size_t length = letterAt(left);
    if (length == 0 || left.front() == '%') {
      const auto byte = static_cast<unsigned char>(left.front());
      text += {'%', digits[byte >> 4], digits[byte & 15]};
      left.remove_prefix(1);
    } else {
      text += left.substr(0, length);
      left.remove_prefix(length);
    }
  }
  return text;
}

std::string pathOfText(const std::string& text) {
  if (!text.starts_with(mark)) return text;
  std::string path;
  for (std::size_t i = mark.size(); i < text.size(); ++i) {
    unsigned char byte = 0;
    const char* const first = text.data() + i + 1;
    if (text[i] == '%' && i + 2 < text.size() && std::from_chars(first, first + 2, byte, 16).ptr == first + 2) {
      path += static_cast<char>(byte);
      i += 2;
    } else {
      path += text[i];
    }
  }
  return path;
}

}  // namespace molten

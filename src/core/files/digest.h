#pragma once
// A number that tells what something was made of. Not one that a stranger could not forge.

#include <cstdint>
#include <string>
#include <string_view>

#include "core/number_text.h"

namespace molten {

/// FNV-1a, of 64 bits.
class Digest {
 public:
  void add(std::string_view bytes) {
    for (const char c : bytes) value_ = (value_ ^ static_cast<unsigned char>(c)) * 0x100000001b3u;
    value_ = (value_ ^ 0xff) * 0x100000001b3u;  // nothing else ends so
  }
  void add(std::int64_t number) { add(std::to_string(number)); }
  /// Sixteen hexadecimal digits.
  std::string text() const { return hexText(value_); }

 private:
  std::uint64_t value_ = 0xcbf29ce484222325u;
};

}  // namespace molten

#pragma once
// What a fuzzer hands over, as the text that a reader gets.

#include <cstdint>
#include <cstdlib>
#include <fstream>
#include <string>

namespace molten::fuzz {

inline std::string textOf(const std::uint8_t* bytes, std::size_t count) {
  return {reinterpret_cast<const char*>(bytes), count};
}

/// What must hold of what was read.
inline void require(bool holds) {
  if (!holds) std::abort();
}

/// The same in a file, for readers that take a path. In memory where the machine has such a folder.
inline std::string fileOf(const std::uint8_t* bytes, std::size_t count, const char* name) {
  const std::string path = std::string("/dev/shm/molten-fuzz-") + name;
  std::ofstream(path, std::ios::binary | std::ios::trunc) << textOf(bytes, count);
  return path;
}

}  // namespace molten::fuzz

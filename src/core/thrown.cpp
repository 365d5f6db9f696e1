#include "core/thrown.h"

#include <filesystem>
#include <new>
#include <stdexcept>
#include <system_error>

namespace molten {

Error errorOf(const std::exception& thrown) {
  if (dynamic_cast<const std::bad_alloc*>(&thrown) || dynamic_cast<const std::length_error*>(&thrown)) return outOfMemoryError();
  if (const auto* const file = dynamic_cast<const std::filesystem::filesystem_error*>(&thrown))
    return {file->path1().string() + " cannot be worked with: " + file->code().message() + ". Check its permissions, and the disk."};
  if (const auto* const system = dynamic_cast<const std::system_error*>(&thrown)) {
    // A thread could not be made: its stack is memory too.
    if (system->code() == std::errc::resource_unavailable_try_again || system->code() == std::errc::not_enough_memory) return outOfMemoryError();
    return {"The system refused something that is needed for this: " + system->code().message() + ". Save your work, and start anew if it happens again."};
  }
  return {"Something went wrong that should not: " + std::string(thrown.what()) + ". Save your work, and start anew if it happens again."};
}

Error thrownError() noexcept {
  try {
    throw;
  } catch (const std::exception& thrown) {
    try {
      return errorOf(thrown);
    } catch (...) {
      return {};
    }
  } catch (...) {
    return {};
  }
}

}  // namespace molten

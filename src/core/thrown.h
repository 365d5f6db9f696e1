#pragma once
// What is thrown, as an error with a sentence: nothing that is thrown goes beyond a thread's root, or the core's edge.

#include <exception>

#include "core/result.h"

namespace molten {

/// Memory that cannot be had, a thread that cannot be made, a file system that fails, or whatever else was thrown.
Error errorOf(const std::exception& thrown);
/// Of what is being handled: within a catch block alone.
Error thrownError() noexcept;

/// The work's result, or the error of what it throws.
template <class Work>
auto orThrown(Work work) -> decltype(work()) {
  try {
    return work();
  } catch (...) {
    return thrownError();
  }
}

}  // namespace molten

#pragma once
// Memory that cannot be had, for tests.

#include <cstddef>

namespace molten::test {

/// While it stands, one allocation of at least 512 bytes by operator new fails, on whatever thread: the one after so many others.
/// Smaller ones are not refused by a system in truth.
class FailingMemory {
 public:
  explicit FailingMemory(int after);
  ~FailingMemory();
  FailingMemory(const FailingMemory&) = delete;
  FailingMemory& operator=(const FailingMemory&) = delete;
  /// How many have failed in this process.
  static int failed();
};

}  // namespace molten::test

#pragma once
// What the machine has.

#include <cstddef>

namespace molten {

/// Bytes of memory that this process may have: the machine's, or less where a limit was set for it.
std::size_t machineMemory();
/// Bytes that this process has had at most.
std::size_t memoryTaken();

}  // namespace molten

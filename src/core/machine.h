#pragma once
// What the machine has.

#include <cstddef>

namespace molten {

/// Bytes of memory that this process may have: the machine's, or less where a limit was set for it.
std::size_t machineMemory();

}  // namespace molten

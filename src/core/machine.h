#pragma once
// What the machine has.

#include <cstddef>

namespace molten {

/// Bytes of memory that this process may have: the machine's, or less where a limit was set for it.
std::size_t machineMemory();
/// Bytes that this process has had at most.
std::size_t memoryTaken();
/// For the beginning of a program: from then on large blocks go back to the machine as soon as they are let go. Kept for
/// later among others that are in use, they add up: frames of many sizes come and go on many threads.
void returnMemoryAtOnce();
/// For the beginning of a program, before it has threads: that, and libraries keep what they have to say to themselves. The variable
/// MOLTEN_PROCESSOR holds down what the processor can do, to compare results: `avx2`, or `plain` for neither that nor more.
void beginProgram();

}  // namespace molten

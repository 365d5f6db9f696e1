#include "core/machine.h"

#include <malloc.h>
#include <sys/resource.h>
#include <unistd.h>

#include <algorithm>

namespace molten {

std::size_t machineMemory() {
  auto bytes = static_cast<std::size_t>(sysconf(_SC_PHYS_PAGES)) * static_cast<std::size_t>(sysconf(_SC_PAGE_SIZE));
  rlimit limit{};
  if (getrlimit(RLIMIT_AS, &limit) == 0 && limit.rlim_cur != RLIM_INFINITY)
    bytes = std::min<std::size_t>(bytes, limit.rlim_cur);
  return bytes;
}

std::size_t memoryTaken() {
  rusage usage{};
  getrusage(RUSAGE_SELF, &usage);
  return static_cast<std::size_t>(usage.ru_maxrss) * 1024;
}

void returnMemoryAtOnce() {
  // A threshold that is set stays; one that is not rises with every block that is let go.
  mallopt(M_MMAP_THRESHOLD, 128 << 10);
}

}  // namespace molten

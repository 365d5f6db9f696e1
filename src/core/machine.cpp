#include "core/machine.h"

#include <malloc.h>
#include <sys/resource.h>
#include <unistd.h>

#include <algorithm>
#include <cstdint>
#include <cstdlib>
#include <string_view>

#include <hwy/targets.h>

extern "C" {
#include <libavutil/cpu.h>
#include <libavutil/log.h>
}

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

void beginProgram() {
  returnMemoryAtOnce();
  av_log_set_level(AV_LOG_QUIET);
  setenv("SVT_LOG", "0", 0);
  const char* const held = std::getenv("MOLTEN_PROCESSOR");
  const std::string_view processor = held ? held : "";
  // Every processor of 64 bits has the last two.
  constexpr int least = AV_CPU_FLAG_MMX | AV_CPU_FLAG_MMXEXT | AV_CPU_FLAG_SSE | AV_CPU_FLAG_SSE2;
  constexpr std::int64_t wide = HWY_AVX3 | HWY_AVX3_DL, plain = wide | HWY_AVX2 | HWY_SSE4 | HWY_SSSE3;
  if (processor == "avx2") {
    hwy::DisableTargets(wide);
    av_force_cpu_flags(av_get_cpu_flags() & ~(AV_CPU_FLAG_AVX512 | AV_CPU_FLAG_AVX512ICL));
  } else if (processor == "plain") {
    hwy::DisableTargets(plain);
    av_force_cpu_flags(av_get_cpu_flags() & least);
  }
}

}  // namespace molten

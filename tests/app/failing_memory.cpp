#include "failing_memory.h"

#include <atomic>
#include <cstdlib>
#include <new>

namespace {

constexpr std::size_t large = 512;
std::atomic<bool> armed = false;
std::atomic<int> left = 0, refused = 0;

bool refuses(std::size_t bytes) {
  if (bytes < large || !armed.load(std::memory_order_relaxed) || left.fetch_sub(1) != 0) return false;
  ++refused;
  return true;
}

void* given(std::size_t bytes) {
  if (!refuses(bytes))
    if (void* const place = std::malloc(bytes > 0 ? bytes : 1)) return place;
  throw std::bad_alloc();
}

void* given(std::size_t bytes, std::align_val_t alignment) {
  const auto least = static_cast<std::size_t>(alignment);
  if (!refuses(bytes))
    if (void* const place = std::aligned_alloc(least, (bytes + least - 1) / least * least)) return place;
  throw std::bad_alloc();
}

}  // namespace

namespace molten::test {

FailingMemory::FailingMemory(int after) {
  left = after;
  armed = true;
}
FailingMemory::~FailingMemory() {
  armed = false;
}
int FailingMemory::failed() {
  return refused;
}

}  // namespace molten::test

// Of the whole process.
void* operator new(std::size_t bytes) { return given(bytes); }
void* operator new[](std::size_t bytes) { return given(bytes); }
void* operator new(std::size_t bytes, std::align_val_t alignment) { return given(bytes, alignment); }
void* operator new[](std::size_t bytes, std::align_val_t alignment) { return given(bytes, alignment); }
void operator delete(void* place) noexcept { std::free(place); }
void operator delete[](void* place) noexcept { std::free(place); }
void operator delete(void* place, std::size_t) noexcept { std::free(place); }
void operator delete[](void* place, std::size_t) noexcept { std::free(place); }
void operator delete(void* place, std::align_val_t) noexcept { std::free(place); }
void operator delete[](void* place, std::align_val_t) noexcept { std::free(place); }
void operator delete(void* place, std::size_t, std::align_val_t) noexcept { std::free(place); }
void operator delete[](void* place, std::size_t, std::align_val_t) noexcept { std::free(place); }

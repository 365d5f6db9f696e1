#include "core/picture/picture_memory.h"

#include <deque>
#include <mutex>
#include <new>

namespace molten {
namespace {

#ifdef MOLTEN_SANITIZED
constexpr std::size_t mostKept = 0;  // who reads a picture that is no more is to be found out
#else
constexpr std::size_t mostKept = std::size_t(64) << 20;
#endif
/// Smaller ones are the allocator's to keep.
constexpr std::size_t leastKept = std::size_t(64) << 10;

class Blocks {
 public:
  void* take(std::size_t bytes) {
    {
      const std::scoped_lock lock(mutex_);
      for (auto block = kept_.rbegin(); block != kept_.rend(); ++block) {
        if (block->bytes != bytes) continue;
        void* const memory = block->memory;
        held_ -= bytes;
        kept_.erase(std::next(block).base());
        return memory;
      }
    }
    return ::operator new(bytes, std::align_val_t(rowAlignment));
  }
  void giveBack(void* memory, std::size_t bytes) {
    if (bytes < leastKept || bytes > mostKept) return release(memory);
    std::deque<Block> tooOld;
    {
      const std::scoped_lock lock(mutex_);
      kept_.push_back({memory, bytes});
      for (held_ += bytes; held_ > mostKept; kept_.pop_front()) {
        held_ -= kept_.front().bytes;
        tooOld.push_back(kept_.front());
      }
    }
    for (const Block& block : tooOld) release(block.memory);
  }

 private:
  struct Block {
    void* memory;
    std::size_t bytes;
  };
  static void release(void* memory) { ::operator delete(memory, std::align_val_t(rowAlignment)); }

  std::mutex mutex_;
  std::deque<Block> kept_;  ///< the oldest first
  std::size_t held_ = 0;
};

/// Never destroyed: the last pictures may go after all that is static.
Blocks& blocks() {
  static auto* const all = new Blocks;
  return *all;
}

}  // namespace

std::shared_ptr<void> pictureMemory(std::size_t bytes) {
  return {blocks().take(bytes), [bytes](void* memory) { blocks().giveBack(memory, bytes); }};
}

}  // namespace molten

#include "core/parallel.h"

#ifndef __SANITIZE_THREAD__

#include <tbb/blocked_range.h>
#include <tbb/info.h>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

#include <algorithm>

namespace molten {

struct ThreadLimit::Arena {
  tbb::task_arena arena;
};

/// The library has no more threads than processors; it says so on stderr if it is asked for more.
ThreadLimit::ThreadLimit(int threads)
    : arena_(std::make_unique<Arena>(Arena{tbb::task_arena(std::min(threads, tbb::info::default_concurrency()))})) {}
ThreadLimit::~ThreadLimit() = default;
void ThreadLimit::run(const std::function<void()>& work) {
  arena_->arena.execute(work);
}

void parallelRows(int rows, int atATime, const std::function<void(int, int)>& work) {
  tbb::parallel_for(tbb::blocked_range<int>(0, rows, static_cast<std::size_t>(atATime)),
                    [&](const tbb::blocked_range<int>& some) { work(some.begin(), some.end()); });
}

void isolated(const std::function<void()>& work) {
  tbb::this_task_arena::isolate([&] { work(); });
}

}  // namespace molten

#else

// The thread sanitizer does not see how the library's threads wait for each other, and would take every row for a
// race. With threads of our own it sees ours.
#include <algorithm>
#include <atomic>
#include <thread>
#include <utility>
#include <vector>

namespace molten {
namespace {
thread_local int limit = 2;
}

struct ThreadLimit::Arena {
  int threads;
};

ThreadLimit::ThreadLimit(int threads) : arena_(std::make_unique<Arena>(Arena{threads})) {}
ThreadLimit::~ThreadLimit() = default;
void ThreadLimit::run(const std::function<void()>& work) {
  const int before = std::exchange(limit, arena_->threads);
  work();
  limit = before;
}

void parallelRows(int rows, int atATime, const std::function<void(int, int)>& work) {
  std::atomic<int> next = 0;
  const auto take = [&] {
    for (int from = next.fetch_add(atATime); from < rows; from = next.fetch_add(atATime))
      work(from, std::min(from + atATime, rows));
  };
  std::vector<std::jthread> threads;
  for (int i = 1; i < std::min(limit, 4); ++i) threads.emplace_back(take);
  take();
}

void isolated(const std::function<void()>& work) {
  work();
}

}  // namespace molten

#endif

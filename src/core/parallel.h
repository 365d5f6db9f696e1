#pragma once
// Work on rows by several threads at once.

#include <functional>
#include <memory>

namespace molten {

/// How many threads parallelRows() uses within run(). Outside of any, as many as the machine has cores.
class ThreadLimit {
 public:
  explicit ThreadLimit(int threads);
  ~ThreadLimit();
  void run(const std::function<void()>& work);

 private:
  struct Arena;
  std::unique_ptr<Arena> arena_;
};

/// Calls work(from, to) until all of 0…rows has been covered, `atATime` rows a call, on several threads; returns when
/// all calls have.
void parallelRows(int rows, int atATime, const std::function<void(int from, int to)>& work);

}  // namespace molten

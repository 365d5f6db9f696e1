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

/// Does some work whose parallel loops are its own: while it waits for them this thread takes up no row of a loop
/// around it, which might want what the work is about to give.
void isolated(const std::function<void()>& work);

}  // namespace molten

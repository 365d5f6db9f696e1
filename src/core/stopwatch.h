#pragma once
// How long something takes.

#include <chrono>

namespace molten {

/// Runs from its making on.
class Stopwatch {
 public:
  double seconds() const { return std::chrono::duration<double>(std::chrono::steady_clock::now() - begun_).count(); }

 private:
  std::chrono::steady_clock::time_point begun_ = std::chrono::steady_clock::now();
};

}  // namespace molten

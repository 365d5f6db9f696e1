#pragma once
// What was amiss with frames of a footage while they were read.

#include <cstdint>
#include <map>
#include <mutex>
#include <string>
#include <vector>

namespace molten {

enum class FrameFault {
  Damaged,  ///< shown as well as it could be saved
  Missing,  ///< could not be had: a neighbour stood in for it
  Changed   ///< read after its file had been written anew, or had gone
};

/// Collected by all readers of a footage, each frame once. Thread-safe.
class FrameFaults {
 public:
  void note(std::int32_t frame, FrameFault fault);
  bool empty() const;
  /// In rising order.
  std::vector<std::int32_t> frames(FrameFault fault) const;
  std::vector<std::int32_t> frames() const;
  /// What a user should know about one kind of fault; empty: there is none. `name`: of the footage.
  std::string sentence(FrameFault fault, const std::string& name) const;
  /// One for each kind that there is.
  std::vector<std::string> sentences(const std::string& name) const;

 private:
  mutable std::mutex mutex_;
  std::map<std::int32_t, FrameFault> faults_;
};

/// `3, 7-9 and 12 more`: a few of them.
std::string framesText(const std::vector<std::int32_t>& rising);

}  // namespace molten

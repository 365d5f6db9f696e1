#pragma once
// Displacements of late, so that those of one picture are made once and not for each of its rows.

#include <deque>
#include <memory>
#include <mutex>
#include <utility>

#include "core/stages/time_map.h"

namespace molten {

/// Thread-safe. For displacements that are made in no time: two threads may make the same one at once.
class KeptDisplacements {
 public:
  template <class Make>
  std::shared_ptr<const Displacement> find(const Moment& moment, Make make) {
    {
      const std::scoped_lock lock(mutex_);
      for (const auto& [known, made] : made_)
        if (known == moment) return made;
    }
    std::shared_ptr<const Displacement> made = make();
    const std::scoped_lock lock(mutex_);
    made_.emplace_front(moment, made);
    if (made_.size() > most) made_.pop_back();
    return made;
  }

 private:
  static constexpr std::size_t most = 8;
  std::mutex mutex_;
  std::deque<std::pair<Moment, std::shared_ptr<const Displacement>>> made_;
};

}  // namespace molten

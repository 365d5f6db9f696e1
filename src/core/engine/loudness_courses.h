#pragma once
// How loud the sounds are that values follow: each file opened once, each band found once.

#include <list>
#include <memory>
#include <mutex>
#include <string>
#include <vector>

#include "core/engine/heard.h"
#include "core/sound/loudness_course.h"

namespace molten {

/// Thread-safe; what is asked for and not open yet is opened on the thread that asks.
class LoudnessCourses {
 public:
  explicit LoudnessCourses(std::shared_ptr<MemoryBudget> budget) : files_(std::move(budget), Outline::No) {}
  using Course = std::shared_ptr<const LoudnessCourse>;
  /// Of a file, by its own time. nullptr: it has no sound that can be read.
  Course own(const std::string& path, const Band& band);
  /// Of a laid sound, by the piece's time: as it is placed, faded and made louder or softer, even where it is mute.
  Course laid(const Stage& sound, const Band& band);
  /// A sentence about what cannot be followed; and all of those, each once.
  void miss(const std::string& sentence);
  std::vector<std::string> findings() const;

 private:
  struct Known {
    std::shared_ptr<SoundFeed> feed;
    std::optional<Stage> laid;
    Band band;
    Course course;
  };
  template <class Make>
  Course known(const std::shared_ptr<SoundFeed>& feed, const std::optional<Stage>& laid, const Band& band, Make make);

  SoundFiles files_;
  mutable std::mutex mutex_;
  std::vector<std::string> missed_;  ///< each once
  std::list<Known> known_;  ///< last asked for first
};

}  // namespace molten

#pragma once
// All footage that a project reads: opened once, decoded once, under one budget.

#include <filesystem>
#include <list>
#include <map>
#include <memory>
#include <mutex>
#include <stop_token>
#include <vector>

#include "core/engine/frame_feed.h"
#include "core/engine/picture_plan.h"
#include "core/stages/source_video.h"

namespace molten {

class LoudnessCourses;

/// The shot's footage and whatever stages read besides. Whoever asks for the same file gets the same feed. Thread-safe;
/// what is asked for and not open yet is opened on the thread that asks.
class Sources {
 public:
  static constexpr std::size_t usualFeedBytes = std::size_t(256) << 20;
  /// Over a feed of the footage, whose budget all share.
  Sources(std::shared_ptr<FrameFeed> footage, int decoderThreads);
  /// Where frames of the footage are seldom asked for: its feed is made when they first are, in a part of the budget, at most
  /// `feedBytes`.
  Sources(std::shared_ptr<const Footage> footage, std::shared_ptr<MemoryBudget> budget, int decoderThreads,
          std::size_t feedBytes = usualFeedBytes);
  /// The same sources, looked at from another shot, whose footage it is.
  Sources(std::shared_ptr<Sources> shared, std::shared_ptr<const Footage> footage);
  ~Sources();

  const std::shared_ptr<const Footage>& footage() const { return footage_; }
  const std::shared_ptr<MemoryBudget>& budget() const { return budget_; }
  /// The shot's footage.
  std::shared_ptr<FrameFeed> feed();
  /// A source's frames; `use` without a path: the shot's footage.
  Result<std::shared_ptr<FrameFeed>> feed(const SourceUse& use, std::stop_token stop);
  /// Likewise, opened anew if its file has changed.
  Result<std::shared_ptr<FrameFeed>> current(const SourceUse& use, std::stop_token stop);
  /// What it is, likewise: without a feed, of which few live at a time.
  Result<std::shared_ptr<const Footage>> describe(const SourceUse& use, std::stop_token stop);
  /// What will be asked for soon of each source, in the order of the frames; of sources that are open.
  void prefetch(std::vector<SourceFrames> soon);
  /// How loud sounds are that values follow.
  LoudnessCourses& loudness() { return shared_ ? shared_->loudness() : *loudness_; }
  /// Footage that has been opened elsewhere.
  void know(const SourceUse& use, const std::shared_ptr<const Footage>& footage);
  /// Sentences about what was amiss with files other than the footage.
  std::vector<std::string> findings() const;

 private:
  struct Open {
    SourceUse use;
    std::filesystem::file_time_type written;
    std::shared_ptr<const Footage> footage;
    std::shared_ptr<FrameFeed> feed;  ///< nullptr: none is asked for frames
  };
  bool isFootage(const SourceUse& use) const;
  std::shared_ptr<FrameFeed> known(const SourceUse& use);
  void closeIdle();
  /// Ends feeds on a thread of its own: one that is decoding a frame ends after that.
  class Closing;

  const std::shared_ptr<Sources> shared_;  ///< that has all but the footage; nullptr: this one
  const std::shared_ptr<const Footage> footage_;
  const std::shared_ptr<MemoryBudget> budget_;
  const int threads_;
  const std::size_t feedBytes_ = 0;
  const std::unique_ptr<LoudnessCourses> loudness_;
  mutable std::mutex mutex_;    ///< of what is open
  std::mutex opening_;          ///< one file at a time
  std::shared_ptr<FrameFeed> own_;
  std::list<Open> open_;        ///< last used first
  const std::unique_ptr<Closing> closing_;
};

/// What will be read soon, in the order in which it will be.
class SoonRead {
 public:
  /// `most`: frames of the first source that are worth naming.
  explicit SoonRead(std::size_t most) : most_(most) {}
  void add(const std::vector<SourceFrames>& reads);
  bool full() const { return !all_.empty() && all_.front().frames.size() >= most_; }
  std::vector<SourceFrames> take() { return std::move(all_); }

 private:
  std::size_t most_;
  std::vector<SourceFrames> all_;
};

/// When what a path names was last written; numbered stills have changed when their folder has.
std::filesystem::file_time_type lastWritten(const std::string& path);

}  // namespace molten

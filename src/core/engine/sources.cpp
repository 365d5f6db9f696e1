#include "core/engine/sources.h"

#include <algorithm>
#include <condition_variable>
#include <thread>
#include <utility>

#include "core/engine/loudness_courses.h"
#include "core/engine/project_footage.h"
#include "core/media/stills_reader.h"
#include "core/project/files_behind.h"

namespace molten {
namespace {

/// A source's part of the budget.
constexpr std::size_t partOfOne = 4;
/// So many feeds of sources that nothing reads any more stay open: what is looked at may be looked at again, what is rendered is
/// past. And so many sources stay known.
constexpr std::size_t mostIdle = 4, mostIdleForwards = 1, mostKnown = 1000;

}  // namespace

class Sources::Closing {
 public:
  void take(std::shared_ptr<FrameFeed> feed) {
    const std::scoped_lock lock(mutex_);
    feeds_.push_back(std::move(feed));
    changed_.notify_all();
  }

 private:
  void work(std::stop_token stop) {
    std::unique_lock lock(mutex_);
    while (changed_.wait(lock, stop, [&] { return !feeds_.empty(); })) {
      auto some = std::exchange(feeds_, {});
      lock.unlock();
      some.clear();
      lock.lock();
    }
  }
  std::mutex mutex_;
  std::condition_variable_any changed_;
  std::vector<std::shared_ptr<FrameFeed>> feeds_;
  std::jthread thread_{[this](std::stop_token stop) { work(std::move(stop)); }};  // last: it ends before the rest goes
};

std::filesystem::file_time_type lastWritten(const std::string& path) {
  std::error_code none;
  return std::filesystem::last_write_time(
      isStillsPattern(path) ? std::filesystem::absolute(path).parent_path() : std::filesystem::path(path), none);
}

namespace {

/// Of what a use is, as it was opened.
std::filesystem::file_time_type writtenOf(const Footage& footage) {
  return footage.madeFrom().empty() ? lastWritten(footage.path()) : lastWrittenOf(footage.madeFrom());
}

}  // namespace

Sources::Sources(std::shared_ptr<FrameFeed> footage, int decoderThreads)
    : footage_(footage->footagePointer()),
      budget_(footage->budget()),
      threads_(decoderThreads),
      loudness_(std::make_unique<LoudnessCourses>(budget_)),
      own_(std::move(footage)),
      closing_(std::make_unique<Closing>()) {}

Sources::Sources(std::shared_ptr<const Footage> footage, std::shared_ptr<MemoryBudget> budget, int decoderThreads,
                 std::size_t feedBytes)
    : footage_(std::move(footage)),
      budget_(std::move(budget)),
      threads_(decoderThreads),
      feedBytes_(feedBytes),
      loudness_(std::make_unique<LoudnessCourses>(budget_)),
      closing_(std::make_unique<Closing>()) {}

Sources::Sources(std::shared_ptr<Sources> shared, std::shared_ptr<const Footage> footage)
    : shared_(std::move(shared)), footage_(std::move(footage)), budget_(shared_->budget_), threads_(shared_->threads_) {}

Sources::~Sources() = default;

void Sources::know(const SourceUse& use, const std::shared_ptr<const Footage>& footage) {
  if (shared_) return shared_->know(use, footage);
  if (isFootage(use)) return;
  const std::scoped_lock lock(mutex_);
  const auto at = std::find_if(open_.begin(), open_.end(), [&](const Open& open) { return open.use == use; });
  if (at == open_.end()) open_.push_front({use, writtenOf(*footage), footage, nullptr});
}

std::shared_ptr<FrameFeed> Sources::feed() {
  if (shared_) {
    // What the others have under that name is this footage, unless its file has changed.
    auto same = shared_->feed(SourceUse{footage_->path(), footage_->rateAsked()}, {});
    const std::scoped_lock lock(mutex_);
    if (!own_) own_ = same ? *same : std::make_shared<FrameFeed>(footage_, MemoryBudget::part(budget_, budget_->limit() / partOfOne), threads_);
    return own_;
  }
  const std::scoped_lock lock(mutex_);
  if (!own_) own_ = std::make_shared<FrameFeed>(footage_, MemoryBudget::part(budget_, feedBytes_), threads_);
  return own_;
}

/// The same path is the same footage, unless it is to have another rate, which counts where it has none of its own.
bool Sources::isFootage(const SourceUse& use) const {
  if (use.path.empty()) return true;
  // What comes from a camera has no file.
  if (footage_->path().empty()) return false;
  const auto whole = [](const std::string& path) { return std::filesystem::absolute(path).lexically_normal(); };
  return (use.path == footage_->path() || whole(use.path) == whole(footage_->path())) &&
         (!footage_->hasFreeRate() || use.rate == footage_->rateAsked());
}

std::shared_ptr<FrameFeed> Sources::known(const SourceUse& use) {
  if (isFootage(use)) return feed();
  if (shared_) return shared_->known(use);
  const std::scoped_lock lock(mutex_);
  const auto at = std::find_if(open_.begin(), open_.end(), [&](const Open& open) { return open.use == use; });
  if (at == open_.end()) return nullptr;
  open_.splice(open_.begin(), open_, at);
  return at->feed;
}

Result<std::shared_ptr<FrameFeed>> Sources::feed(const SourceUse& use, std::stop_token stop) {
  if (auto feed = known(use)) return feed;
  return current(use, stop);
}

Result<std::shared_ptr<FrameFeed>> Sources::current(const SourceUse& use, std::stop_token stop) {
  if (isFootage(use)) return feed();
  if (shared_) return shared_->current(use, std::move(stop));
  auto footage = describe(use, stop);
  if (!footage) return footage.error();
  const std::scoped_lock lock(mutex_);
  const auto at = std::find_if(open_.begin(), open_.end(), [&](const Open& open) { return open.use == use; });
  if (at != open_.end() && at->feed) return at->feed;
  closeIdle();
  auto feed = std::make_shared<FrameFeed>(*footage, MemoryBudget::part(budget_, budget_->limit() / partOfOne), threads_);
  if (at != open_.end()) at->feed = feed;
  return feed;
}

Result<std::shared_ptr<const Footage>> Sources::describe(const SourceUse& use, std::stop_token stop) {
  if (isFootage(use)) return footage_;
  if (shared_) return shared_->describe(use, std::move(stop));
  const std::scoped_lock one(opening_);
  {
    const std::scoped_lock lock(mutex_);
    const auto at = std::find_if(open_.begin(), open_.end(), [&](const Open& open) { return open.use == use; });
    if (at != open_.end() && at->written == writtenOf(*at->footage)) {
      open_.splice(open_.begin(), open_, at);
      return at->footage;
    }
    if (at != open_.end()) open_.erase(at);
  }
  auto footage = openSource(use.path, {use.rate}, {}, std::move(stop));
  if (!footage) return footage.error();
  const auto written = writtenOf(**footage);
  const std::scoped_lock lock(mutex_);
  open_.push_front({use, written, *footage, nullptr});
  closeIdle();
  return footage;
}

/// With the lock held. A feed goes where nobody has it but this, the last used ones apart.
void Sources::closeIdle() {
  const std::size_t most = feedBytes_ > 0 ? mostIdleForwards : mostIdle;
  std::size_t idle = 0, known = 0;
  for (Open& open : open_)
    if (open.feed && open.feed.use_count() == 1 && ++idle > most) closing_->take(std::exchange(open.feed, nullptr));
  std::erase_if(open_, [&](const Open& open) { return ++known > mostKnown && !open.feed; });
}

void Sources::prefetch(std::vector<SourceFrames> soon) {
  const Sources& all = shared_ ? *shared_ : *this;
  const auto isKnown = [&](const SourceUse& use) {
    const std::scoped_lock lock(all.mutex_);
    return std::any_of(all.open_.begin(), all.open_.end(), [&](const Open& open) { return open.use == use; });
  };
  for (SourceFrames& some : soon) {
    auto feed = known(some.source);
    // What is known and comes soon is begun with.
    if (!feed && !some.frames.empty() && isKnown(some.source))
      if (auto begun = current(some.source, {})) feed = *begun;
    if (feed) feed->prefetch(std::move(some.frames), some.scale, some.layout);
  }
}

void SoonRead::add(const std::vector<SourceFrames>& reads) {
  for (const SourceFrames& some : reads) {
    auto at = std::find_if(all_.begin(), all_.end(), [&](const SourceFrames& one) { return one.source == some.source; });
    if (at == all_.end()) at = all_.insert(all_.end(), {some.source, {}, some.scale, some.layout});
    for (const std::int32_t frame : some.frames)
      if (std::find(at->frames.begin(), at->frames.end(), frame) == at->frames.end()) at->frames.push_back(frame);
  }
}

std::vector<std::string> Sources::findings() const {
  if (shared_) return shared_->findings();
  std::vector<std::string> all = loudness_->findings();
  const std::scoped_lock lock(mutex_);
  for (const Open& open : open_) {
    const Footage& footage = *open.footage;
    all.insert(all.end(), footage.warnings().begin(), footage.warnings().end());
    for (std::string& sentence : footage.faults().sentences(footage.name())) all.push_back(std::move(sentence));
  }
  return all;
}

}  // namespace molten

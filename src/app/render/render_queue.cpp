#include "app/render/render_queue.h"

#include <QFileInfo>
#include <algorithm>
#include <chrono>

#include "app/session/session.h"
#include "app/theme/parts.h"
#include "core/engine/kept_result.h"
#include "core/engine/project_footage.h"

namespace molten {

using State = RenderEntry::State;
using theme::shown;

namespace {

using Tell = std::function<void(const RenderProgress&)>;

Result<RenderOutline> rendered(RenderSettings job, const Tell& tell, const std::stop_token& stop) {
  if (!job.footage) {
    auto footage = openSource(job.project.source.path, {job.project.source.rate}, {}, stop);
    if (!footage) return footage.error();
    job.footage = std::move(*footage);
  }
  return render(job, tell, stop);
}

Result<RenderOutline> kept(const std::string& project, const RenderSettings& job, const Tell& tell, const std::stop_token& stop) {
  if (const auto done = keepResult(project, {job.memoryBytes, job.threads}, tell, stop); !done) return done.error();
  return RenderOutline();
}

}  // namespace

RenderQueue::RenderQueue(Session& session, QObject* parent) : QObject(parent), session_(session) {}

RenderQueue::~RenderQueue() {
  end();
}

void RenderQueue::keep(const QString& project, std::size_t memoryBytes) {
  RenderEntry entry{++newest_, {}, tr("Kept without loss, and read in place of the project until something in it changes")};
  entry.keeps = project;
  entry.job.memoryBytes = memoryBytes;
  entries_.push_back(std::move(entry));
  if (!busy()) return beginNext();
  emit changed();
}

void RenderQueue::add(RenderSettings job, const QString& summary) {
  entries_.push_back({++newest_, std::move(job), summary});
  if (!busy()) return beginNext();
  emit changed();
}

void RenderQueue::cancel(std::uint64_t number) {
  for (RenderEntry& entry : entries_) {
    if (entry.number != number) continue;
    if (entry.state == State::Waiting) entry.state = State::Cancelled;
    if (entry.state == State::Running) {
      entry.state = State::Cancelling;
      thread_.request_stop();
    }
  }
  emit changed();
}

void RenderQueue::remove(std::uint64_t number) {
  entries_.remove_if([&](const RenderEntry& entry) { return entry.number == number && entry.over(); });
  emit changed();
}

void RenderQueue::removeAllOver() {
  entries_.remove_if([](const RenderEntry& entry) { return entry.over(); });
  emit changed();
}

void RenderQueue::end() {
  for (RenderEntry& entry : entries_)
    if (entry.state == State::Waiting) entry.state = State::Cancelled;
  if (!running_) return;
  thread_ = {};
  running_->state = State::Cancelled;
  running_ = nullptr;
}

std::ptrdiff_t RenderQueue::waiting() const {
  return std::count_if(entries_.begin(), entries_.end(), [](auto& entry) { return entry.state == State::Waiting; });
}

bool RenderQueue::writes(const QString& path) const {
  const QString place = QFileInfo(path).absoluteFilePath();
  return std::any_of(entries_.begin(), entries_.end(), [&](const RenderEntry& entry) {
    return !entry.over() && QFileInfo(entry.path()).absoluteFilePath() == place;
  });
}

void RenderQueue::beginNext() {
  const auto next =
      std::find_if(entries_.begin(), entries_.end(), [](auto& entry) { return entry.state == State::Waiting; });
  if (next == entries_.end()) {
    running_ = nullptr;
    emit busyChanged(false);
    return emit changed();
  }
  const bool wasBusy = busy();
  running_ = &*next;
  running_->state = State::Running;
  // What has been opened since it was asked for is not written over either.
  running_->job.open = session_.whole();
  if (!wasBusy) emit busyChanged(true);
  emit changed();
  thread_ = std::jthread([this, job = running_->job, keeps = running_->keeps.toStdString()](std::stop_token stop) {
    using Clock = std::chrono::steady_clock;
    Clock::time_point told{};
    const auto tell = [&](const RenderProgress& progress) {
      if (progress.done < progress.total && Clock::now() - told < std::chrono::milliseconds(60)) return;
      told = Clock::now();
      inbox_.post([this, progress] { progressed(progress); });
    };
    const auto result = keeps.empty() ? rendered(job, tell, stop) : kept(keeps, job, tell, stop);
    inbox_.post([this, result] { ended(result); });
  });
}

void RenderQueue::progressed(const RenderProgress& progress) {
  if (!running_) return;
  running_->progress = progress;
  emit changed();
}

void RenderQueue::ended(const Result<RenderOutline>& result) {
  // What was called off by end() may still have had something to say.
  if (!running_) return;
  RenderEntry& entry = *running_;
  if (result) {
    entry.state = State::Written;
    QStringList met;
    for (const auto& finding : result->findings) met << shown(finding);
    entry.sentence = met.join('\n');
    // The footage is not held any longer than it is needed.
    entry.job.footage.reset();
  } else {
    entry.state = result.error().cancelled ? State::Cancelled : State::Failed;
    if (!result.error().cancelled) entry.sentence = shown(result.error().message);
  }
  const RenderEntry told = entry;
  beginNext();
  emit over(told);
}

}  // namespace molten

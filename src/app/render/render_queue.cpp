#include "app/render/render_queue.h"

#include <QFileInfo>
#include <algorithm>

#include "app/session/session.h"
#include "app/theme/parts.h"

namespace molten {

using State = RenderEntry::State;
using Stored = StoredRender::State;
using theme::shown;

namespace {

/// How often what others do to the list is looked at, in milliseconds.
constexpr int often = 1000;

State stateOf(Stored state) {
  switch (state) {
    case Stored::Waiting: return State::Waiting;
    case Stored::Running: return State::Running;
    case Stored::Paused: return State::Paused;
    case Stored::Written: return State::Written;
    case Stored::Cancelled: return State::Cancelled;
    case Stored::Failed: return State::Failed;
  }
  return State::Failed;
}

void take(RenderEntry& entry, const StoredRender& stored) {
  entry.state = stateOf(stored.state);
  entry.progress = stored.progress;
  entry.sentence = shown(stored.sentence);
}

std::string folderOf(const QString& folder) {
  return folder.isEmpty() ? RenderStore::usualFolder() : folder.toStdString();
}

}  // namespace

RenderQueue::RenderQueue(Session& session, const QString& folder, QObject* parent)
    : QObject(parent),
      session_(session),
      hands_(std::make_unique<QueueHands>(
          folderOf(folder), QueueHands::Asks{[this](const StoredRender& render) { inbox_.post([this, render] { told(render); }); },
                                             [this] { inbox_.post([this] { hands_->open(session_.whole()); }); },
                                             [this] { inbox_.postThrown(); }})) {
  connect(&looking_, &QTimer::timeout, this, &RenderQueue::look);
  looking_.start(often);
  look();
}

RenderQueue::~RenderQueue() {
  end();
}

void RenderQueue::end() {
  looking_.stop();
  hands_->stopRendering();
}

RenderEntry* RenderQueue::withNumber(std::uint64_t number) {
  const auto at = std::find_if(entries_.begin(), entries_.end(), [&](auto& one) { return one.number == number; });
  return at == entries_.end() ? nullptr : &*at;
}

RenderEntry* RenderQueue::withId(const std::string& id) {
  const auto at = std::find_if(entries_.begin(), entries_.end(), [&](auto& one) { return one.id == id; });
  return at == entries_.end() ? nullptr : &*at;
}

void RenderQueue::keep(const QString& project) {
  RenderEntry entry;
  entry.summary = tr("Kept without loss, and read in place of the project until something in it changes");
  entry.keeps = project;
  put(std::move(entry));
}

void RenderQueue::add(RenderSettings job, const QString& summary) {
  RenderEntry entry;
  entry.job = std::move(job);
  entry.summary = summary;
  put(std::move(entry));
}

void RenderQueue::put(RenderEntry entry) {
  entry.number = ++newest_;
  StoredRender stored;
  stored.job = entry.job;
  stored.summary = entry.summary.toStdString();
  stored.keeps = entry.keeps.toStdString();
  ++asked_;
  hands_->change([this, stored, number = entry.number](RenderStore& store) {
    const auto id = store.add(stored);
    if (id && stored.job.footage) hands_->lend(*id, stored.job.footage);
    hands_->poke();
    inbox_.post([this, id, number] {
      RenderEntry* const here = withNumber(number);
      if (!here) return;
      if (id) {
        here->id = *id;
        // It was called off before it was there.
        if (here->over()) set(number, State::Cancelled, Stored::Cancelled);
        return;
      }
      here->state = State::Failed;
      here->sentence = shown(id.error().message);
      const RenderEntry failed = *here;
      tellAll();
      emit over(failed);
    });
  });
  entries_.push_back(std::move(entry));
  tellAll();
}

void RenderQueue::set(std::uint64_t number, State state, Stored stored) {
  RenderEntry* const entry = withNumber(number);
  if (!entry) return;
  const bool ran = std::exchange(entry->state, state) == State::Running;
  ++asked_;
  if (!entry->id.empty())
    hands_->change([this, id = entry->id, stored, ran](RenderStore& store) {
      (void)store.change(id, [&](StoredRender& one) { one.state = stored; });
      if (stored == Stored::Cancelled) hands_->lend(id, nullptr);
      // Whoever renders looks at the list; this process is told at once.
      ran ? hands_->interrupt() : hands_->poke();
    });
  tellAll();
}

void RenderQueue::cancel(std::uint64_t number) {
  const RenderEntry* const entry = withNumber(number);
  if (!entry || entry->over() || entry->state == State::Cancelling) return;
  if (entry->state != State::Running) return set(number, State::Cancelled, Stored::Cancelled);
  set(number, State::Cancelling, Stored::Cancelled);
}

void RenderQueue::pause(std::uint64_t number) {
  const RenderEntry* const entry = withNumber(number);
  if (entry && (entry->state == State::Running || entry->state == State::Waiting)) set(number, State::Paused, Stored::Paused);
}

void RenderQueue::resume(std::uint64_t number) {
  const RenderEntry* const entry = withNumber(number);
  if (entry && (entry->state == State::Paused || (entry->over() && entry->state != State::Written))) set(number, State::Waiting, Stored::Waiting);
}

void RenderQueue::move(std::uint64_t number, int by) {
  const auto at = std::find_if(entries_.begin(), entries_.end(), [&](auto& one) { return one.number == number; });
  if (at == entries_.end() || at->over() || at->id.empty()) return;
  auto other = at;
  do {
    if (by < 0 ? other == entries_.begin() : std::next(other) == entries_.end()) return;
    std::advance(other, by);
  } while (other->over());
  ++asked_;
  hands_->change([id = at->id, by](RenderStore& store) { (void)store.move(id, by); });
  entries_.splice(by < 0 ? other : std::next(other), entries_, at);
  tellAll();
}

void RenderQueue::remove(std::uint64_t number) {
  const RenderEntry* const entry = withNumber(number);
  if (!entry || !entry->over()) return;
  ++asked_;
  hands_->change([id = entry->id](RenderStore& store) { (void)store.remove(id); });
  entries_.remove_if([&](const RenderEntry& one) { return one.number == number; });
  tellAll();
}

void RenderQueue::removeAllOver() {
  std::vector<std::uint64_t> gone;
  for (const RenderEntry& entry : entries_)
    if (entry.over()) gone.push_back(entry.number);
  for (const std::uint64_t number : gone) remove(number);
}

bool RenderQueue::busy() const {
  return std::any_of(entries_.begin(), entries_.end(), [](auto& one) { return !one.over() && one.state != State::Paused; });
}

std::ptrdiff_t RenderQueue::waiting() const {
  return std::count_if(entries_.begin(), entries_.end(), [](auto& one) { return one.state == State::Waiting; });
}

const RenderEntry* RenderQueue::running() const {
  const auto at = std::find_if(entries_.begin(), entries_.end(), [](auto& one) { return one.state == State::Running || one.state == State::Cancelling; });
  return at == entries_.end() ? nullptr : &*at;
}

bool RenderQueue::writes(const QString& path) const {
  const QString place = QFileInfo(path).absoluteFilePath();
  return std::any_of(entries_.begin(), entries_.end(), [&](const RenderEntry& entry) {
    return !entry.over() && QFileInfo(entry.path()).absoluteFilePath() == place;
  });
}

void RenderQueue::told(const StoredRender& render) {
  RenderEntry* const entry = withId(render.id);
  if (!entry) return look();
  // What was asked for meanwhile is what is shown until it is so.
  const bool goesOn = render.state == Stored::Running || render.state == Stored::Waiting;
  if (goesOn && (entry->state == State::Cancelling || entry->state == State::Paused || entry->over())) return;
  take(*entry, render);
  if (entry->state == State::Written) entry->job.footage.reset();  // not held longer than it is needed
  const RenderEntry now = *entry;
  tellAll();
  if (now.over()) emit over(now);
}

void RenderQueue::look() {
  hands_->change([this, asked = asked_](RenderStore& store) {
    auto list = store.all();
    if (std::any_of(list.begin(), list.end(), [](auto& one) { return one.state == Stored::Waiting; })) hands_->poke();
    inbox_.post([this, list = std::move(list), asked] { found(list, asked); });
  });
}

void RenderQueue::found(const std::vector<StoredRender>& list, std::uint64_t asked) {
  if (asked != asked_) return;
  bool differs = false;
  entries_.remove_if([&](const RenderEntry& entry) {
    const bool gone = !entry.id.empty() && std::none_of(list.begin(), list.end(), [&](auto& one) { return one.id == entry.id; });
    differs = differs || gone;
    return gone;
  });
  for (const StoredRender& one : list) {
    RenderEntry* entry = withId(one.id);
    if (!entry) {
      RenderEntry made;
      made.number = ++newest_;
      made.id = one.id;
      made.job = one.job;
      made.summary = shown(one.summary);
      made.keeps = shown(one.keeps);
      entries_.push_back(std::move(made));
      take(entries_.back(), one);
      differs = true;
    } else if (!entry->over() && entry->state != State::Cancelling && entry != running() && entry->state != stateOf(one.state)) {
      take(*entry, one);
      differs = true;
    }
  }
  if (differs) tellAll();
}

void RenderQueue::tellAll() {
  if (const bool now = running() != nullptr; std::exchange(wasBusy_, now) != now) emit busyChanged(now);
  emit changed();
}

}  // namespace molten

#include "app/render/queue_hands.h"

#include <algorithm>
#include <chrono>

namespace molten {

QueueHands::QueueHands(std::string folder, Asks asks)
    : asks_(std::move(asks)),
      store_(std::move(folder)),
      changing_([this](std::stop_token stop) { changeAll(stop); }),
      rendering_([this](std::stop_token stop) { renderAll(stop); }) {}

QueueHands::~QueueHands() {
  stopRendering();
  changing_.request_stop();
  wake();
}

void QueueHands::wake() {
  const std::scoped_lock lock(mutex_);
  changed_.notify_all();
}

void QueueHands::change(std::function<void(RenderStore&)> act) {
  const std::scoped_lock lock(mutex_);
  changes_.push_back(std::move(act));
  changed_.notify_all();
}

void QueueHands::lend(const std::string& id, std::shared_ptr<const Footage> footage) {
  const std::scoped_lock lock(mutex_);
  if (footage)
    lent_[id] = std::move(footage);
  else
    lent_.erase(id);
}

void QueueHands::open(std::optional<Project> project) {
  const std::scoped_lock lock(mutex_);
  open_ = std::move(project);
  changed_.notify_all();
}

void QueueHands::setHeld(bool held) {
  const std::scoped_lock lock(mutex_);
  held_ = held;
  changed_.notify_all();
}

void QueueHands::setMemory(std::size_t bytes) {
  const std::scoped_lock lock(mutex_);
  memory_ = bytes;
}

void QueueHands::interrupt() {
  const std::scoped_lock lock(mutex_);
  if (round_) round_->request_stop();
}

void QueueHands::stopRendering() {
  rendering_.request_stop();
  interrupt();
  wake();
  if (rendering_.joinable()) rendering_.join();
}

/// What was asked for is done even when the window goes.
void QueueHands::changeAll(const std::stop_token& stop) {
  for (;;) {
    std::function<void(RenderStore&)> act;
    {
      std::unique_lock lock(mutex_);
      changed_.wait(lock, stop, [&] { return !changes_.empty(); });
      if (changes_.empty()) return;
      act = std::move(changes_.front());
      changes_.pop_front();
    }
    try {
      act(store_);
    } catch (...) {
      asks_.thrown();
    }
  }
}

void QueueHands::poke() {
  const std::scoped_lock lock(mutex_);
  poked_ = true;
  changed_.notify_all();
}

std::optional<Project> QueueHands::whatIsOpen(const std::stop_token& stop) {
  {
    const std::scoped_lock lock(mutex_);
    open_.reset();
  }
  asks_.open();
  std::unique_lock lock(mutex_);
  changed_.wait(lock, stop, [&] { return open_.has_value(); });
  return open_ ? *open_ : std::nullopt;
}

void QueueHands::renderAll(const std::stop_token& stop) {
  for (;;) {
    std::stop_source round;
    RunnerMachine machine;
    {
      std::unique_lock lock(mutex_);
      changed_.wait(lock, stop, [&] { return poked_; });
      if (stop.stop_requested()) return;
      poked_ = false;
      round_ = round;
      machine.memoryBytes = memory_;
    }
    const std::stop_callback ends(stop, [&round] { round.request_stop(); });
    machine.threads = static_cast<int>(std::max(1u, std::thread::hardware_concurrency()));
    machine.open = [&] { return whatIsOpen(round.get_token()); };
    machine.footage = [this](const StoredRender& render) {
      const std::scoped_lock lock(mutex_);
      const auto lent = lent_.extract(render.id);
      return lent.empty() ? nullptr : lent.mapped();
    };
    machine.hold = [this](const std::stop_token& token) {
      std::unique_lock lock(mutex_);
      changed_.wait(lock, token, [&] { return !held_; });
    };
    try {
      (void)runRenders(store_, machine, asks_.told, round.get_token());
    } catch (...) {
      asks_.thrown();
    }
    const std::scoped_lock lock(mutex_);
    round_.reset();
    // One was called off, and the others wait still.
    if (round.stop_requested() && !stop.stop_requested()) poked_ = true;
  }
}

}  // namespace molten

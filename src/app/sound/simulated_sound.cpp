#include <chrono>
#include <condition_variable>
#include <deque>
#include <thread>

#include "app/sound/sound_device.h"

namespace molten {
namespace {

using Clock = std::chrono::steady_clock;

/// Samples that are asked for at a time.
constexpr std::size_t period = soundRate / 100;
constexpr std::size_t periodsKept = 60 * 100;

std::mutex keeping;
std::deque<SimulatedSound::Given>& kept() {
  static std::deque<SimulatedSound::Given> all;
  return all;
}

}  // namespace

struct SimulatedSound::Run {
  Clock::time_point begun = Clock::now();
  std::jthread thread;
};

SimulatedSound::SimulatedSound(double latency) : latency_(latency) {}

SimulatedSound::~SimulatedSound() {
  stop();
}

Status SimulatedSound::start(Fill fill) {
  stop();
  {
    const std::scoped_lock lock(keeping);
    kept().clear();
  }
  run_ = std::make_unique<Run>();
  run_->thread = std::jthread([fill = std::move(fill), begun = run_->begun](std::stop_token stop) {
    std::mutex mutex;
    std::condition_variable_any never;
    for (std::int64_t n = 0; !stop.stop_requested(); ++n) {
      Given given{static_cast<double>(n) * period / soundRate, Sound(period)};
      fill(given.sound.values());
      {
        const std::scoped_lock lock(keeping);
        kept().push_back(std::move(given));
        if (kept().size() > periodsKept) kept().pop_front();
      }
      // The next one is asked for when this one has come so near to being heard as the device is long.
      const auto next = begun + std::chrono::duration_cast<Clock::duration>(
                                    std::chrono::duration<double>(static_cast<double>(n + 1) * period / soundRate));
      std::unique_lock lock(mutex);
      never.wait_until(lock, stop, next, [] { return false; });
    }
  });
  return {};
}

void SimulatedSound::stop() {
  run_.reset();
}

double SimulatedSound::heard() const {
  if (!run_) return 0;
  return std::chrono::duration<double>(Clock::now() - run_->begun).count() - latency_;
}

std::vector<SimulatedSound::Given> SimulatedSound::given() {
  const std::scoped_lock lock(keeping);
  return {kept().begin(), kept().end()};
}

}  // namespace molten

#include "app/sound/sounding.h"

#include <algorithm>
#include <cmath>

#include "core/sound/tape.h"

namespace molten {
namespace {

using Clock = std::chrono::steady_clock;

/// Samples that are mixed at a time, and ahead of what is given; that go on as they were after a change; over which the new
/// comes in; of a grain.
constexpr std::size_t lot = 1024;
constexpr std::int64_t mixedAhead = soundRate / 3, keptThroughChange = soundRate / 25, blendedOver = soundRate / 100;
constexpr double grainSeconds = 0.08;
/// So many are there before the device begins.
constexpr std::int64_t mixedFirst = 4 * static_cast<std::int64_t>(lot);
/// Seconds that are told until then.
constexpr double notBegun = -0.1;
/// What has been given is kept so long, to tell how loud it is when it is heard.
constexpr std::int64_t toldOf = soundRate / 2;
/// Seconds for which a level is told.
constexpr double levelHeld = 0.05;

SoundCurve curveOf(const SoundRun& run) {
  return SoundCurve([run](double seconds) { return run.at(run.begin + run.speed * seconds); });
}

}  // namespace

double SoundRun::at(double moment) const {
  const double length = to - from;
  if (!loop || length <= 0) return moment < from || moment >= to ? std::nan("") : moment;
  const double within = std::fmod(moment - from, length);
  return from + (within < 0 ? within + length : within);
}

Sounding::Sounding(std::unique_ptr<SoundDevice> device, Failed failed) : device_(std::move(device)), failed_(std::move(failed)) {
  thread_ = std::jthread([this](std::stop_token stop) { work(std::move(stop)); });
}

Sounding::~Sounding() {
  thread_.request_stop();
  {
    const std::scoped_lock lock(mutex_);
    mixing_.request_stop();
  }
  thread_.join();
  device_->stop();
}

/// With the lock held.
void Sounding::begin(const SoundRun& run) {
  run_ = run;
  ++runNumber_;
  origin_ = given_ = 0;
  ahead_.clear(), behind_.clear();
  blending_.reset();
  anew_ = true;
  if (byClock_) byClock_ = Clock::now();
  mixing_.request_stop();
  changed_.notify_all();
}

void Sounding::play(const SoundRun& run) {
  const std::scoped_lock lock(mutex_);
  begin(run);
  grains_ = false;
}

void Sounding::change(const SoundRun& run) {
  const std::scoped_lock lock(mutex_);
  if (!run_) return;
  // Where nothing has been heard yet there is nothing to go on from.
  if (anew_) return begin(run);
  run_ = run;
  ++runNumber_;
  const std::int64_t from = given_ + keptThroughChange;
  blending_.reset();
  while (!ahead_.empty() && ahead_.back().first >= from + blendedOver) ahead_.pop_back();
  // What goes on after the change is kept apart, and fades out.
  std::vector<float> tail;
  std::int64_t tailFirst = from;
  while (!ahead_.empty() && ahead_.back().first + static_cast<std::int64_t>(ahead_.back().sound.samples()) > from) {
    Block last = std::move(ahead_.back());
    ahead_.pop_back();
    const std::int64_t stays = std::max<std::int64_t>(0, from - last.first);
    const std::span<const float> values = last.sound.values();
    tail.insert(tail.begin(), values.begin() + stays * soundChannels, values.end());
    tailFirst = last.first + stays;
    if (stays == 0) continue;
    Block kept{last.first, Sound(static_cast<std::size_t>(stays))};
    std::copy_n(values.begin(), stays * soundChannels, kept.sound.values().begin());
    ahead_.push_back(std::move(kept));
    break;
  }
  if (!tail.empty()) {
    blending_ = Block{tailFirst, Sound(tail.size() / soundChannels)};
    std::copy(tail.begin(), tail.end(), blending_->sound.values().begin());
  }
  mixing_.request_stop();
  changed_.notify_all();
}

void Sounding::grain(const std::shared_ptr<const Heard>& heard, double seconds) {
  SoundRun run{heard, seconds, 1, seconds, seconds + grainSeconds, false};
  {
    const std::scoped_lock lock(mutex_);
    if (!run_ || !grains_ || anew_) {
      begin(run);
      grains_ = true;
      return;
    }
    // It begins where what is on its way ends.
    run.begin -= static_cast<double>(given_ + keptThroughChange - origin_) / soundRate;
  }
  change(run);
}

void Sounding::stop() {
  const std::scoped_lock lock(mutex_);
  run_.reset();
  ++runNumber_;
  grains_ = anew_ = false;
  ahead_.clear(), behind_.clear();
  blending_.reset();
  mixing_.request_stop();
  changed_.notify_all();
}

bool Sounding::sounds() const {
  const std::scoped_lock lock(mutex_);
  return run_.has_value();
}

double Sounding::seconds() const {
  const std::scoped_lock lock(mutex_);
  if (byClock_) return std::chrono::duration<double>(Clock::now() - *byClock_).count();
  return anew_ || state_ != DeviceState::Plays ? notBegun : device_->heard();
}

SoundLevels Sounding::levels() const {
  const double now = seconds();
  const std::scoped_lock lock(mutex_);
  const auto to = static_cast<std::int64_t>(now * soundRate), from = to - static_cast<std::int64_t>(levelHeld * soundRate);
  SoundLevels levels;
  for (const Block& block : behind_)
    for (std::size_t i = 0; i < block.sound.samples(); ++i) {
      const std::int64_t at = block.first + static_cast<std::int64_t>(i);
      if (at < from || at >= to) continue;
      levels.left = std::max(levels.left, std::abs(block.sound.at(i, 0)));
      levels.right = std::max(levels.right, std::abs(block.sound.at(i, 1)));
    }
  return levels;
}

void Sounding::waitUntilMixed() {
  std::unique_lock lock(mutex_);
  changed_.wait(lock, [&] { return !run_ || (!anew_ && state_ == DeviceState::Plays && mixedUntil() >= given_ + mixedAhead); });
}

std::int64_t Sounding::mixedUntil() const {
  return ahead_.empty() ? given_ : std::max(given_, ahead_.back().first + static_cast<std::int64_t>(ahead_.back().sound.samples()));
}

int Sounding::gaps() const {
  const std::scoped_lock lock(mutex_);
  return gaps_;
}

/// On the device's thread.
void Sounding::fill(Sound& out) {
  const std::scoped_lock lock(mutex_);
  std::fill(out.values().begin(), out.values().end(), 0.0f);
  // What is still asked for of a run that has ended, or will begin anew, is nobody's.
  if (!run_ || anew_) return;
  const std::int64_t last = given_ + static_cast<std::int64_t>(out.samples());
  std::int64_t there = given_;
  for (const Block& block : ahead_) {
    const std::int64_t a = std::max(given_, block.first),
                       b = std::min(last, block.first + static_cast<std::int64_t>(block.sound.samples()));
    if (a >= b) continue;
    std::copy_n(block.sound.values().begin() + (a - block.first) * soundChannels, (b - a) * soundChannels,
                out.values().begin() + (a - given_) * soundChannels);
    there = b;
  }
  if (there < last) ++gaps_;
  behind_.push_back({given_, out});
  given_ = last;
  while (!ahead_.empty() && ahead_.front().first + static_cast<std::int64_t>(ahead_.front().sound.samples()) <= given_)
    ahead_.pop_front();
  while (!behind_.empty() && behind_.front().first < given_ - toldOf) behind_.pop_front();
  changed_.notify_all();
}

void Sounding::work(std::stop_token stop) {
  std::unique_lock lock(mutex_);
  const auto mixes = [&] { return run_ && mixedUntil() < given_ + mixedAhead; };
  const auto starts = [&] { return run_ && anew_ && !byClock_ && mixedUntil() >= given_ + mixedFirst; };
  const auto rests = [&] { return !run_ && state_ == DeviceState::Plays; };
  while (!stop.stop_requested()) {
    changed_.wait(lock, stop, [&] { return mixes() || starts() || rests(); });
    if (stop.stop_requested()) return;
    if (starts())
      startDevice(lock);
    else if (rests())
      restDevice(lock);
    else if (mixes())
      mixNext(lock);
  }
}

/// With the lock held before and after.
void Sounding::startDevice(std::unique_lock<std::mutex>& lock) {
  const std::uint64_t number = runNumber_;
  const bool played = state_ == DeviceState::Plays;
  state_ = DeviceState::Begins;
  lock.unlock();
  if (played) device_->stop();
  lock.lock();
  if (number != runNumber_) return;
  anew_ = false;
  lock.unlock();
  auto begun = device_->start([this](Sound& out) { fill(out); });
  lock.lock();
  state_ = DeviceState::Plays;
  changed_.notify_all();
  if (begun) return;
  byClock_ = Clock::now();
  lock.unlock();
  if (failed_) failed_(begun.error());
  lock.lock();
}

/// Likewise.
void Sounding::restDevice(std::unique_lock<std::mutex>& lock) {
  // Nobody asks it for its time any more.
  state_ = DeviceState::Rests;
  lock.unlock();
  device_->stop();
  lock.lock();
}

/// Likewise.
void Sounding::mixNext(std::unique_lock<std::mutex>& lock) {
  // Where the device has caught up, what would be late before it is mixed is left out.
  const bool late = ahead_.empty() && given_ > 0;
  const std::int64_t at = mixedUntil() + (late ? static_cast<std::int64_t>(lot) / 2 : 0);
  const SoundRun run = *run_;
  const std::uint64_t number = runNumber_;
  const std::int64_t origin = origin_;
  mixing_ = std::stop_source();
  const std::stop_token calledOff = mixing_.get_token();
  lock.unlock();
  Sound sound(lot);
  // What cannot be read is silent; it is said elsewhere.
  static_cast<void>(tape(curveOf(run), *run.heard->mix, at - origin, sound, calledOff));
  lock.lock();
  if (number != runNumber_) return;
  if (blending_) {
    const Block& old = *blending_;
    for (std::size_t i = 0; i < sound.samples(); ++i) {
      const std::int64_t within = at + static_cast<std::int64_t>(i) - old.first;
      if (within < 0 || within >= static_cast<std::int64_t>(old.sound.samples())) continue;
      const float comes = std::min(1.0f, (static_cast<float>(within) + 0.5f) / static_cast<float>(blendedOver));
      for (int c = 0; c < soundChannels; ++c)
        sound.at(i, c) = sound.at(i, c) * comes + old.sound.at(static_cast<std::size_t>(within), c) * (1 - comes);
    }
    if (at + static_cast<std::int64_t>(lot) >= old.first + static_cast<std::int64_t>(old.sound.samples())) blending_.reset();
  }
  ahead_.push_back({at, std::move(sound)});
  changed_.notify_all();
}

}  // namespace molten

#include "app/sound/sounding.h"

#include <algorithm>
#include <cmath>

#include "core/sound/tape.h"
#include "core/thrown.h"

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
/// How often what the device has taken is looked at.
constexpr std::chrono::milliseconds lookedAt{10};
static_assert(mixedAhead + soundRate / 2 < SoundStream::held, "what has been given is told of for half a second");
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
  origin_ = 0;
  stream_->end();
  stream_ = std::make_shared<SoundStream>();
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
  // What goes on for a moment after the change is kept apart, and fades out.
  const std::int64_t from = stream_->given() + keptThroughChange, until = std::min(stream_->mixed(), from + blendedOver);
  blending_.reset();
  if (until > from) {
    blending_ = Block{from, Sound(static_cast<std::size_t>(until - from))};
    for (std::size_t i = 0; i < blending_->sound.samples(); ++i)
      for (int c = 0; c < soundChannels; ++c) blending_->sound.at(i, c) = stream_->at(from + static_cast<std::int64_t>(i), c);
    stream_->cutBack(from);
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
    run.begin -= static_cast<double>(stream_->given() + keptThroughChange - origin_) / soundRate;
  }
  change(run);
}

void Sounding::stop() {
  const std::scoped_lock lock(mutex_);
  run_.reset();
  ++runNumber_;
  grains_ = anew_ = false;
  stream_->end();
  stream_ = std::make_shared<SoundStream>();
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
  for (std::int64_t at = std::max<std::int64_t>(0, from); at < std::min(to, stream_->given()); ++at) {
    levels.left = std::max(levels.left, std::abs(stream_->at(at, 0)));
    levels.right = std::max(levels.right, std::abs(stream_->at(at, 1)));
  }
  return levels;
}

void Sounding::waitUntilMixed() {
  std::unique_lock lock(mutex_);
  changed_.wait(lock, [&] { return !run_ || (!anew_ && state_ == DeviceState::Plays && mixedUntil() >= stream_->given() + mixedAhead); });
}

std::int64_t Sounding::mixedUntil() const {
  return std::max(stream_->given(), stream_->mixed());
}

int Sounding::gaps() const {
  const std::scoped_lock lock(mutex_);
  return stream_->gaps();
}

void Sounding::work(std::stop_token stop) {
  std::unique_lock lock(mutex_);
  const auto mixes = [&] { return run_ && mixedUntil() < stream_->given() + mixedAhead; };
  const auto starts = [&] { return run_ && anew_ && !byClock_ && mixedUntil() >= stream_->given() + mixedFirst; };
  const auto rests = [&] { return !run_ && state_ == DeviceState::Plays; };
  while (!stop.stop_requested()) {
    // The device takes samples without a word: what it has taken is looked at often enough.
    const auto called = [&] { return mixes() || starts() || rests(); };
    if (run_)
      changed_.wait_for(lock, stop, lookedAt, called);
    else
      changed_.wait(lock, stop, called);
    if (stop.stop_requested()) return;
    try {
      if (starts())
        startDevice(lock);
      else if (rests())
        restDevice(lock);
      else if (mixes())
        mixNext(lock);
    } catch (...) {
      const Error thrown = thrownError();
      if (!lock.owns_lock()) lock.lock();
      // Pictures go on by the clock.
      run_.reset();
      byClock_ = Clock::now();
      lock.unlock();
      if (failed_) failed_(thrown);
      lock.lock();
    }
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
  const auto stream = stream_;
  lock.unlock();
  auto begun = device_->start([stream](std::span<float> out) { stream->read(out); });
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
  const bool late = stream_->given() > 0 && stream_->mixed() <= stream_->given();
  const std::int64_t at = mixedUntil() + (late ? static_cast<std::int64_t>(lot) / 2 : 0);
  const SoundRun run = *run_;
  const std::uint64_t number = runNumber_;
  const std::int64_t origin = origin_;
  mixing_ = std::stop_source();
  const std::stop_token calledOff = mixing_.get_token();
  lock.unlock();
  Sound sound(lot);
  const Status mixed = tape(curveOf(run), *run.heard->mix, at - origin, sound, calledOff);
  if (!mixed && !mixed.error().cancelled && failed_ && std::exchange(told_, mixed.error().message) != mixed.error().message)
    failed_({mixed.error().message + " It is silent there."});
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
  stream_->write(at, sound.values());
  changed_.notify_all();
}

}  // namespace molten

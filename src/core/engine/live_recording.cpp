#include "core/engine/live_recording.h"
#include "core/thrown.h"

#include <algorithm>
#include <cmath>

namespace molten {
namespace {

/// Seconds of pictures that wait for the encoder.
constexpr double mostBehind = 1;
/// What one recording may leave to be held by a camera that is gone: no picture stands longer. In seconds.
constexpr double longestStand = 3600;

}  // namespace

LiveRecording::LiveRecording(std::string path)
    : path_(std::move(path)), thread_([this] { write(); }) {}

LiveRecording::~LiveRecording() {
  (void)finish();
}

void LiveRecording::add(const Picture& picture, std::int64_t number, Rational rate) {
  const std::scoped_lock lock(mutex_);
  if (ending_ || state_.failed) return;
  if (static_cast<double>(waiting_.size()) >= std::max(4.0, rate.toDouble() * mostBehind)) {
    ++state_.leftOut;
    return;
  }
  waiting_.push_back({picture, number, rate});
  changed_.notify_all();
}

LiveRecording::State LiveRecording::state() const {
  const std::scoped_lock lock(mutex_);
  return state_;
}

Status LiveRecording::finish() {
  {
    const std::scoped_lock lock(mutex_);
    ending_ = true;
    changed_.notify_all();
  }
  if (thread_.joinable()) thread_.join();
  const std::scoped_lock lock(mutex_);
  if (state_.failed) return *state_.failed;
  return {};
}

Status LiveRecording::put(const Waiting& next) {
  if (!writer_) {
    shape_ = next.picture.shape();
    rate_ = next.rate;
    OutputSpec spec;
    spec.path = path_;
    spec.shape = shape_;
    spec.rate = rate_;
    spec.growing = true;
    spec.threads = 1;
    auto writer = PictureWriter::open(spec);
    if (!writer) return writer.error();
    writer_ = std::move(*writer);
  }
  Picture picture = next.picture;
  if (!(picture.shape() == shape_)) {
    auto converted = converter_.convert(picture, shape_);
    if (!converted) return converted.error();
    picture = std::move(*converted);
  }
  const std::int64_t number = next.rate == rate_ ? next.number : (Rational(next.number) * rate_ / next.rate).floor();
  if (last_) {
    const std::int64_t ahead = number - *last_;
    if (ahead < 1) return {};
    writer_->stand(std::min(ahead - 1, static_cast<std::int64_t>(longestStand * rate_.toDouble())));
  }
  last_ = number;
  if (!first_) first_ = number;
  return writer_->write(picture);
}

void LiveRecording::write() {
  for (;;) {
    Waiting next;
    {
      std::unique_lock lock(mutex_);
      changed_.wait(lock, [&] { return ending_ || !waiting_.empty(); });
      if (waiting_.empty()) break;
      next = std::move(waiting_.front());
      waiting_.pop_front();
    }
    const Status done = orThrown([&] { return put(next); });
    const std::scoped_lock lock(mutex_);
    if (!done) {
      state_.failed = done.error();
      waiting_.clear();
      break;
    }
    ++state_.pictures;
    state_.seconds = static_cast<double>(*last_ - *first_ + 1) / rate_.toDouble();
  }
  if (!writer_) return;
  const Status finished = orThrown([&]() -> Status { return writer_->finish(); });
  const std::scoped_lock lock(mutex_);
  if (!finished && !state_.failed) state_.failed = finished.error();
}

Status keepAsClip(const std::vector<LiveRing::Kept>& frames, Rational rate, OutputSpec spec, const Progress& progress, std::stop_token stop) {
  if (frames.empty()) return Error{"The camera has given no picture yet; there is nothing to keep."};
  spec.rate = rate;
  spec.shape = frames.front().frame->layout().shape();
  auto writer = PictureWriter::open(spec);
  if (!writer) return writer.error();
  const auto all = static_cast<double>(frames.back().place - frames.front().place + 1);
  for (std::size_t i = 0; i < frames.size(); ++i) {
    const std::int64_t next = i + 1 < frames.size() ? frames[i + 1].place : frames[i].place + 1;
    const Picture picture = frames[i].frame->picture();
    // What was lost shows the frame before.
    for (std::int64_t n = frames[i].place; n < next; ++n) {
      if (stop.stop_requested()) return cancelledError();
      if (auto put = (*writer)->write(picture); !put) return put;
      if (progress) progress(static_cast<double>(n - frames.front().place + 1) / all);
    }
  }
  return (*writer)->finish();
}

}  // namespace molten

#include "core/engine/delivery.h"

#include <algorithm>
#include <chrono>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <thread>

#include "core/engine/evaluator.h"
#include "core/engine/forward_feed.h"
#include "core/engine/time_left.h"
#include "core/stopwatch.h"
#include "core/thrown.h"

namespace molten {
namespace {

/// Pictures on their way from the assembling thread to the encoding one.
class Belt {
 public:
  /// Waits for room. False if there is no use in more.
  bool put(Picture picture) {
    std::unique_lock lock(mutex_);
    changed_.wait(lock, [&] { return pictures_.size() < room || failed_; });
    if (failed_) return false;
    pictures_.push_back(std::move(picture));
    changed_.notify_all();
    return true;
  }
  void close() {
    const std::scoped_lock lock(mutex_);
    closed_ = true;
    changed_.notify_all();
  }
  void fail() {
    const std::scoped_lock lock(mutex_);
    failed_ = true;
    changed_.notify_all();
  }
  /// Waits for a picture. None after close(), or fail().
  std::optional<Picture> take() {
    std::unique_lock lock(mutex_);
    changed_.wait(lock, [&] { return !pictures_.empty() || closed_ || failed_; });
    if (pictures_.empty() || failed_) return std::nullopt;
    Picture picture = std::move(pictures_.front());
    pictures_.pop_front();
    changed_.notify_all();
    return picture;
  }

 private:
  static constexpr std::size_t room = 3;
  std::mutex mutex_;
  std::condition_variable changed_;
  std::deque<Picture> pictures_;
  bool closed_ = false, failed_ = false;
};

/// A render's pictures, one after another: with only what is needed in memory, or where not even one picture's frames
/// fit the budget, in lots.
class PictureSource {
 public:
  PictureSource(const RenderSettings& settings, const PicturePlan& plan, std::shared_ptr<MemoryBudget> budget,
                std::shared_ptr<Sources> sources, std::int64_t count, ForwardFeed::Moments moments)
      : plan_(plan), count_(count), moments_(std::move(moments)), threads_(settings.threads) {
    if (!plan.mixing() && ForwardFeed::fits(plan.gather(), moments_, count, *budget)) {
      forward_.emplace(settings.footage, plan.gather(), moments_, count, std::move(budget), settings.threads);
    } else {
      lots_.emplace(std::move(sources), settings.threads);
      reserved_ = {std::move(budget), std::min(reserveOf(settings, plan), settings.memoryBytes / 2)};
    }
  }

  Result<Picture> picture(std::int64_t k, std::stop_token stop) {
    if (lots_) {
      prefetchAfter(k);
      return lots_->picture(plan_, moments_(k), stop);
    }
    auto table = forward_->take(k, stop);
    if (!table) return table.error();
    Picture out;
    threads_.run([&] {
      out = assembled(plan_.gather(), moments_(k), *table);
      if (plan_.worksOnPixels()) out = finished(out, plan_.worksAt(moments_(k)));
    });
    forward_->done(k);
    return out;
  }

 private:
  /// What is in memory besides frames: pictures on their way to the file, what the encoder makes of them, and what the
  /// decoder holds. In bytes.
  static std::size_t reserveOf(const RenderSettings& settings, const PicturePlan& plan) {
    constexpr std::size_t onTheWay = 7, ofDecoder = 12;
    return onTheWay * plan.shape().bytes() + ofDecoder * settings.footage->shape().bytes();
  }
  /// While this one is made, what the next ones read is decoded.
  void prefetchAfter(std::int64_t k) {
    constexpr std::int64_t ahead = 4;
    constexpr std::size_t most = 400;
    SoonRead soon(most);
    for (std::int64_t next = k + 1; next <= std::min(k + ahead, count_ - 1) && !soon.full(); ++next)
      soon.add(plan_.sourcesFor(moments_(next), most));
    lots_->sources().prefetch(soon.take());
  }

  const PicturePlan& plan_;
  std::int64_t count_;
  ForwardFeed::Moments moments_;
  ThreadLimit threads_;
  std::optional<ForwardFeed> forward_;
  std::optional<Evaluator> lots_;
  MemoryBudget::Lease reserved_;
};

}  // namespace

PlanFootage planFootageOf(const Footage& footage) {
  return {footage.shape(), footage.clock(), footage.shape().size};
}

PicturePlan planOf(const RenderSettings& settings, const RenderWork& job, bool looks) {
  const auto material = looks || job.played.row ? std::make_shared<MaterialAt>(job.material, job.wish) : nullptr;
  return PicturePlan(job.played.chain, planFootageOf(*settings.footage), job.wish, material);
}

Status deliver(const RenderSettings& settings, const RenderWork& job, const OutputSpec& spec, Delivery to,
               const std::function<void(const RenderProgress&)>& progress, const std::stop_token& stop) {
  const auto& [budget, sources, material, played, wish] = job;
  const PicturePlan plan = planOf(settings, job, true);
  const std::int64_t first = spanOf(settings.project, played.piece.length).first + to.pictures.first, count = to.pictures.count();
  const auto moments = [&, first](std::int64_t k) { return job.played.piece.moment(first + k); };
  std::optional<PictureSource> source;
  if (!to.maker) source.emplace(settings, plan, budget, sources, count, moments);
  Belt belt;
  TimeLeft time(count);
  Status encoded;
  std::jthread encoder([&] {
    for (std::int64_t k = 0; auto picture = belt.take(); ++k) {
      const Stopwatch watch;
      try {
        encoded = to.writer.write(*picture);
        if (encoded && to.sounds) {
          auto sound = to.sounds->upTo(k, stop);
          encoded = sound ? to.writer.write(*sound) : Status(sound.error());
        }
      } catch (...) {
        encoded = thrownError();
      }
      if (!encoded) return belt.fail();
      time.encoded(watch.seconds(), to.writer.encoded());
    }
  });
  Converter sizer;
  Status assembled;
  const Stopwatch whole;
  double paused = 0;  // whoever is told may hold the render
  for (std::int64_t k = 0; k < count; ++k) {
    const Stopwatch watch;
    auto picture = orThrown([&]() -> Result<Picture> {
      auto made = to.maker ? to.maker->picture(moments(k), spec.shape.format.floating) : source->picture(k, stop);
      if (made && source && settings.project.output.size) made = sizer.convert(*made, spec.shape);
      return made;
    });
    if (picture)
      if (const auto trouble = material->troubleWith(plan.stages()); trouble && !stop.stop_requested()) picture = *trouble;
    if (picture && stop.stop_requested()) picture = cancelledError();
    if (!picture) {
      assembled = picture.error();
      break;
    }
    time.made(watch.seconds());
    if (!belt.put(std::move(*picture))) break;
    if (!progress) continue;
    const double at = whole.seconds();
    progress({k + 1, count, time.left(at - paused)});
    paused += whole.seconds() - at;
  }
  assembled ? belt.close() : belt.fail();
  encoder.join();
  if (!assembled) return assembled;
  if (!encoded) return encoded;
  return stop.stop_requested() ? Status(cancelledError()) : Status();
}

}  // namespace molten

#include "core/engine/live_run.h"

#include <algorithm>
#include <new>

#include "core/engine/evaluator.h"
#include "core/engine/source_material.h"
#include "core/thrown.h"

namespace molten {
namespace {

/// How long to wait before a camera that is not there is looked for again. In seconds.
constexpr double lookAgain = 0.5;
/// Of the time from arrival to screen, one picture counts so much.
constexpr double newCounts = 0.1;

}  // namespace

struct LiveRun::Making {
  std::shared_ptr<LiveRing> ring;
  LiveChain chain;
  std::uint64_t chainNumber = 0;
  std::shared_ptr<FrameFeed> feed;
  std::shared_ptr<Sources> sources;
  std::unique_ptr<Evaluator> evaluator;
  std::optional<PicturePlan> plan;
  LiveReach reach;
  std::int64_t ahead = 0;  ///< in pictures
};

LiveRun::LiveRun(CameraChoice camera, RingSettings ring, LiveChain chain, LiveOptions options, Made made, Came came)
    : options_(std::move(options)),
      made_(std::move(made)),
      came_(std::move(came)),
      camera_(std::move(camera)),
      settings_(ring),
      chain_(std::move(chain)),
      reader_([this](std::stop_token stop) { readCamera(std::move(stop)); }),
      maker_([this](std::stop_token stop) { makePictures(std::move(stop)); }) {}

LiveRun::~LiveRun() {
  reader_.request_stop();
  maker_.request_stop();
  {
    const std::scoped_lock lock(mutex_);
    reading_.request_stop();
  }
  reader_.join();
  maker_.join();
}

void LiveRun::setChain(LiveChain chain) {
  const std::scoped_lock lock(mutex_);
  if (chain == chain_) return;
  chain_ = std::move(chain);
  ++chainNumber_;
  changed_.notify_all();
}

void LiveRun::setRing(const RingSettings& settings) {
  const std::scoped_lock lock(mutex_);
  if (settings == settings_) return;
  const bool anew = settings.smaller != settings_.smaller || settings.lessColour != settings_.lessColour;
  settings_ = settings;
  if (!ring_) return;
  if (anew)
    ring_ = nullptr;
  else
    ring_->set(settings);
}

void LiveRun::setCamera(CameraChoice camera) {
  const std::scoped_lock lock(mutex_);
  if (camera == camera_) return;
  camera_ = std::move(camera);
  ++cameraNumber_;
  ring_ = nullptr;
  last_ = std::nullopt;
  state_.there = false;
  state_.trouble.clear();
  reading_.request_stop();
}

std::shared_ptr<LiveRing> LiveRun::ring() const {
  const std::scoped_lock lock(mutex_);
  return ring_;
}

LiveState LiveRun::state() const {
  LiveState state;
  std::shared_ptr<LiveRing> ring;
  {
    const std::scoped_lock lock(mutex_);
    state = state_;
    ring = ring_;
  }
  state.seconds = options_.clock->now();
  if (ring) state.ring = ring->state();
  return state;
}

void LiveRun::shown(const LivePicture& picture) {
  const double took = options_.clock->now() - picture.arrived;
  const std::scoped_lock lock(mutex_);
  const bool first = state_.shown + state_.late == 0;
  state_.toScreen = first ? took : state_.toScreen + newCounts * (took - state_.toScreen);
  for (; !unseen_.empty() && unseen_.front() <= picture.number; unseen_.pop_front()) {
    --state_.onTheWay;
    if (unseen_.front() < picture.number) ++state_.passedOver;
  }
  ++(picture.late || took > 2 / state_.rate.toDouble() ? state_.late : state_.shown);
}

void LiveRun::troubled(const std::string& sentence) {
  const std::scoped_lock lock(mutex_);
  state_.there = false;
  state_.trouble = sentence;
}

void LiveRun::readCamera(std::stop_token stop) {
  while (!stop.stop_requested()) {
    CameraChoice choice;
    std::stop_token reading;
    std::uint64_t number = 0;
    {
      const std::scoped_lock lock(mutex_);
      if (stop.stop_requested()) return;
      reading_ = {};
      reading = reading_.get_token();
      choice = camera_;
      number = cameraNumber_;
    }
    auto camera = orThrown([&] { return openCamera(choice, options_.clock, reading); });
    if (!camera) {
      if (!camera.error().cancelled) troubled(camera.error().message);
    } else {
      try {
        readFrames(**camera, reading);
      } catch (...) {
        troubled(thrownError().message);
      }
    }
    // Closed before it is looked for again.
    if (camera) *camera = nullptr;
    if (reading.stop_requested()) continue;
    bool another = false;
    {
      const std::scoped_lock lock(mutex_);
      another = number != cameraNumber_;
    }
    if (!another) options_.clock->waitUntil(options_.clock->now() + lookAgain, reading);
  }
}

void LiveRun::readFrames(Camera& camera, const std::stop_token& stop) {
  bool first = true;
  for (;;) {
    auto frame = camera.next(stop);
    if (!frame) {
      if (!frame.error().cancelled) troubled(frame.error().message + " It is looked for.");
      return;
    }
    {
      const std::scoped_lock lock(mutex_);
      // What did not come while there was no camera is not lost on the way.
      if (first && last_) last_ = std::nullopt, ++state_.found;
      first = false;
      state_.there = true;
      state_.trouble.clear();
      state_.size = camera.shape().size;
      state_.rate = camera.rate();
    }
    if (!take(*frame, camera.shape(), camera.rate())) return;
  }
}

/// False: it cannot be kept.
bool LiveRun::take(const CameraFrame& frame, const PictureShape& shape, Rational rate) {
  const double arrived = options_.clock->now();
  RingSettings settings;
  std::shared_ptr<LiveRing> ring;
  {
    const std::scoped_lock lock(mutex_);
    settings = settings_;
    ring = ring_;
  }
  if (!ring || !(ring->camera() == shape) || ring->rate() != rate)
    ring = std::make_shared<LiveRing>(shape, rate, settings, options_.budget);
  const auto number = ring->put(frame.picture, frame.seconds);
  if (!number) {
    troubled(number.error().message);
    return false;
  }
  if (came_) came_(frame, *number, rate);
  const std::scoped_lock lock(mutex_);
  // Settings that came meanwhile are those of the next ring.
  if (settings_.smaller == settings.smaller && settings_.lessColour == settings.lessColour) ring_ = ring;
  if (last_) state_.lost += std::max(0, *number - *last_ - 1);
  last_ = *number;
  if (newest_) ++state_.passedOver;
  if (!newest_) ++state_.onTheWay;
  newest_ = Newest{*number, frame.seconds, arrived, arrived - frame.seconds > 1.5 / rate.toDouble()};
  changed_.notify_all();
  return true;
}

/// A plan for what is to be made now, out of what is left of the one before.
void LiveRun::prepare(Making& making) {
  std::shared_ptr<LiveRing> ring;
  LiveChain chain;
  std::uint64_t number = 0;
  {
    const std::scoped_lock lock(mutex_);
    ring = ring_;
    chain = chain_;
    number = chainNumber_;
  }
  if (!ring || (making.ring == ring && making.chainNumber == number && making.plan)) return;
  const bool anew = making.ring != ring;
  if (anew) {
    making.plan.reset();
    making.evaluator.reset();
    making.ring = ring;
    making.feed = std::make_shared<FrameFeed>(ring->footage(), options_.budget, ring);
    making.sources = std::make_shared<Sources>(making.feed, 1);
    making.evaluator = std::make_unique<Evaluator>(making.sources, options_.threads);
  }
  making.chain = std::move(chain);
  making.chainNumber = number;
  LiveStages live = liveStages(making.chain.stages);
  const PlanSettings settings{ring->scale(), making.chain.between, ring->rate(), making.chain.sounds};
  making.plan = making.evaluator->plan(live.chain, settings, making.plan ? &*making.plan : nullptr);
  ring->lay(making.plan->layout());
  making.reach = liveReach(live.chain, making.feed->footage().video(making.chain.between), nullptr);
  making.ahead = static_cast<std::int64_t>(std::ceil(making.reach.ahead * ring->rate().toDouble() - samePosition));
  const std::scoped_lock lock(mutex_);
  state_.leftOut = std::move(live.leftOut);
  state_.reach = making.reach;
}

void LiveRun::makePictures(std::stop_token stop) {
  Making making;
  while (!stop.stop_requested()) {
    Newest now{};
    {
      std::unique_lock lock(mutex_);
      if (!changed_.wait(lock, stop, [&] { return newest_.has_value() && ring_; })) return;
      now = *newest_;
      newest_.reset();
    }
    auto picture = [&]() -> Result<Picture> {
      try {
        prepare(making);
        if (!making.plan) return cancelledError();
        return making.evaluator->picture(*making.plan, Moment{std::max<std::int64_t>(0, now.number - making.ahead)}, stop);
      } catch (...) {
        return thrownError();
      }
    }();
    if (picture || !picture.error().cancelled) {
      const std::scoped_lock lock(mutex_);
      state_.chainTrouble = picture ? std::string() : picture.error().message;
    }
    {
      const std::scoped_lock lock(mutex_);
      if (picture)
        unseen_.push_back(now.number);
      else
        --state_.onTheWay, ++state_.passedOver;
    }
    if (picture)
      made_({std::move(*picture), now.number, now.seconds, now.arrived, now.late, making.ring->rate(), making.ring->scale()});
  }
}

}  // namespace molten

#include "core/engine/viewer.h"
#include "core/thrown.h"

#include <algorithm>
#include <cmath>

namespace molten {
namespace {

constexpr std::size_t preparedAhead = 5, keptThroughChange = 2;
constexpr int framesALot = 12;
constexpr auto longWait = std::chrono::milliseconds(150);
/// Requests that follow each other this closely come from a hand that moves.
constexpr auto haste = std::chrono::milliseconds(250);
/// When nothing has been asked for so long, the hand stands still.
constexpr Viewer::Clock::duration stillness = std::chrono::milliseconds(120);
constexpr double inTime = 0.045;  ///< seconds a picture may take while a hand moves
/// Seconds: while playing, something new is seen after so long at the latest, if only roughly; so long is waited in any case.
constexpr double longestGap = 0.07, leastWait = 0.015;
/// Seconds from one picture to the next, at most, for the decoder's sake.
constexpr double longestStep = 0.045;
constexpr int slowPicturesBorne = 4;
/// Seconds by which a picture of a run is given out before it is due, and the most of a picture's time.
constexpr double early = 0.006, mostEarly = 0.35;
/// So many frames are decoded before a picture without anything being seen of it.
constexpr std::int32_t fewToDecode = 8;

/// What will do while something moves: pixels to each of the screen's, each way.
constexpr double enoughInMotion = 0.75;

Viewer::Clock::duration lasting(double seconds) {
  return std::chrono::duration_cast<Viewer::Clock::duration>(std::chrono::duration<double>(seconds));
}

/// The largest scale (1, 2, 4, 8) at which a picture still has `enough` pixels to each of the screen's, each way.
int scaleFor(Size picture, Size screen, double enough) {
  int scale = 1;
  while (scale < 8 && picture.width / (scale * 2) >= screen.width * enough &&
         picture.height / (scale * 2) >= screen.height * enough)
    scale *= 2;
  return scale;
}

}  // namespace

Viewer::Viewer(std::shared_ptr<Sources> sources, int threads, std::function<void(Result<Shown>)> arrived)
    : sources_(std::move(sources)), feed_(sources_->feed()), evaluator_(sources_, threads), rough_(sources_, threads, Urgency::AtOnce), arrived_(std::move(arrived)) {
  thread_ = std::jthread([this](std::stop_token stop) { work(stop); });
}

Viewer::~Viewer() {
  thread_.request_stop();
  const std::scoped_lock lock(mutex_);
  current_.request_stop();
}

void Viewer::show(const View& view) {
  const std::scoped_lock lock(mutex_);
  // At once: whoever looks at frames beside this gets them from what is filled in.
  if (!std::exchange(filling_, true))
    feed_->fillFrom(scaleFor(feed_->footage().shape().size, view.screen, enoughInMotion));
  wanted_ = view;
  if (replaceable_) current_.request_stop();
  changed_.notify_all();
}

void Viewer::play(const View& view, const Span& span, bool loop, double speed, Seconds clock) {
  if (!clock)
    clock = [begun = Clock::now()] { return std::chrono::duration<double>(Clock::now() - begun).count(); };
  const std::scoped_lock lock(mutex_);
  Run run{view, span, loop, speed, std::move(clock), 0, std::clamp(view.frame, span.first, span.last) - span.first};
  run_ = std::move(run);
  ++runNumber_;
  prepared_.clear();
  wanted_.reset();
  current_.request_stop();
  changed_.notify_all();
}

void Viewer::change(const View& view, const Span& span) {
  const std::scoped_lock lock(mutex_);
  if (!run_) return;
  const double steps = stepsNow(*run_);
  const auto whole = static_cast<std::int64_t>(steps);
  const std::int64_t shown = std::clamp(frameAt(*run_, whole), span.first, span.last) - span.first;
  run_->view = view;
  // Steps go on being counted from the beginning of the run, whatever the rate is now.
  run_->begun = std::max(run_->begun, run_->clock()) - steps / (view.piece.rate.toDouble() * std::abs(run_->speed));
  run_->span = span;
  run_->offset = run_->speed < 0 ? shown + whole : shown - whole;
  run_->next = static_cast<std::int64_t>(std::ceil(stepsNow(*run_)));
  run_->ended = false;
  ++runNumber_;
  // The next ones still show what was, so that nothing stands still until the first new one is there.
  while (prepared_.size() > keptThroughChange) prepared_.pop_back();
  if (!prepared_.empty()) run_->next = std::max(run_->next, prepared_.back().step + 1);
  changed_.notify_all();
}

void Viewer::halt() {
  const std::scoped_lock lock(mutex_);
  run_.reset();
  ++runNumber_;
  prepared_.clear();
  current_.request_stop();
}

double Viewer::stepsNow(const Run& run) const {
  const double seconds = std::max(0.0, run.clock() - run.begun);
  return seconds * run.view.piece.rate.toDouble() * std::abs(run.speed);
}

std::int64_t Viewer::frameAt(const Run& run, std::int64_t step) const {
  std::int64_t at = run.offset + (run.speed < 0 ? -step : step);
  const std::int64_t count = run.span.count();
  if (run.loop) at = (at % count + count) % count;
  return run.span.first + std::clamp<std::int64_t>(at, 0, count - 1);
}

bool Viewer::pastEnd(const Run& run, std::int64_t step) const {
  if (run.loop) return false;
  const std::int64_t at = run.offset + (run.speed < 0 ? -step : step);
  return at < 0 || at >= run.span.count();
}

bool Viewer::playing() const {
  const std::scoped_lock lock(mutex_);
  return run_ && !pastEnd(*run_, static_cast<std::int64_t>(stepsNow(*run_)));
}

std::optional<Shown> Viewer::takeDue() {
  const std::scoped_lock lock(mutex_);
  if (!run_) return std::nullopt;
  std::optional<Shown> due;
  // It is asked now and again, and takes a moment to be on the screen.
  const double now = stepsNow(*run_) + std::min(mostEarly, early * run_->view.piece.rate.toDouble() * std::abs(run_->speed));
  while (!prepared_.empty() && static_cast<double>(prepared_.front().step) <= now) {
    due = std::move(prepared_.front().shown);
    prepared_.pop_front();
  }
  if (due) changed_.notify_all();
  return due;
}

/// Whose work may serve a new plan; nullptr: none.
const PicturePlan* Viewer::planBefore(const Evaluator& evaluator, const Planned& planned, const Chain& chain,
                                      const std::shared_ptr<const SourceVideo>& source) const {
  // Of what looks at the video itself nothing serves but how the same chain lies in memory, whatever its scale.
  const Planned& other = &planned == &sharp_ ? small_ : sharp_;
  const bool looks = &evaluator == &evaluator_ && evaluator.looksAtVideo() && !(planned.plan && planned.chain == chain);
  if (looks && other.plan && other.chain == chain && other.files == planned.files && other.source == source) return &*other.plan;
  return planned.plan && planned.source == source ? &*planned.plan : nullptr;
}

/// The plan that serves already, or one made of it.
const PicturePlan& Viewer::planMade(Evaluator& evaluator, Planned& planned, const Wanted& wanted) {
  if (planned.files != wanted.files) planned.plan.reset();
  planned.files = wanted.files;
  const auto source = wanted.source ? evaluator.source({*wanted.source, wanted.settings.between}) : nullptr;
  if (planned.plan && planned.source == source && planned.settings == wanted.settings && planned.chain == wanted.chain) return *planned.plan;
  PicturePlan next = evaluator.plan(wanted.chain, wanted.settings, planBefore(evaluator, planned, wanted.chain, source), source);
  planned.plan.emplace(std::move(next));
  planned.chain = wanted.chain;
  planned.settings = wanted.settings;
  planned.source = source;
  return *planned.plan;
}

const PicturePlan& Viewer::planFor(Planned& planned, const Wanted& wanted) {
  const bool known = planned.plan && planned.files == wanted.files && planned.settings == wanted.settings && planned.chain == wanted.chain &&
                     (wanted.source ? planned.source && planned.source->frames == *wanted.source : !planned.source);
  if (known) return *planned.plan;
  planMade(evaluator_, planned, wanted);
  // A reach that does not fit the budget is looked at smaller, rather than decoded anew for every picture.
  const std::size_t reached = planned.plan->framesAtOnce();
  PlanSettings settings = wanted.settings;
  while (reached > feed_->framesThatFit(settings.scale) && settings.scale < 8) settings.scale *= 2;
  if (settings != wanted.settings) {
    PicturePlan next = evaluator_.plan(wanted.chain, settings, &*planned.plan, planned.source);
    planned.plan.emplace(std::move(next));
  }
  return *planned.plan;
}

std::vector<Viewer::Needed> Viewer::neededFor(const PicturePlan& plan, const Moment& moment, std::stop_token stop) {
  std::vector<Needed> all;
  for (SourceFrames& some : plan.sourcesFor(moment)) {
    if (some.frames.empty()) continue;
    // What cannot be had is said where it is read.
    if (auto feed = sources_->feed(some.source, stop)) all.push_back({std::move(*feed), std::move(some.frames), some.scale, some.layout});
  }
  return all;
}

bool Viewer::areThere(const std::vector<Needed>& needed) {
  return std::all_of(needed.begin(), needed.end(), [](const Needed& some) { return some.feed->has(some.frames, some.scale); });
}

/// By the picture that is shown: a long one is seen much smaller than the footage would be.
int Viewer::screenScale(const View& view, double enough) const {
  return scaleFor(videoAt(view.chain, view.chain.size(), feed_->footage().video()).size, view.screen, enough);
}

int Viewer::smallerInMotion(const View& view) const {
  return screenScale(view, enoughInMotion) / screenScale(view, 1);
}

PlanSettings Viewer::settingsFor(const View& view, int smaller) const {
  const int ofScreen = screenScale(view, 1);
  return {std::min(std::max(ofScreen, 8), ofScreen * smaller), view.between, view.piece.rate, view.sounds};
}

Result<Shown> Viewer::make(const View& view, int smaller, std::stop_token stop, bool mayBeLeft, Sides sides) {
  const auto begun = Clock::now();
  const PlanSettings wanted = settingsFor(view, smaller);
  const PicturePlan& plan = planFor(view, smaller);
  const int scale = plan.scale();
  const Moment moment = view.piece.moment(view.frame);
  const std::vector<Needed> needed = neededFor(plan, moment, stop);
  // Frames are gathered in small lots, so that a newer request need not wait for all of them.
  std::vector<FrameTable> held;
  for (const auto& [feed, frames, itsScale, layout] : needed)
    for (std::size_t from = 0; mayBeLeft && frames.size() <= feed->framesThatFit(itsScale) && from < frames.size(); from += framesALot) {
      const std::span<const std::int32_t> lot(frames.data() + from, std::min<std::size_t>(framesALot, frames.size() - from));
      auto table = feed->fetch(lot, itsScale, layout, stop);
      if (!table) return table.error();
      held.push_back(std::move(*table));
      const std::scoped_lock lock(mutex_);
      if (wanted_ && Clock::now() - begun > longWait) return cancelledError();
    }
  const bool inMemory = areThere(needed);
  // What is soon followed by another one, or by a sharp one, need not be enlarged with care.
  const Scaling enlarging = smaller > 1 ? Scaling::Screen : Scaling::Bicubic;
  const auto gathered = Clock::now();
  // Asked for once more for the sake of what is told beside it.
  const bool known = sides == Sides::All && made_ && made_->first == view;
  auto picture = known ? Result<Picture>(made_->second) : evaluator_.picture(plan, moment, stop);
  if (!picture) return picture.error();
  if (!view.sides) made_.reset();
  if (view.sides && smaller == 1 && sides != Sides::None) made_.emplace(view, *picture);
  auto image = toScreen(converter_, *picture, view.screen, enlarging);
  if (!image) return image.error();
  ScreenImage other;
  if (view.other) {
    const PlanSettings settings{wanted.scale, view.between, view.otherPiece.rate, view.sounds};
    const PicturePlan& beside = planFor(other_, {*view.other, settings, view.files, view.source});
    const std::int64_t frame = std::clamp<std::int64_t>(view.frame, 0, view.otherPiece.length - 1);
    auto second = evaluator_.picture(beside, view.otherPiece.moment(frame), stop);
    if (!second) return second.error();
    auto shown = toScreen(converter_, *second, view.screen, enlarging);
    if (!shown) return shown.error();
    other = std::move(*shown);
  }
  workCost_ = std::chrono::duration<double>(Clock::now() - gathered).count();
  if (smaller == 1 && inMemory) sharpCost_ = workCost_;
  std::optional<StageSides> ofStage;
  if (view.sides && sides != Sides::None) {
    auto made = sides_.of(view.chain, *view.sides, plan.settings(), *picture, sides == Sides::AtHand, stop);
    if (!made) return made.error();
    ofStage = std::move(*made);
  }
  return Shown{view,
               std::move(*image),
               std::move(other),
               std::move(ofStage),
               scale,
               scale > wanted.scale,
               false,
               wanted.scale > screenScale(view, 1),
               std::chrono::duration<double, std::milli>(Clock::now() - begun).count()};
}

/// What is likely to be asked for next while the picture stands still: its neighbours, then what playing would need.
void Viewer::prefetchAround(const View& view) {
  if (!sharp_.plan || !(sharp_.chain == view.chain)) return;
  SoonRead soon(400);
  const std::int64_t last = view.piece.length - 1;
  for (const std::int64_t step : {0, 1, -1, 2, 4, 8, 16, 30}) {
    soon.add(sharp_.plan->sourcesFor(view.piece.moment(std::clamp<std::int64_t>(view.frame + step, 0, last))));
    if (soon.full()) break;
  }
  sources_->prefetch(soon.take());
}

void Viewer::prefetchAhead(const Run& run) {
  const auto& plan = plannedFor(run.smaller * smallerInMotion(run.view)).plan;
  if (!plan) return;
  SoonRead soon(2000);
  for (std::int64_t k = 0; k < 6; ++k)
    soon.add(plan->sourcesFor(run.view.piece.moment(frameAt(run, run.next + k * 3))));
  sources_->prefetch(soon.take());
}

/// While a handle is dragged or the playhead is pulled: how many times smaller a picture must be to be there in time.
int Viewer::smallerInHaste(const View& view) const {
  return std::max(smallerInMotion(view), sharpCost_ > 4 * inTime ? 4 : sharpCost_ > inTime ? 2 : 1);
}

/// Where frames are not there at so many times smaller, but are in the clip's small version: how many times smaller
/// that is.
int Viewer::smallerAtHand(const View& view, int smaller) {
  const int scale = settingsFor(view, smaller).scale, filled = feed_->fillScale();
  if (filled <= scale) return smaller;
  // The plan that is wanted, which serves again if it is made: not one of the small version's for every request.
  const std::vector<Needed> needed = neededFor(planFor(view, smaller), view.piece.moment(view.frame), {});
  const bool filledIn = std::all_of(needed.begin(), needed.end(), [&](const Needed& some) { return some.feed->has(some.frames, filled); });
  return filledIn && !areThere(needed) ? filled / screenScale(view, 1) : smaller;
}

/// True if so much has to be decoded first that something should be seen before.
bool Viewer::takesLong(const View& view, int smaller) {
  std::int32_t all = 0;
  for (const Needed& some : neededFor(planFor(view, smaller), view.piece.moment(view.frame), {}))
    all += some.feed->toBeDecoded(some.frames, some.scale);
  return all > fewToDecode;
}

/// Out of frames that are near at hand, as small as the clip is filled in. No picture of it is kept.
Result<Shown> Viewer::roughlyMade(const View& view, std::stop_token stop) {
  const auto begun = Clock::now();
  const int scale = std::max(screenScale(view, enoughInMotion), feed_->fillScale());
  const PlanSettings settings{scale, InBetween::Whole, view.piece.rate, view.sounds};
  const PicturePlan& plan = planMade(rough_, near_, {view.chain, settings, view.files, view.source});
  auto picture = rough_.picture(plan, view.piece.moment(view.frame), stop);
  // A plan that mixes holds what it was mixed of, which stands for other frames and takes room from them.
  if (plan.mixing()) near_.plan.reset();
  if (!picture) return picture.error();
  auto image = toScreen(converter_, *picture, view.screen, Scaling::Screen);
  if (!image) return image.error();
  const double seconds = std::chrono::duration<double>(Clock::now() - begun).count();
  roughCost_ = std::max(seconds, roughCost_ * 0.9);
  return Shown{view, std::move(*image), {}, std::nullopt, scale, false, true, true, seconds * 1000};
}

void Viewer::showRoughly(const View& view, std::stop_token stop) {
  auto shown = roughlyMade(view, stop);
  if (!shown) return;
  arrived_(std::move(*shown));
  const std::scoped_lock lock(mutex_);
  replaceable_ = true;
}

/// On the viewer's thread, without the lock.
void Viewer::answer(const View& view, std::stop_token stop) {
  const auto now = Clock::now();
  owed_.reset();
  const bool inHaste = now - answeredAt_ < haste;
  const int smaller = smallerAtHand(view, inHaste ? smallerInHaste(view) : 1);
  if (!view.other && takesLong(view, smaller)) showRoughly(view, stop);
  if (smaller > 1) {
    auto shown = make(view, smaller, stop, true, Sides::AtHand);
    answeredAt_ = Clock::now();
    if (shown || !shown.error().cancelled) arrived_(std::move(shown));
    owed_ = Owed{view, answeredAt_ + (inHaste ? stillness : Clock::duration::zero())};
    return;
  }
  // The picture first; what is told of a stage beside it, where that takes pictures of its own, once the hand is still.
  const bool complete = makeSharp(view, stop, Sides::AtHand);
  answeredAt_ = Clock::now();
  if (!complete) owed_ = Owed{view, answeredAt_ + (inHaste ? stillness : Clock::duration::zero())};
}

/// False if something is left to be told of a stage.
bool Viewer::makeSharp(const View& view, std::stop_token stop, Sides sides) {
  auto shown = make(view, 1, stop, true, sides);
  const bool complete = !shown || !view.sides || shown->sides;
  if (shown) prefetchAround(view);
  if (shown || !shown.error().cancelled) arrived_(std::move(shown));
  return complete;
}

/// What is thrown is said, and the next request is answered all the same.
void Viewer::work(std::stop_token stop) {
  while (!stop.stop_requested()) {
    try {
      answerAll(stop);
    } catch (...) {
      const Error thrown = thrownError();
      for (Planned* const planned : {&sharp_, &small_, &near_, &other_}) *planned = {};
      made_.reset();
      owed_.reset();
      try {
        arrived_(thrown);
      } catch (...) {
        // There is not even memory to say so.
      }
      const std::scoped_lock lock(mutex_);
      replaceable_ = false;
      if (run_) run_->ended = true;
    }
  }
}

void Viewer::answerAll(const std::stop_token& stop) {
  std::unique_lock lock(mutex_);
  const auto prepares = [&] { return run_ && !run_->ended && prepared_.size() < preparedAhead; };
  while (!stop.stop_requested()) {
    if (run_) owed_.reset();
    if (!wanted_ && !prepares()) {
      const auto called = [&] { return wanted_ || prepares(); };
      if (!owed_)
        changed_.wait(lock, stop, called);
      else if (!changed_.wait_until(lock, stop, owed_->due, called) && !stop.stop_requested() && !run_)
        current_ = std::stop_source();
      if (!owed_ || wanted_ || run_ || stop.stop_requested()) continue;
      const View view = std::exchange(owed_, std::nullopt)->view;
      const std::stop_token token = current_.get_token();
      lock.unlock();
      makeSharp(view, token, Sides::All);
      lock.lock();
      continue;
    }
    current_ = std::stop_source();
    const std::stop_token token = current_.get_token();
    if (wanted_) {
      const View view = *std::exchange(wanted_, std::nullopt);
      lock.unlock();
      answer(view, token);
      lock.lock();
      replaceable_ = false;
      continue;
    }
    prepareNext(lock, token);
  }
}

/// While playing: false if frames of the footage that a picture reads are not there by then. What does not fit in memory at
/// a time is waited for in any case.
bool Viewer::framesInTime(const View& view, int smaller, Clock::time_point due, std::stop_token stop) {
  for (const Needed& some : neededFor(planFor(view, smaller), view.piece.moment(view.frame), stop)) {
    if (some.frames.size() > some.feed->framesThatFit(some.scale) || some.feed->has(some.frames, some.scale)) continue;
    const auto held = some.feed->fetchUntil(due, some.frames, some.scale, some.layout, stop);
    if (!held && held.error().cancelled) return false;
  }
  return true;
}

/// The next picture of a run. With the lock held before and after, not during the work.
void Viewer::prepareNext(std::unique_lock<std::mutex>& lock, std::stop_token stop) {
  Run& run = *run_;
  // Where the work takes longer than a frame lasts, every second or third is shown, evenly.
  const double frameSeconds = 1 / (run.view.piece.rate.toDouble() * std::abs(run.speed));
  const auto stride = std::max<std::int64_t>(1, static_cast<std::int64_t>(std::ceil(run.cost / frameSeconds * 0.9)));
  const auto now = static_cast<std::int64_t>(std::ceil(stepsNow(run)));
  if (run.next < now) run.next = now + stride - 1;
  if (pastEnd(run, run.next)) {
    run.ended = true;
    return;
  }
  View view = run.view;
  view.frame = frameAt(run, run.next);
  std::int64_t step = run.next;
  const std::uint64_t number = runNumber_;
  const Run copy = run;
  const std::int64_t newest = prepared_.empty() ? 0 : prepared_.back().step;
  lock.unlock();
  const auto begun = Clock::now();
  const int smaller = copy.smaller * smallerInMotion(view);
  // When the picture before this one is due.
  const auto before = begun + lasting(copy.begun + static_cast<double>(newest) * frameSeconds - copy.clock());
  // What comes late is seen roughly meanwhile: a run does not stand still.
  const auto due = std::max(before, begun) + lasting(std::max(leastWait, longestGap - roughCost_));
  const bool there = view.other || framesInTime(view, smaller, due, stop);
  if (!there) {
    prefetchAhead(copy);
    // Waiting has taken its time: what is seen roughly is what is due when it is there.
    const auto late = static_cast<std::int64_t>(std::ceil(stepsNow(copy) + roughCost_ / frameSeconds));
    if (late > step && !pastEnd(copy, late)) step = late, view.frame = frameAt(copy, step);
  }
  auto shown = there ? make(view, smaller, stop, false, Sides::None) : roughlyMade(view, stop);
  if (there) prefetchAhead(copy);
  const double seconds = std::chrono::duration<double>(Clock::now() - begun).count();
  if (!shown && !shown.error().cancelled) arrived_(shown.error());
  lock.lock();
  if (number != runNumber_ || !run_) return;
  // What is waited for now need not be waited for always: it makes steps no longer than what is seen as a gap.
  const double counted = std::max(workCost_, std::min(seconds, longestStep));
  if (there) run_->cost = run_->cost == 0 ? counted : run_->cost * 0.8 + counted * 0.2;
  // Scale goes before frames do; but a slow decoder is not helped by it.
  if (there) slowPictures_ = workCost_ > frameSeconds * 0.9 ? slowPictures_ + 1 : 0;
  if (slowPictures_ >= slowPicturesBorne && run_->smaller < 4) {
    run_->smaller *= 2;
    run_->cost = 0;
    slowPictures_ = 0;
  }
  run_->next = step + stride;
  if (shown) {
    const std::size_t bytes =
        (shown->image.pixels.size() + shown->other.pixels.size()) * sizeof(shown->image.pixels[0]);
    prepared_.push_back({step, std::move(*shown), {feed_->budget(), bytes}});
  } else if (!shown.error().cancelled) {
    run_->ended = true;
  }
}

}  // namespace molten

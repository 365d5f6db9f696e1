#include "core/engine/viewer.h"

#include <algorithm>
#include <cmath>

namespace molten {
namespace {

constexpr std::size_t preparedAhead = 5;
constexpr int framesALot = 12;
constexpr auto longWait = std::chrono::milliseconds(150);

/// The largest scale (1, 2, 4, 8) at which a picture still has a pixel for each of the screen's.
int scaleFor(Size picture, Size screen) {
  int scale = 1;
  while (scale < 8 && picture.width / (scale * 2) >= screen.width && picture.height / (scale * 2) >= screen.height)
    scale *= 2;
  return scale;
}

}  // namespace

Viewer::Viewer(std::shared_ptr<FrameFeed> feed, int threads, std::function<void(Result<Shown>)> arrived)
    : feed_(std::move(feed)), evaluator_(feed_, threads), arrived_(std::move(arrived)) {
  thread_ = std::jthread([this](std::stop_token stop) { work(stop); });
}

Viewer::~Viewer() {
  thread_.request_stop();
  const std::scoped_lock lock(mutex_);
  current_.request_stop();
}

void Viewer::show(const View& view) {
  const std::scoped_lock lock(mutex_);
  wanted_ = view;
  changed_.notify_all();
}

void Viewer::play(const View& view, const Span& span, bool loop, double speed) {
  const std::scoped_lock lock(mutex_);
  Run run{view, span, loop, speed, Clock::now(), std::clamp(view.frame, span.first, span.last) - span.first};
  run_ = std::move(run);
  ++runNumber_;
  prepared_.clear();
  wanted_.reset();
  current_.request_stop();
  changed_.notify_all();
}

void Viewer::change(const View& view) {
  const std::scoped_lock lock(mutex_);
  if (!run_) return;
  run_->view = view;
  run_->next = static_cast<std::int64_t>(std::ceil(stepsNow(*run_)));
  run_->ended = false;
  ++runNumber_;
  prepared_.clear();
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
  const double seconds = std::chrono::duration<double>(Clock::now() - run.begun).count();
  return seconds * feed_->footage().clock().rate().toDouble() * std::abs(run.speed);
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
  const double now = stepsNow(*run_);
  while (!prepared_.empty() && static_cast<double>(prepared_.front().step) <= now) {
    due = std::move(prepared_.front().shown);
    prepared_.pop_front();
  }
  if (due) changed_.notify_all();
  return due;
}

Result<Shown> Viewer::make(const View& view, std::stop_token stop, bool mayBeLeft) {
  const auto begun = Clock::now();
  const int wantedScale = scaleFor(feed_->footage().shape().size, view.screen);
  if (!plan_ || planScale_ != wantedScale || !(planChain_ == view.chain)) {
    plan_.emplace(evaluator_.plan(view.chain, wantedScale));
    planChain_ = view.chain;
    planScale_ = wantedScale;
    // A reach that does not fit the budget is looked at smaller, rather than decoded anew for every picture.
    const std::size_t reached = plan_->framesFor({plan_->length() / 2, 0}).size();
    int scale = wantedScale;
    while (reached > feed_->framesThatFit(scale) && scale < 8) scale *= 2;
    if (scale != wantedScale) plan_.emplace(evaluator_.plan(view.chain, scale));
  }
  const ChainPlan& plan = *plan_;
  const int scale = plan.scale();
  const OutputMoment moment{view.frame, 0};
  const std::vector<std::int32_t> frames = plan.framesFor(moment);
  // Frames are gathered in small lots, so that a newer request need not wait for all of them.
  std::vector<FrameTable> held;
  for (std::size_t from = 0; mayBeLeft && frames.size() <= feed_->framesThatFit(scale) && from < frames.size();
       from += framesALot) {
    const std::span<const std::int32_t> lot(frames.data() + from,
                                            std::min<std::size_t>(framesALot, frames.size() - from));
    auto table = feed_->fetch(lot, scale, plan.layout().kind(), stop);
    if (!table) return table.error();
    held.push_back(std::move(*table));
    const std::scoped_lock lock(mutex_);
    if (wanted_ && Clock::now() - begun > longWait) return cancelledError();
  }
  auto picture = evaluator_.picture(plan, moment, stop);
  if (!picture) return picture.error();
  auto image = toScreen(converter_, *picture, view.screen);
  if (!image) return image.error();
  return Shown{view, std::move(*image), scale, scale != wantedScale,
               std::chrono::duration<double, std::milli>(Clock::now() - begun).count()};
}

/// What is likely to be asked for next while the picture stands still: its neighbours, then what playing would need.
void Viewer::expectAround(const View& view) {
  if (!plan_ || !(planChain_ == view.chain)) return;
  std::vector<std::int32_t> frames;
  const std::int64_t last = feed_->footage().clock().length() - 1;
  for (const std::int64_t step : {0, 1, -1, 2, 4, 8, 16, 30}) {
    const auto some = plan_->framesFor({std::clamp<std::int64_t>(view.frame + step, 0, last), 0});
    for (const auto frame : some)
      if (std::find(frames.begin(), frames.end(), frame) == frames.end()) frames.push_back(frame);
    if (frames.size() > 400) break;
  }
  feed_->expect(std::move(frames), plan_->scale(), plan_->layout().kind());
}

void Viewer::expectAhead(const Run& run) {
  if (!plan_) return;
  std::vector<std::int32_t> frames;
  for (std::int64_t k = 0; k < 6; ++k) {
    for (const auto frame : plan_->framesFor({frameAt(run, run.next + k * 3), 0}))
      if (std::find(frames.begin(), frames.end(), frame) == frames.end()) frames.push_back(frame);
  }
  feed_->expect(std::move(frames), plan_->scale(), plan_->layout().kind());
}

void Viewer::work(std::stop_token stop) {
  std::unique_lock lock(mutex_);
  while (!stop.stop_requested()) {
    const bool prepares = run_ && !run_->ended && prepared_.size() < preparedAhead;
    if (!wanted_ && !prepares) {
      changed_.wait(lock, stop, [&] { return wanted_ || (run_ && !run_->ended && prepared_.size() < preparedAhead); });
      continue;
    }
    current_ = std::stop_source();
    const std::stop_token called = current_.get_token();
    if (wanted_) {
      const View view = *std::exchange(wanted_, std::nullopt);
      lock.unlock();
      auto shown = make(view, called, true);
      if (shown) expectAround(view);
      if (shown || !shown.error().cancelled) arrived_(std::move(shown));
      lock.lock();
      continue;
    }
    Run& run = *run_;
    // Where the work takes longer than a frame lasts, every second or third is shown, evenly.
    const double frameSeconds = 1 / (feed_->footage().clock().rate().toDouble() * std::abs(run.speed));
    const auto stride = std::max<std::int64_t>(1, static_cast<std::int64_t>(std::ceil(run.cost / frameSeconds * 0.9)));
    const auto now = static_cast<std::int64_t>(std::ceil(stepsNow(run)));
    if (run.next < now) run.next = now + stride - 1;
    if (pastEnd(run, run.next)) {
      run.ended = true;
      continue;
    }
    View view = run.view;
    view.frame = frameAt(run, run.next);
    const std::int64_t step = run.next;
    const std::uint64_t number = runNumber_;
    const Run copy = run;
    lock.unlock();
    const auto begun = Clock::now();
    auto shown = make(view, called, false);
    expectAhead(copy);
    const double seconds = std::chrono::duration<double>(Clock::now() - begun).count();
    if (!shown && !shown.error().cancelled) arrived_(shown.error());
    lock.lock();
    if (number != runNumber_ || !run_) continue;
    run_->cost = run_->cost == 0 ? seconds : run_->cost * 0.8 + seconds * 0.2;
    run_->next = step + stride;
    if (shown)
      prepared_.push_back({step, std::move(*shown)});
    else if (!shown.error().cancelled)
      run_->ended = true;
  }
}

}  // namespace molten

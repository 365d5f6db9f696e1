#include "core/engine/live_ring.h"

#include <algorithm>
#include <cmath>

#include "core/parallel.h"
#include "core/picture/halve.h"

namespace molten {
namespace {

/// When nothing has come for so many seconds there was no camera. What is held stays meanwhile.
constexpr double dropOut = 1;
/// As long as a number of a frame goes, at 240 a second: a hundred days.
constexpr std::int64_t endless = std::int64_t(2'000'000'000);

PictureShape keptColour(PictureShape shape, bool less) {
  if (!less || shape.format.model == ColourModel::Gray) return shape;
  if (shape.format.model == ColourModel::Rgb) {
    shape.colour = {};
    shape.colour.matrix = shape.size.height >= 720 ? AVCOL_SPC_BT709 : AVCOL_SPC_SMPTE170M;
    shape.colour.range = AVCOL_RANGE_MPEG;
    shape.colour.chromaSite = AVCHROMA_LOC_LEFT;
  }
  shape.format = {ColourModel::Yuv, 8, 1, 1};
  return shape;
}

}  // namespace

LiveRing::LiveRing(const PictureShape& camera, Rational rate, const RingSettings& settings, std::shared_ptr<MemoryBudget> budget)
    : camera_(camera),
      full_(keptColour(camera, settings.lessColour)),
      rate_(rate),
      scale_(settings.smaller),
      kept_(shapeAtScale(full_, settings.smaller)),
      budget_(std::move(budget)),
      settings_(settings) {
  for (const Layout layout : {Layout::Rows, Layout::Blocks})
    stores_[static_cast<std::size_t>(layout)] = std::make_shared<TileStore>(FrameLayout(kept_, layout));
}

LiveRing::~LiveRing() {
  budget_->remove(counted_);
}

std::shared_ptr<const Footage> LiveRing::footage() const {
  return Footage::made({}, full_, rate_, endless, [](int) -> Result<std::unique_ptr<FrameReader>> {
    return Error{"A camera's pictures are read as they come."};
  });
}

FrameTable::Held LiveRing::stored(const Picture& picture, Layout layout) {
  auto frame = std::make_shared<StoredFrame>(stores_[static_cast<std::size_t>(layout)]);
  frame->keep(picture, {});
  return frame;
}

Result<std::int32_t> LiveRing::put(const Picture& picture, double seconds) {
  Picture kept = picture;
  if (!(picture.shape() == full_)) {
    auto converted = converter_.convert(picture, full_, Scaling::Screen);
    if (!converted) return converted.error();
    kept = std::move(*converted);
  }
  for (int by = scale_; by > 1; by /= 2) kept = halved(kept);
  Layout layout;
  {
    const std::scoped_lock lock(mutex_);
    layout = layout_;
  }
  FrameTable::Held held = stored(kept, layout);
  const std::scoped_lock lock(mutex_);
  const std::int32_t last = frames_.empty() ? -1 : frames_.back().number;
  const double number = std::floor(seconds * rate_.toDouble() + 0.5);
  Kept frame{std::max(last + 1, static_cast<std::int32_t>(std::clamp(number, 0.0, static_cast<double>(endless)))), seconds, std::move(held), 0};
  const double since = frames_.empty() ? 0 : seconds - frames_.back().seconds;
  frame.place = frames_.empty() ? 0 : frames_.back().place + (since > dropOut ? 1 : frame.number - frames_.back().number);
  if (passing_) frames_.pop_back();
  passing_ = count_++ % std::max(1, settings_.everyNth) != 0;
  const std::int32_t its = frame.number;
  frames_.push_back(std::move(frame));
  letGo();
  return its;
}

std::size_t LiveRing::most() const {
  return std::max<std::size_t>(2, settings_.bytes / stores_[static_cast<std::size_t>(layout_)]->layout().frameBytes());
}

void LiveRing::letGo() {
  const auto longest = static_cast<std::int32_t>(std::min(1e9, std::ceil(settings_.seconds * rate_.toDouble())));
  const std::size_t most = this->most();
  // The oldest one that is wanted stands until the next: what lies between is read from it.
  while (frames_.size() > most || (frames_.size() > 2 && frames_.back().place - frames_[1].place >= longest)) frames_.pop_front();
  budget_->remove(counted_);
  counted_ = 0;
  for (const Kept& one : frames_) counted_ += one.frame->layout().frameBytes();
  budget_->add(counted_);
}

void LiveRing::set(const RingSettings& settings) {
  const std::scoped_lock lock(mutex_);
  settings_ = settings;
  if (!frames_.empty()) letGo();
}

void LiveRing::lay(Layout layout) {
  const std::scoped_lock lock(mutex_);
  layout_ = layout;
}

Result<FrameTable> LiveRing::table(std::span<const std::int32_t> frames, int scale, std::optional<Layout> layout) {
  if (scale != scale_) return Error{"A camera's pictures are kept at one size; choose another one for the ring."};
  FrameTable table;
  struct Other {
    Kept was;
    FrameTable::Held now;
  };
  std::vector<Other> others;
  bool forGood = false;
  std::vector<std::pair<std::int32_t, std::int32_t>> numbers;
  {
    const std::scoped_lock lock(mutex_);
    if (frames_.empty()) return Error{"The camera has given no picture yet."};
    forGood = layout == layout_;
    for (const std::int32_t frame : frames) {
      auto after = std::upper_bound(frames_.begin(), frames_.end(), frame, [](std::int32_t n, const Kept& kept) { return n < kept.number; });
      const Kept& on = after == frames_.begin() ? frames_.front() : *std::prev(after);
      numbers.emplace_back(frame, on.number);
      if (layout && on.frame->layout().kind() != *layout && (others.empty() || others.back().was.number != on.number)) others.push_back({on, nullptr});
      table.put(frame, on.frame);
    }
  }
  if (others.empty()) return table;
  parallelRows(static_cast<int>(others.size()), 1, [&](int from, int to) {
    for (int i = from; i < to; ++i) {
      Other& one = others[static_cast<std::size_t>(i)];
      one.now = stored(one.was.frame->picture(), *layout);
    }
  });
  for (const auto& [frame, on] : numbers) {
    const auto at = std::lower_bound(others.begin(), others.end(), on, [](const Other& one, std::int32_t n) { return one.was.number < n; });
    if (at != others.end() && at->was.number == on) table.put(frame, at->now);
  }
  if (!forGood) return table;
  const std::scoped_lock lock(mutex_);
  for (Other& one : others) {
    const auto at = std::lower_bound(frames_.begin(), frames_.end(), one.was.number, [](const Kept& kept, std::int32_t n) { return kept.number < n; });
    if (at != frames_.end() && at->frame == one.was.frame) at->frame = one.now;
  }
  return table;
}

RingState LiveRing::state() const {
  const std::scoped_lock lock(mutex_);
  RingState state;
  const double rate = rate_.toDouble(), each = static_cast<double>(stores_[static_cast<std::size_t>(layout_)]->layout().frameBytes());
  state.wanted = settings_.seconds;
  state.fits = static_cast<double>(most()) * std::max(1, settings_.everyNth) / rate;
  state.frames = static_cast<std::int64_t>(frames_.size());
  state.bytes = counted_;
  state.mayHold = settings_.bytes;
  state.bytesPerSecond = static_cast<std::size_t>(each * rate / std::max(1, settings_.everyNth));
  if (!frames_.empty()) state.held = static_cast<double>(frames_.back().place - frames_.front().place) / rate;
  return state;
}

std::vector<LiveRing::Kept> LiveRing::all() const {
  const std::scoped_lock lock(mutex_);
  return {frames_.begin(), frames_.end()};
}

}  // namespace molten

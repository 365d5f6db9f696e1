#pragma once
// The last seconds of what a camera gives: one line of frames, read at any number of delays.

#include <cstdint>
#include <deque>
#include <memory>
#include <mutex>
#include <optional>
#include <vector>

#include "core/engine/frame_feed.h"
#include "core/picture/convert.h"

namespace molten {

/// What is kept of what comes.
struct RingSettings {
  double seconds = 20;       ///< that it is to hold, if they fit
  int everyNth = 1;          ///< of the frames is kept, besides the newest
  int smaller = 1;           ///< 1, 2 or 4 times smaller each way
  bool lessColour = false;   ///< 4:2:0 of 8 bits, however it comes
  std::size_t bytes = std::size_t(1) << 30;  ///< that it may hold
  friend bool operator==(const RingSettings&, const RingSettings&) = default;
};

/// How full it is.
struct RingState {
  double held = 0;    ///< seconds, from the oldest frame to the newest, without the times at which there was no camera
  double wanted = 0;  ///< seconds
  double fits = 0;    ///< seconds, of what may be held
  std::size_t bytes = 0, mayHold = 0;
  std::int64_t frames = 0;
  std::size_t bytesPerSecond = 0;
  bool forMemory() const { return fits < wanted; }  ///< it holds less than it is to, since that does not fit
};

/// Frames are numbered by when they were taken: their time in pictures of the camera's rate, to the nearest whole one, and no
/// two share a number. The picture of a number is the last frame whose own is not above it; before the oldest frame, that.
/// So a chain reads it as a video of an even rate without an end, whatever is lost or comes late. Thread-safe.
class LiveRing : public HeldFrames {
 public:
  /// `camera`: of the frames that come.
  LiveRing(const PictureShape& camera, Rational rate, const RingSettings& settings, std::shared_ptr<MemoryBudget> budget);
  ~LiveRing() override;

  /// Of the frames that come.
  const PictureShape& camera() const { return camera_; }
  /// Of its pictures in full: a chain is for these.
  const PictureShape& shape() const { return full_; }
  Rational rate() const { return rate_; }
  /// So many times smaller each way are they kept.
  int scale() const { return scale_; }
  /// What a chain reads: the pictures of its shape, without an end.
  std::shared_ptr<const Footage> footage() const;

  /// Takes a frame of the camera's shape, taken so many seconds after the clock began. Returns its number.
  Result<std::int32_t> put(const Picture& picture, double seconds);
  /// Other settings, without losing what is held; `smaller` and `lessColour` stay as they were.
  void set(const RingSettings& settings);
  /// How frames that come are laid in memory; those that are held are when they are first used.
  void lay(Layout layout);

  Result<FrameTable> table(std::span<const std::int32_t> frames, int scale, std::optional<Layout> layout) override;
  RingState state() const;
  /// A frame that is held, with when it was taken.
  struct Kept {
    std::int32_t number = 0;
    double seconds = 0;
    FrameTable::Held frame;
    std::int64_t place = 0;  ///< as its number, but times without a camera are left out: it counts how much is held
  };
  /// All that it holds, the oldest first.
  std::vector<Kept> all() const;

 private:
  FrameTable::Held stored(const Picture& picture, Layout layout);
  /// With the lock held.
  void letGo();
  std::size_t most() const;

  const PictureShape camera_, full_;
  const Rational rate_;
  const int scale_;
  const PictureShape kept_;
  const std::shared_ptr<MemoryBudget> budget_;
  mutable std::mutex mutex_;
  RingSettings settings_;
  Layout layout_ = Layout::Blocks;
  std::shared_ptr<TileStore> stores_[2];
  std::deque<Kept> frames_;      ///< rising
  bool passing_ = false;         ///< the newest is none of those that are kept
  std::int64_t count_ = 0;       ///< that have come
  std::size_t counted_ = 0;      ///< bytes, in the budget
  Converter converter_;          ///< of the thread that puts
};

}  // namespace molten

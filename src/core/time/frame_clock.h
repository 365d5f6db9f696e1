#pragma once
// Which stored frames stand at a moment of a video.

#include <cstdint>
#include <memory>
#include <vector>

#include "core/time/past_the_ends.h"
#include "core/time/rational.h"

namespace molten {

/// What is seen between two frames of a source: the nearer one, both mixed by how near they are, or a picture made
/// along the motion from one to the other.
enum class InBetween { Whole, Mixed, Flow };

/// One or two frames and how they mix.
struct FramePick {
  std::int32_t first = 0;    ///< frame number, or noFrame
  std::int32_t second = 0;   ///< frame number, or noFrame; counts only if weight > 0
  std::uint32_t weight = 0;  ///< of `second`, in 1/65536; `first` has the rest

  friend bool operator==(const FramePick&, const FramePick&) = default;
};

inline constexpr std::uint32_t wholeWeight = 65536;

/// A position among frames of a constant rate: on a frame, or between it and the next.
struct FramePosition {
  std::int64_t frame = 0;    ///< not folded: may lie outside the video
  std::uint32_t weight = 0;  ///< of the frame after, in 1/65536, below 65536
};
/// The position `whole` + `rest` frames from the first one, as a whole frame (weight 0) or as it lies between two
/// frames.
FramePosition positionOf(std::int64_t whole, double rest, InBetween inBetween);

/// The times at which the frames of a video stand. Moments are given as positions in frames of the nominal
/// rate: a whole number and a rest in frames, so that a long clip loses no precision.
///
/// Constant rate r: frame n stands at n/r; Whole takes floor(position + 0.5), Mixed and Flow lie between floor and
/// floor + 1.
/// Varying rate: the picture of a moment is the last one whose stamp is not after it; Mixed mixes it with its
/// successor by where the moment lies between their stamps; past the ends is folded in time, about the first
/// and the last stamp for TurnBack, at the end of the last frame for GoRound.
/// A position within 1e-6 of a frame is that frame, and one within 1e-6 of the middle between two is that middle.
/// Copies share what is large.
class FrameClock {
 public:
  /// Requires count >= 1.
  static FrameClock constant(Rational rate, std::int64_t count);
  /// `stamps`: where each frame begins, in frames of the nominal rate, rising, the first 0 (at least one).
  /// `end`: where the last one ends.
  static FrameClock stamped(Rational nominal, std::vector<double> stamps, double end);

  Rational rate() const { return rate_; }
  /// Stored frames.
  std::int64_t frameCount() const { return count_; }
  /// Pictures that the video gives at its (nominal) rate: those at n/rate before the end.
  std::int64_t length() const { return length_; }
  bool varying() const { return stamps_ != nullptr; }
  /// Requires varying().
  const std::vector<double>& stamps() const { return *stamps_; }
  /// The same frames at the same moments, told in another nominal rate. Requires varying().
  FrameClock countedIn(Rational nominal) const;

  /// The frame that is nearest to a position in frames of the nominal rate, or stands at it; the end frame outside.
  std::int32_t frameAt(double position) const {
    return pick(0, position, PastTheEnds::StandStill, InBetween::Whole).first;
  }
  FramePick pick(std::int64_t whole, double rest, PastTheEnds past, InBetween inBetween) const {
    return varying() ? pickStamped(static_cast<double>(whole) + rest, past, inBetween)
                     : pickConstant(whole, rest, past, inBetween);
  }

 private:
  FramePick pickConstant(std::int64_t whole, double rest, PastTheEnds past, InBetween inBetween) const;
  FramePick pickStamped(double position, PastTheEnds past, InBetween inBetween) const;

  Rational rate_ = 25;
  std::int64_t count_ = 1;
  std::int64_t length_ = 1;
  std::shared_ptr<const std::vector<double>> stamps_;
  double end_ = 1;
};

/// Hours, minutes, seconds and frames of frame n: 00:00:04:12. Frames count from 0 within the second.
std::string timecode(std::int64_t frame, Rational rate);

}  // namespace molten

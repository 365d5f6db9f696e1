#pragma once
// What the samples of a chain's pictures read: positions of the reading as frames of the source.

#include <optional>

#include "core/engine/gathering.h"
#include "core/stages/chain_reading.h"

namespace molten {

/// What a plan's frames come from.
struct PlanSource {
  PictureShape shape;      ///< of its frames, at the scale
  FrameClock clock;        ///< of its frames
  VideoDescription video;  ///< at scale 1; its rate may be another than the clock's
  Chain under = {};        ///< stages that have made it of the footage
  int scale = 1;           ///< frames are so many times smaller each way than the video
};

/// Immutable, and for several threads. A position that the chain's reading gives becomes a frame here, once. What two
/// moments read is compiled once where their keys are equal: programs name frames by numbers, and meaningOf() says
/// which frames those are at a moment.
class SampleReads {
 public:
  /// A position in frames of the source's clock.
  struct Ticks {
    std::int64_t whole = 0;
    double part = 0;  ///< 0…1 but for what went through floating point
  };
  /// What a program is compiled for.
  struct Key {
    enum class Kind { Nothing, Whole, Shared, Own } kind = Kind::Nothing;
    Moment moment;                       ///< Own: of what is displaced
    double part = 0;                     ///< Shared: of the moment, in frames
    std::uint32_t weight = 0;            ///< Whole: of the second frame
    bool first = false, second = false;  ///< Whole: that there is one
    friend bool operator==(const Key&, const Key&) = default;
  };
  SampleReads(const Chain& stages, const PlanSource& source, const std::shared_ptr<Material>& material);

  const PlanSource& source() const { return source_; }
  const ChainReading& reading() const { return reading_; }
  InBetween between() const { return reading_.source().between; }
  /// Pictures between two frames are made of both.
  bool mixes() const { return between() != InBetween::Whole; }
  /// No stage displaces pixels.
  bool wholePictures() const { return displacing_ == 0; }
  bool movesPictures() const { return movesPictures_; }
  /// Stages that displace pixels read the source itself, and are steady.
  bool alike() const { return alike_; }
  /// True if a pixel may be left without any frame.
  bool mayBeClear() const { return mayBeClear_; }
  /// Of the source's clock, in a picture of its video.
  Rational framesAPicture() const { return framesAPicture_; }
  double perPicture() const { return perPicture_; }

  /// The moment that is asked of the stages that displace pixels, or of the source.
  std::optional<Moment> displacedMoment(const Moment& moment) const {
    return reading_.into(reading_.displacedUntil(), moment);
  }
  /// Where whole pictures are read: what is.
  FramePick wholePick(const Moment& displaced) const;
  Key keyOf(const std::optional<Moment>& displaced) const;
  /// Of a row of the picture at a moment that has this key.
  void pickRow(const Key& key, const Moment& moment, const PlaneSites& sites, int row, RowPicks& picks) const;
  Gathering::Meaning meaningOf(const Key& key, const std::optional<Moment>& displaced) const;

 private:
  Ticks ticksOf(const Moment& moment) const;
  bool isShared(const Moment& displaced) const;
  std::size_t lanesOf(const Key& key) const;
  void pickWhole(const Key& key, RowPicks& picks) const;
  void pickShared(const RowReads& reads, RowPicks::Lane& lane) const;
  void pickEven(const RowReads& reads, RowPicks::Lane& lane) const;
  void pickOwn(const RowReads& reads, RowPicks& picks) const;
  void toFrames(RowReads& reads, const std::optional<std::int64_t>& ownFrame) const;

  PlanSource source_;
  ChainReading reading_;
  Rational framesAPicture_ = 1;
  double perPicture_ = 1;
  std::size_t displacing_ = 0;  ///< stages that displace pixels
  bool movesPictures_ = false, mayBeClear_ = false, alike_ = true;
};

}  // namespace molten

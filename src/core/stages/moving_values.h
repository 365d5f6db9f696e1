#pragma once
// The values of a stage as they are at each moment.

#include <map>
#include <memory>
#include <mutex>

#include "core/stages/chain_reading.h"
#include "core/stages/stage.h"

namespace molten {

/// What the values of a stage follow: the course of the video that enters, and its pictures, where they can be had.
class FollowedVideo : public Followed {
 public:
  /// `around`: none: the brightness is not known.
  FollowedVideo(const VideoDescription& incoming, const Surroundings& around);
  double value(const Follow& follow, double seconds) const override;

 private:
  double brightnessAt(double seconds) const;
  double loudnessAt(const Follow::Listening& listening, double seconds) const;

  VideoDescription in_;
  Surroundings around_;
  mutable std::mutex mutex_;
  mutable std::map<double, double> known_;  ///< brightness by moments
  mutable std::once_flag readOnce_;
  mutable std::unique_ptr<const ChainReading> upstream_;  ///< once the shot's own sound is asked for
};

/// The one place where a map asks what its stage's values are. For several threads.
class MovingValues {
 public:
  MovingValues(const Stage& stage, const VideoDescription& incoming, const Surroundings& around);

  const Stage& stage() const { return stage_; }
  bool vary() const { return stage_.varies(); }
  /// At a moment of what leaves the stage, in pictures of the rate that both videos have.
  StageValues at(const Moment& moment) const { return at(moment.pictures()); }
  StageValues at(double position) const;

 private:
  Stage stage_;
  double rate_;
  std::shared_ptr<const FollowedVideo> followed_;  ///< if something is
};

}  // namespace molten

#pragma once
// Sound along a curve with its pitch kept.

#include <list>
#include <memory>
#include <mutex>

#include "core/memory_budget.h"
#include "core/sound/sound.h"
#include "core/sound/sound_curve.h"

namespace molten {

/// Speeds, forwards and backwards, at which a pitch can be kept; slower and faster it goes with the speed, as tape() says.
inline constexpr double slowestKept = 0.25, fastestKept = 4;

/// What is heard of a source along a curve. Made by Rubber Band, in stretches of a few seconds that go over into each other;
/// what was heard of late is kept. Where the curve runs at the source's own speed, that is what is heard, unchanged.
class KeptPitch : public SoundSource {
 public:
  KeptPitch(SoundCurve curve, std::shared_ptr<const SoundSource> source, std::shared_ptr<MemoryBudget> budget);

  Status read(std::int64_t first, Sound& out, std::stop_token stop) const override;

 private:
  struct Made {
    std::int64_t number;
    std::shared_ptr<const Sound> sound;
    MemoryBudget::Lease lease;
  };
  Result<std::shared_ptr<const Sound>> stretch(std::int64_t number, std::stop_token stop) const;
  Result<Sound> make(std::int64_t number, std::stop_token stop) const;

  SoundCurve curve_;
  std::shared_ptr<const SoundSource> source_;
  std::shared_ptr<MemoryBudget> budget_;
  mutable std::mutex making_, mutex_;
  mutable std::list<Made> made_;  ///< the newest first
};

}  // namespace molten

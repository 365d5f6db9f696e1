#include "core/stages/live_reach.h"

#include <algorithm>

namespace molten {
namespace {

/// A chain that is looked at from an hour on has nothing before its beginning.
constexpr double hour = 3600, lookedAt = 60;

}  // namespace

LiveReach liveReach(const Chain& chain, const VideoDescription& camera, const std::shared_ptr<Material>& material) {
  LiveReach reach;
  for (const auto& map : timeMaps(chain, camera, material)) {
    const double rate = map->outgoing().rate.toDouble();
    const Reach beside = map->reach();
    double back = 0, ahead = 0;
    if (const auto* moving = map->moving())
      for (int i = 0; i < lookedAt * rate; ++i) {
        const double position = hour * rate + i, read = moving->positionAt(position);
        back = std::max(back, position - read);
        ahead = std::max(ahead, read - position);
      }
    reach.back += (back + std::max(0.0, -beside.least)) / rate;
    reach.ahead += (ahead + std::max(0.0, beside.most)) / rate;
  }
  return reach;
}

LiveStages liveStages(const Chain& chain) {
  LiveStages live;
  for (const Stage& stage : chain) {
    if (!stage.on) continue;
    if (auto trouble = stage.kind->liveTrouble(stage))
      live.leftOut.push_back(std::move(*trouble));
    else
      live.chain.push_back(stage);
  }
  return live;
}

}  // namespace molten

#include "core/stages/chain_reads.h"

#include <algorithm>
#include <cmath>

namespace molten {
namespace {

constexpr int mostSamples = 48;
constexpr double sameFrame = 1e-6;

/// Where a position outside of a video is read.
double folded(double position, std::int64_t length, PastTheEnds past) {
  const auto last = static_cast<double>(length - 1);
  if (position >= 0 && position <= last) return position;
  switch (past) {
    case PastTheEnds::Bounce: {
      if (last <= 0) return 0;
      double at = std::fmod(position, 2 * last);
      if (at < 0) at += 2 * last;
      return at > last ? 2 * last - at : at;
    }
    case PastTheEnds::Wrap: {
      const double at = std::fmod(position, last + 1);
      return at < 0 ? at + last + 1 : at;
    }
    default:
      return std::clamp(position, 0.0, last);
  }
}

/// Bounds of what a map reads for positions from one to another.
void widen(const TimeMap& map, double& least, double& most) {
  const int samples = std::clamp(static_cast<int>(std::ceil(most - least)), 1, mostSamples);
  const double from = least, step = (most - least) / samples;
  least = most = map.roughly(from);
  for (int i = 1; i <= samples && step > 0; ++i) {
    const double at = map.roughly(from + step * i);
    least = std::min(least, at), most = std::max(most, at);
  }
}

}  // namespace

ChainReads::ChainReads(const Chain& chain, const VideoDescription& footage) : maps_(timeMaps(chain, footage)) {
  videos_.push_back(footage);
  for (const auto& map : maps_) videos_.push_back(map->outgoing());
}

MomentReads ChainReads::at(double position) const {
  MomentReads reads{position, position, position, {}, false, false};
  for (std::size_t k = maps_.size(); k-- > 0;) {
    const TimeMap& map = *maps_[k];
    const VideoDescription& in = videos_[k];
    for (double& tap : reads.taps) tap = map.roughly(tap);
    const auto more = map.taps(reads.now);
    reads.taps.insert(reads.taps.end(), more.begin(), more.end());
    if (map.dissolves()) {
      const auto picture = static_cast<std::int64_t>(std::floor(reads.now + 0.5));
      if (const MomentRead read = map.readAt({picture, 0}); read.share > 0)
        reads.taps.push_back(read.second.pictures());
    }
    if (map.wholePicture()) {
      reads.now = map.roughly(reads.now);
      widen(map, reads.least, reads.most);
    } else {
      const double picture = std::floor(reads.now);
      const Reach reach = map.steady()
                              ? map.reach()
                              : map.reachAt({static_cast<std::int64_t>(picture), Rational::near(reads.now - picture)});
      reads.least += reach.least, reads.most += reach.most;
    }
    if (in.endless) continue;
    // Nearest goes over an end from half a frame on, in-betweens from any part of one. But where the last frame is
    // held, nothing is seen of it as long as that frame lasts.
    const double slack = map.inBetween() == InBetween::Nearest ? 0.5 - sameFrame : sameFrame;
    const auto last = static_cast<double>(in.length - 1);
    reads.before = reads.before || reads.least < -slack - sameFrame;
    reads.after = reads.after || reads.most > last + (map.pastTheEnds() == PastTheEnds::Hold ? 1 - sameFrame : slack);
    if (k == 0) break;
    reads.now = folded(reads.now, in.length, map.pastTheEnds());
    // Where time turns or wraps, an interval is no longer one; its ends are what is shown.
    reads.least = std::clamp(reads.least, 0.0, last), reads.most = std::clamp(reads.most, 0.0, last);
  }
  return reads;
}

}  // namespace molten

#pragma once
// Shots in a row: each seen and edited as a project of its own, where each lies on the reel's time, and the edits of their row.

#include <algorithm>
#include <functional>
#include <memory>

#include "core/project/project.h"
#include "core/time/pace_curve.h"

namespace molten {

inline std::size_t shotCount(const Project& reel) {
  return 1 + reel.more.size();
}
Shot shotOf(const Project& reel, std::size_t shot);
const Source& sourceOf(const Project& reel, std::size_t shot);
const Stage& ownSoundOf(const Project& reel, std::size_t shot);
const ShotPlace& placeOf(const Project& reel, std::size_t shot);
/// The reel with other shots; requires one at least.
Project withShots(Project reel, std::vector<Shot> shots);
/// A shot as a project: its source, chain, version B and sound, with the reel's output and laid sounds, those by so many seconds
/// later; nothing else of the reel.
Project shotAt(const Project& reel, std::size_t shot, double later = 0);
/// An edit of what shotAt() gave, as one of the reel.
Edit inShot(const Project& reel, std::size_t shot, const Edit& edit, double later = 0);

/// Where a shot that is on lies on the reel's time. In seconds.
struct ShotTime {
  std::size_t shot = 0;
  Rational begin, length;        ///< of the reel, with both dissolves
  Rational from;                 ///< of what leaves the shot's chain: what is seen at `begin`
  Rational comes = 0, goes = 0;  ///< dissolves at both ends, as far as they find room
  /// Which moment of what leaves the chain is seen so many seconds after `begin`, where a cut is run through; nullptr: time runs
  /// evenly from `from` on.
  std::shared_ptr<const PaceCurve> course = nullptr;
  Rational end() const { return begin + length; }
};
/// Of what leaves a shot's chain.
struct ShotLength {
  Rational seconds;
  bool endless = false;  ///< it goes round: a shot may last longer than that
  /// Seconds of the footage in a second of that; none: 1.
  std::function<double(double seconds)> speedAt = nullptr;
};
/// Fastest and slowest that a cut is run through, and how long that takes at most.
inline constexpr int fastestThrough = 20, longestThrough = 10;
/// The time of a shot of which `lasts` seconds from `from` on are shown, at `rate` pictures a second, where it is run through the
/// cut before it, after it, or both. Its first and last picture stay the ones that they are without; for the picture beside the cut
/// it has the cut's speed, then it changes to its own for as long as is asked, or as there is room. It lasts whole pictures.
/// Speeds are beside that of what leaves the chain.
/// nullptr: neither is run through, or there is no room at all.
std::shared_ptr<const PaceCurve> courseThrough(Rational from, Rational lasts, Rational rate, const RunThrough& in, const RunThrough& out);

/// `lengths`: one a shot. In order; each begins where the one before it ends, or its dissolve begins. All lie on pictures of
/// `rate`: a shot lasts as many as begin before its end, one at least; a dissolve is as long as both shots have room for beside
/// their other one.
std::vector<ShotTime> shotTimes(const Project& reel, const std::vector<ShotLength>& lengths, Rational rate);

/// Between pictures of a reel and those of a shot that is looked at alone, the nearest ones.
struct ShotFrames {
  ShotTime time;
  Rational reelRate = 25, shotRate = 25;
  std::int64_t toShot(std::int64_t ofReel) const;
  /// Within the shot.
  std::int64_t toReel(std::int64_t ofShot) const;
  std::int64_t first() const { return (time.begin * reelRate).floor(); }
  std::int64_t last() const { return (time.end() * reelRate).floor() - 1; }
};

/// A project of one shot before others come to it: its in and out become that shot's ends. `rate`: of the piece.
Project asReel(const Project& single, Rational rate);
/// Footage, each a shot of its own, to stand from number `at` on.
Edit addShots(const Project& before, std::size_t at, const std::vector<Source>& sources);
Edit removeShot(const Project& before, std::size_t shot);  ///< requires another one
Edit duplicateShot(const Project& before, std::size_t shot);
/// The shot comes to stand as number `to`.
Edit moveShot(const Project& before, std::size_t shot, std::size_t to);
/// Two of it, of which the second begins at so many seconds of what leaves its chain.
Edit splitShot(const Project& before, std::size_t shot, Rational at);
/// Other ends; none: where its chain has them. Edits with one `mergeKey` are one.
Edit trimShot(const Project& before, std::size_t shot, std::optional<Rational> from, std::optional<Rational> to,
              const std::string& mergeKey = {});
Edit switchShot(const Project& before, std::size_t shot, bool on);
/// Of another shape than the reel it is cut to that, or fitted into it.
Edit fillShot(const Project& before, std::size_t shot, bool fills);
Edit renameShot(const Project& before, std::size_t shot, const std::string& name);
/// What comes after the last cut as a project of its own, over a source of that name.
Project reelChainOf(const Project& reel, const std::string& source);
/// An edit of what reelChainOf() gave, as one of the reel.
Edit ofReelChain(const Project& reel, const Edit& edit);
Edit stopAtCuts(const Project& before, bool stops);
Edit setCut(const Project& before, std::size_t shot, const Cut& cut, const std::string& mergeKey = {});

/// Its name, or its footage's.
std::string shotTitle(const Project& reel, std::size_t shot);

}  // namespace molten

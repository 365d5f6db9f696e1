#include "core/project/cut_list.h"

#include <algorithm>
#include <cmath>

#include "core/stages/pace.h"

namespace molten {
namespace {

/// Frames of a footage by which a course may differ from a straight line and be one.
constexpr double straight = 2e-3;

/// The footage's moment, in seconds, that is seen so many seconds after a shot begins in the reel.
double sourceAt(const ChainReading& reading, const ShotTime& time, double since) {
  const VideoDescription& leaving = reading.outgoing();
  const double at = ((time.course ? 0.0 : time.from.toDouble()) + since) * leaving.rate.toDouble();
  const double whole = leaving.pictures().toDouble();
  return reading.sourceOf(reading.size(), leaving.endless ? std::fmod(at, whole) : at) / reading.source().rate.toDouble();
}

/// As few of a course's moments as it takes to draw it straight from one to the next, within so many seconds of it; no more than
/// a Pace has spans.
std::vector<ListedKey> keysOf(const std::vector<double>& course, const Rational& picture, double within) {
  std::vector<ListedKey> keys;
  const auto holds = [&](std::size_t from, std::size_t to) {
    for (std::size_t n = from + 1; n < to; ++n) {
      const double share = static_cast<double>(n - from) / static_cast<double>(to - from);
      if (std::abs(course[from] + (course[to] - course[from]) * share - course[n]) > within) return false;
    }
    return true;
  };
  std::size_t at = 0;
  while (at + 1 < course.size()) {
    keys.push_back({Rational(static_cast<std::int64_t>(at)) * picture, course[at]});
    std::size_t to = at + 1;
    while (to + 1 < course.size() && holds(at, to + 1)) ++to;
    at = to;
  }
  keys.push_back({Rational(static_cast<std::int64_t>(at)) * picture, course[at]});
  return keys.size() < mostSpans ? keys : keysOf(course, picture, within * 4);
}

void nameWhatIsLost(const Project& project, std::size_t shot, std::vector<std::string>& lost) {
  const Shot one = shotOf(project, shot);
  const std::string title = shotTitle(project, shot);
  for (const Stage& stage : one.chain)
    if (stage.on && stage.kind->paceHandles() == nullptr) lost.push_back(title + ": " + titleOf(stage) + " is not listed, only when its pictures are.");
  if (!one.place.on) lost.push_back(title + " is off, and not listed.");
}

}  // namespace

void setCourse(ListedClip& clip, const std::vector<double>& course, const Rational& picture) {
  const auto begin = std::min(static_cast<std::size_t>((clip.before / picture).floor()), course.size() - 1);
  const std::size_t last = course.size() - 1;
  const double lasts = static_cast<double>(last) * picture.toDouble(), slope = last > 0 ? (course[last] - course[0]) / lasts : 1;
  const double within = straight / clip.sourceRate.toDouble();
  clip.from = Rational::near(std::max(0.0, course[begin]));
  clip.speed = Rational::near(slope);
  clip.keys.clear();
  bool bent = false;
  for (std::size_t n = 0; n <= last; ++n) bent |= std::abs(course[n] - course[0] - slope * static_cast<double>(n) * picture.toDouble()) > within;
  if (!bent) return;
  clip.keys = keysOf(course, picture, within);
  for (ListedKey& key : clip.keys) key.at = key.at - clip.before;
}

CutList cutListOf(const Project& project, const Played& played, const std::vector<std::shared_ptr<const ChainReading>>& readings,
                  const std::string& name, std::vector<std::string>& lost) {
  CutList list{name, played.piece.rate, {}};
  std::vector<ShotTime> times = played.times;
  if (!played.row) {
    ShotTime all;
    const Span span = spanOf(project, played.piece.length);
    all.from = Rational(span.first) / played.piece.rate;
    all.length = Rational(span.count()) / played.piece.rate;
    times = {all};
  }
  const Rational picture = Rational(1) / list.rate;
  for (std::size_t i = 0; i < shotCount(project); ++i)
    if (!placeOf(project, i).on) nameWhatIsLost(project, i, lost);
  for (std::size_t k = 0; k < times.size(); ++k) {
    const ShotTime& time = times[k];
    const auto halves = [&](const Rational& dissolve) { return Rational((dissolve * list.rate / Rational(2)).floor()) / list.rate; };
    ListedClip clip;
    clip.name = shotTitle(project, time.shot);
    clip.path = sourceOf(project, time.shot).path;
    clip.before = halves(time.comes);
    clip.after = time.goes - halves(time.goes);
    clip.length = time.length - clip.before - clip.after;
    const auto& reading = readings[time.shot];
    if (!reading) {
      lost.push_back(clip.name + " cannot be read, and is listed by its name alone.");
      list.clips.push_back(std::move(clip));
      continue;
    }
    clip.sourceRate = reading->source().rate;
    const std::int64_t pictures = std::max<std::int64_t>(1, (time.length * list.rate).floor());
    std::vector<double> course;
    for (std::int64_t n = 0; n < pictures; ++n) course.push_back(sourceAt(*reading, time, (Rational(n) * picture).toDouble()));
    setCourse(clip, course, picture);
    nameWhatIsLost(project, time.shot, lost);
    list.clips.push_back(std::move(clip));
  }
  if (!project.reelChain.empty()) lost.push_back("What comes after the last cut is not listed.");
  if (!project.sounds.empty()) lost.push_back("Sounds that are laid are not listed.");
  return list;
}

Project projectOf(const CutList& list) {
  std::vector<Shot> shots;
  for (const ListedClip& clip : list.clips) {
    Shot shot;
    shot.source.path = clip.path;
    shot.place.name = clip.name;
    const Rational lasts = clip.before + clip.length + clip.after;
    if (clip.keys.empty() && clip.speed == Rational(1)) {
      shot.place.from = std::max(Rational(0), clip.from - clip.before);
      shot.place.to = *shot.place.from + lasts;
    } else {
      PaceSpans spans;
      double from = clip.from.toDouble() - (clip.before * clip.speed).toDouble();
      if (clip.keys.empty()) {
        spans.push_back({lasts, clip.speed});
      } else {
        // From key to key at one speed; beyond them as it begins and ends.
        for (std::size_t k = 0; k + 1 < clip.keys.size(); ++k) {
          const Rational length = clip.keys[k + 1].at - clip.keys[k].at;
          spans.push_back({length, Rational::near((clip.keys[k + 1].source - clip.keys[k].source) / length.toDouble())});
        }
        if (spans.empty()) spans.push_back({clip.length, clip.speed});
        const Rational ahead = std::max(Rational(0), clip.keys.front().at + clip.before), behind = clip.length + clip.after - clip.keys.back().at;
        spans.back().length = spans.back().length + std::max(Rational(0), behind);
        spans.front().length = spans.front().length + ahead;
        from = clip.keys.front().source - (ahead * spans.front().speed).toDouble();
      }
      shot.chain.push_back(runningBy(std::max(0.0, from), std::move(spans)));
    }
    // A dissolve lasts as long as both are seen.
    shot.place.cut.dissolve = clip.after;
    if (shots.size() > 0) shots.back().place.cut.dissolve = shots.back().place.cut.dissolve + clip.before;
    shots.push_back(std::move(shot));
  }
  if (shots.empty()) shots.emplace_back();
  shots.back().place.cut.dissolve = 0;
  Project project = withShots({}, std::move(shots));
  project.output.rate = list.rate;
  return project;
}

}  // namespace molten

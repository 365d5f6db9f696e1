#include "core/project/reel.h"

#include <algorithm>
#include <cmath>
#include <filesystem>

namespace molten {
namespace {

std::vector<Shot> shotsOf(const Project& reel) {
  std::vector<Shot> all;
  for (std::size_t i = 0; i < shotCount(reel); ++i) all.push_back(shotOf(reel, i));
  return all;
}

void put(Project& reel, std::size_t shot, Shot what) {
  if (shot > 0) {
    reel.more[shot - 1] = std::move(what);
    return;
  }
  reel.source = std::move(what.source);
  reel.chain = std::move(what.chain);
  reel.versionB = std::move(what.versionB);
  reel.ownSound = std::move(what.ownSound);
  reel.place = std::move(what.place);
  reel.unknownShot = std::move(what.unknown);
}

ShotPlace& placeIn(Project& reel, std::size_t shot) {
  return shot == 0 ? reel.place : reel.more[shot - 1].place;
}

Stage laidLater(const Stage& sound, double by) {
  if (by == 0) return sound;
  LaidSound laid = laidSound(sound);
  laid.at += by;
  return withLaidSound(sound, laid);
}

/// The same speed of the footage where a chain runs at one of its own; one that stands still, or runs backwards, is taken as it is.
RunThrough besideOwn(const RunThrough& through, const ShotLength& length, double seconds) {
  if (through.speed == Rational(1) || !length.speedAt) return through;
  const double own = length.speedAt(seconds), slowest = through.speed.toDouble() / fastestSpeed;
  if (own <= std::max(slowest, 0.01) || std::abs(own - 1) < 1e-6) return through;
  return {Rational::near(through.speed.toDouble() / own), through.lasts};
}

std::string keyOf(std::size_t shot, const std::string& mergeKey) {
  return mergeKey.empty() ? std::string() : "shot " + std::to_string(shot) + " " + mergeKey;
}

}  // namespace

const Source& sourceOf(const Project& reel, std::size_t shot) {
  return shot == 0 ? reel.source : reel.more[shot - 1].source;
}

const Stage& ownSoundOf(const Project& reel, std::size_t shot) {
  return shot == 0 ? reel.ownSound : reel.more[shot - 1].ownSound;
}

const ShotPlace& placeOf(const Project& reel, std::size_t shot) {
  return shot == 0 ? reel.place : reel.more[shot - 1].place;
}

Project withShots(Project reel, std::vector<Shot> shots) {
  reel.more.assign(std::make_move_iterator(shots.begin() + 1), std::make_move_iterator(shots.end()));
  put(reel, 0, std::move(shots[0]));
  return reel;
}

Shot shotOf(const Project& reel, std::size_t shot) {
  if (shot > 0) return reel.more[shot - 1];
  return {reel.source, reel.chain, reel.versionB, reel.ownSound, reel.place, reel.unknownShot};
}

Project shotAt(const Project& reel, std::size_t shot, double later) {
  Project project;
  put(project, 0, shotOf(reel, shot));
  project.output = reel.output;
  for (const Stage& sound : reel.sounds) project.sounds.push_back(laidLater(sound, later));
  return project;
}

Edit inShot(const Project& reel, std::size_t shot, const Edit& edit, double later) {
  Edit made{edit.name, reel, keyOf(shot, edit.mergeKey)};
  put(made.after, shot, shotOf(edit.after, 0));
  made.after.output = edit.after.output;
  made.after.sounds.clear();
  for (const Stage& sound : edit.after.sounds) {
    // What has not been touched stays to the bit.
    const auto same = std::find_if(reel.sounds.begin(), reel.sounds.end(), [&](const Stage& was) { return laidLater(was, later) == sound; });
    made.after.sounds.push_back(same == reel.sounds.end() ? laidLater(sound, -later) : *same);
  }
  return made;
}

Project reelChainOf(const Project& reel, const std::string& source) {
  Project project;
  project.source.path = source;
  project.chain = reel.reelChain;
  project.output = reel.output;
  project.sounds = reel.sounds;
  return project;
}

Edit ofReelChain(const Project& reel, const Edit& edit) {
  Edit made{edit.name, reel, edit.mergeKey.empty() ? std::string() : "reel " + edit.mergeKey};
  made.after.reelChain = edit.after.chain;
  made.after.output = edit.after.output;
  made.after.sounds = edit.after.sounds;
  return made;
}

Edit stopAtCuts(const Project& before, bool stops) {
  Edit edit{stops ? "Stop at cuts" : "Read across cuts", before, {}};
  edit.after.stopsAtCuts = stops;
  return edit;
}

Project asReel(const Project& single, Rational rate) {
  Project reel = single;
  if (!reel.more.empty()) return reel;
  if (reel.in && *reel.in > 0) reel.place.from = Rational(*reel.in) / rate;
  if (reel.out) reel.place.to = Rational(*reel.out + 1) / rate;
  reel.in.reset(), reel.out.reset();
  // A length that was fixed was the one shot's.
  reel.output.length.reset();
  return reel;
}

std::string shotTitle(const Project& reel, std::size_t shot) {
  const Shot one = shotOf(reel, shot);
  return one.place.name.empty() ? std::filesystem::path(one.source.path).stem().string() : one.place.name;
}

std::shared_ptr<const PaceCurve> courseThrough(Rational from, Rational lasts, Rational rate, const RunThrough& in, const RunThrough& out) {
  const bool comes = in.speed != Rational(1), goes = out.speed != Rational(1);
  if (!comes && !goes) return nullptr;
  const Rational picture = Rational(1) / rate;
  // What lies between the pictures beside the cuts is run at its own speed, but for the glides at its ends; each of those takes it
  // by (speed − 1)/2 of its length farther.
  const Rational between = lasts - (comes ? picture * in.speed : Rational(0)) - (goes ? picture : Rational(0));
  const Rational before = comes ? in.lasts : Rational(0), after = goes ? out.lasts : Rational(0);
  const double farther = (before * (in.speed - Rational(1)) + after * (out.speed - Rational(1))).toDouble() / 2;
  const double takes = comes && goes ? 2 * std::max(before, after).toDouble() : (before + after).toDouble();
  if (between < picture) return nullptr;
  const double room = between.toDouble();
  double share = takes + farther > room ? room / (takes + farther) : 1;
  // So that it is a whole number of pictures, glides are a little shorter than was asked.
  const double pictures = (room - share * farther) * rate.toDouble();
  std::int64_t whole = static_cast<std::int64_t>(farther > 0 ? std::ceil(pictures - 1e-9) : std::floor(pictures + 1e-9));
  whole = std::max<std::int64_t>(1, whole);
  constexpr double level = 1e-9;
  if (std::abs(farther) > level) share = std::clamp((room - static_cast<double>(whole) / rate.toDouble()) / farther, 0.0, 1.0);
  const auto glide = [&](Rational length) { return Rational::near(length.toDouble() * share); };
  // What glides cannot take up, the shot's own speed does, by less than a picture in all.
  const double first = glide(before).toDouble(), last = glide(after).toDouble(), lies = static_cast<double>(whole) / rate.toDouble();
  const double own = (room - (first * in.speed.toDouble() + last * out.speed.toDouble()) / 2) / (lies - (first + last) / 2);
  constexpr double same = 1e-6;
  const Rational speed = std::abs(own - 1) < same ? Rational(1) : Rational::near(std::max(0.0, own));
  PaceSpans spans;
  if (comes) spans.push_back({picture, in.speed, glide(before), 0, GlideSide::After});
  spans.push_back({Rational(whole) * picture, speed, goes ? glide(after) : Rational(0), 0, GlideSide::Before});
  if (goes) spans.push_back({picture, out.speed, 0, 0, GlideSide::Around});
  return std::make_shared<const PaceCurve>(from, std::move(spans));
}

std::vector<ShotTime> shotTimes(const Project& reel, const std::vector<ShotLength>& lengths, Rational rate) {
  std::vector<ShotTime> times;
  std::vector<std::int64_t> pictures;
  std::vector<Cut> cuts;  // after each
  for (std::size_t i = 0; i < shotCount(reel); ++i) {
    const ShotPlace& place = placeOf(reel, i);
    if (!place.on) continue;
    const Rational end = lengths[i].endless ? std::max(lengths[i].seconds, place.to.value_or(0)) : lengths[i].seconds;
    ShotTime time;
    time.shot = i;
    time.from = std::clamp(place.from.value_or(0), Rational(0), std::max(Rational(0), end - Rational(1) / rate));
    pictures.push_back(picturesBefore((std::min(place.to.value_or(end), end) - time.from) * rate));
    times.push_back(time);
    cuts.push_back(place.cut);
  }
  for (std::size_t k = 0; k < times.size(); ++k) {
    const Rational lasts = Rational(pictures[k]) / rate, half = Rational(1, 2) / rate;
    const auto own = [&](const RunThrough& through, Rational at) {
      return besideOwn(through, lengths[times[k].shot], (times[k].from + at).toDouble());
    };
    times[k].course = courseThrough(times[k].from, lasts, rate, k > 0 ? own(cuts[k - 1].through, half) : RunThrough{},
                                    k + 1 < times.size() ? own(cuts[k].through, lasts - half) : RunThrough{});
    if (times[k].course) pictures[k] = picturesBefore(times[k].course->length() * rate);
    times[k].length = Rational(pictures[k]) / rate;
  }
  for (std::size_t k = 0; k + 1 < times.size(); ++k) {
    // What the dissolve before has left of this one, and half of the next one, whose own dissolve wants room as well.
    const std::int64_t comes = (times[k].comes * rate).floor(), room = std::min(pictures[k] - comes, pictures[k + 1] / 2);
    const std::int64_t wished = (cuts[k].dissolve * rate + Rational(1, 2)).floor();
    times[k].goes = times[k + 1].comes = Rational(std::clamp<std::int64_t>(wished, 0, std::max<std::int64_t>(0, room))) / rate;
    times[k + 1].begin = times[k].end() - times[k].goes;
  }
  return times;
}

std::int64_t ShotFrames::toShot(std::int64_t ofReel) const {
  const Rational since = Rational(ofReel) / reelRate - time.begin;
  if (time.course) return static_cast<std::int64_t>(std::floor(time.course->at(since).seconds() * shotRate.toDouble() + 0.5 + samePosition));
  return ((since + time.from) * shotRate + Rational(1, 2)).floor();
}

std::int64_t ShotFrames::toReel(std::int64_t ofShot) const {
  if (!time.course) return std::clamp(((Rational(ofShot) / shotRate - time.from + time.begin) * reelRate + Rational(1, 2)).floor(), first(), last());
  // Time runs forwards: the first picture that shows it.
  std::int64_t low = first(), high = last();
  while (low < high) {
    const std::int64_t middle = low + (high - low) / 2;
    toShot(middle) < ofShot ? low = middle + 1 : high = middle;
  }
  return low;
}

Edit addShots(const Project& before, std::size_t at, const std::vector<Source>& sources) {
  const auto nameOf = [](const Source& source) { return std::filesystem::path(source.path).filename().string(); };
  std::vector<Shot> shots = shotsOf(before);
  std::vector<Shot> added;
  for (const Source& source : sources) added.push_back({.source = source});
  shots.insert(shots.begin() + static_cast<std::ptrdiff_t>(std::min(at, shots.size())), added.begin(), added.end());
  return {sources.size() == 1 ? "Add " + nameOf(sources[0]) : "Add " + std::to_string(sources.size()) + " shots",
          withShots(before, std::move(shots)),
          {}};
}

Edit removeShot(const Project& before, std::size_t shot) {
  std::vector<Shot> shots = shotsOf(before);
  shots.erase(shots.begin() + static_cast<std::ptrdiff_t>(shot));
  return {"Remove " + shotTitle(before, shot), withShots(before, std::move(shots)), {}};
}

Edit duplicateShot(const Project& before, std::size_t shot) {
  std::vector<Shot> shots = shotsOf(before);
  const Shot one = shots[shot];
  shots.insert(shots.begin() + static_cast<std::ptrdiff_t>(shot) + 1, one);
  return {"Duplicate " + shotTitle(before, shot), withShots(before, std::move(shots)), {}};
}

Edit moveShot(const Project& before, std::size_t shot, std::size_t to) {
  std::vector<Shot> shots = shotsOf(before);
  const Shot one = shots[shot];
  shots.erase(shots.begin() + static_cast<std::ptrdiff_t>(shot));
  shots.insert(shots.begin() + static_cast<std::ptrdiff_t>(std::min(to, shots.size())), one);
  return {"Move " + shotTitle(before, shot), withShots(before, std::move(shots)), {}};
}

Edit splitShot(const Project& before, std::size_t shot, Rational at) {
  std::vector<Shot> shots = shotsOf(before);
  Shot second = shots[shot];
  shots[shot].place.to = at;
  // The cut that was lies after the second half.
  shots[shot].place.cut = {};
  second.place.from = at;
  shots.insert(shots.begin() + static_cast<std::ptrdiff_t>(shot) + 1, std::move(second));
  return {"Split " + shotTitle(before, shot), withShots(before, std::move(shots)), {}};
}

Edit trimShot(const Project& before, std::size_t shot, std::optional<Rational> from, std::optional<Rational> to,
              const std::string& mergeKey) {
  Edit edit{"Trim " + shotTitle(before, shot), before, keyOf(shot, mergeKey)};
  ShotPlace& place = placeIn(edit.after, shot);
  place.from = from, place.to = to;
  return edit;
}

Edit switchShot(const Project& before, std::size_t shot, bool on) {
  Edit edit{shotTitle(before, shot) + (on ? " on" : " off"), before, {}};
  placeIn(edit.after, shot).on = on;
  return edit;
}

Edit fillShot(const Project& before, std::size_t shot, bool fills) {
  Edit edit{shotTitle(before, shot) + (fills ? " fills the reel's shape" : " fits into the reel's shape"), before, {}};
  placeIn(edit.after, shot).fills = fills;
  return edit;
}

Edit renameShot(const Project& before, std::size_t shot, const std::string& name) {
  Edit edit{"", before, {}};
  placeIn(edit.after, shot).name = name;
  edit.name = "Rename to " + shotTitle(edit.after, shot);
  return edit;
}

Edit setCut(const Project& before, std::size_t shot, const Cut& cut, const std::string& mergeKey) {
  std::string name = cut.dissolve > Rational(0) ? "Dissolve of " + secondsText(cut.dissolve.toDouble()) : "Hard cut";
  if (cut.through.speed != Rational(1))
    name = "Run through at " + std::to_string((cut.through.speed * Rational(100) + Rational(1, 2)).floor()) + " %";
  Edit edit{name, before, keyOf(shot, mergeKey)};
  placeIn(edit.after, shot).cut = cut;
  return edit;
}

}  // namespace molten

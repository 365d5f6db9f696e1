#include "core/engine/heard.h"

#include <algorithm>
#include <cmath>

#include "core/engine/measured_course.h"
#include "core/engine/sources.h"
#include "core/picture/blank.h"
#include "core/sound/kept_pitch.h"
#include "core/sound/loudness_course.h"
#include "core/sound/tape.h"
#include "core/stages/laid_sound.h"

namespace molten {
namespace {

/// So many sounds that were asked for are kept open.
constexpr std::size_t filesKept = 64;
/// A speed that close to 100 % is a sound's own.
constexpr double ownSpeed = 1e-3;

class OnTape : public SoundSource {
 public:
  OnTape(SoundCurve curve, std::shared_ptr<const SoundSource> source) : curve_(std::move(curve)), source_(std::move(source)) {}
  Status read(std::int64_t first, Sound& out, std::stop_token stop) const override {
    return tape(curve_, *source_, first, out, std::move(stop));
  }

 private:
  SoundCurve curve_;
  std::shared_ptr<const SoundSource> source_;
};

/// The same curve where it runs at the source's own speed; elsewhere nothing is heard.
SoundCurve atOwnSpeed(const SoundCurve::SecondsAt& secondsAt) {
  return SoundCurve([secondsAt](double seconds) {
    constexpr double sample = 1.0 / soundRate;
    const double at = secondsAt(seconds);
    return std::abs((secondsAt(seconds + sample) - at) / sample - 1) < ownSpeed ? at : std::nan("");
  });
}

std::int64_t samplesOf(double seconds) {
  return std::llround(seconds * soundRate);
}

std::function<double(double)> moreGainOf(const Stage& sound, const std::shared_ptr<const Followed>& followed) {
  if (!sound.varies(soundParameters(sound).gain)) return nullptr;
  return [sound, followed](double seconds) { return soundGain(sound, seconds, followed.get()); };
}

/// What gains follow: the shot's speed, and how loud sounds are. Those are taken without what they follow themselves.
class FollowedByGains : public Followed {
 public:
  explicit FollowedByGains(std::shared_ptr<const SoundCurve> curve) : curve_(std::move(curve)) {}
  void add(const Follow::Listening& by, std::shared_ptr<const SoundSource> source) {
    courses_.push_back({by, std::make_shared<const LoudnessCourse>(std::move(source), Band{by.low, by.high})});
  }
  bool has(const Follow::Listening& by) const { return find(by) != nullptr; }
  double value(const Follow& follow, double seconds) const override {
    const std::int64_t sample = std::llround(seconds * soundRate);
    if (follow.what == Follow::What::Speed) {
      const auto heard = curve_->positions(sample, 2);
      return std::isnan(heard[0]) || std::isnan(heard[1]) ? 0 : heard[1] - heard[0];
    }
    const LoudnessCourse* const course = follow.what == Follow::What::Loudness ? find(follow.listening) : nullptr;
    if (!course) return std::nan("");
    if (follow.listening.sound == 0) seconds = curve_->at(sample) / soundRate;
    return std::isnan(seconds) ? 0 : course->at(seconds, follow.listening.attack, follow.listening.release);
  }

 private:
  struct Course {
    Follow::Listening by;
    std::shared_ptr<const LoudnessCourse> course;
  };
  const LoudnessCourse* find(const Follow::Listening& by) const {
    for (const Course& one : courses_)
      if (one.by == by) return one.course.get();
    return nullptr;
  }

  std::shared_ptr<const SoundCurve> curve_;
  std::vector<Course> courses_;
};

}  // namespace

PlacedSound placedSound(const Stage& stage, const std::shared_ptr<SoundFeed>& feed, std::int64_t samples,
                        const std::shared_ptr<const Followed>& followed) {
  const LaidSound laid = laidSound(stage);
  PlacedSound placed;
  placed.source = feed;
  placed.at = samplesOf(laid.at);
  placed.from = samplesOf(laid.skipStart);
  const std::int64_t left = std::max<std::int64_t>(0, feed->length() - placed.from);
  if (laid.loop) placed.round = left;
  const std::int64_t whole = laid.loop ? std::max<std::int64_t>(0, samples - placed.at) : left;
  placed.length = laid.length > 0 ? samplesOf(laid.length) : whole;
  if (!laid.loop) placed.length = std::min(placed.length, left);
  placed.fadeIn = samplesOf(laid.fadeIn);
  placed.fadeOut = samplesOf(laid.fadeOut);
  placed.moreGain = moreGainOf(stage, followed);
  placed.gain = placed.moreGain ? 1.0f : static_cast<float>(soundGain(stage, 0));
  return placed;
}

std::int64_t samplesBefore(std::int64_t picture, Rational rate) {
  return (Rational(picture) / rate * Rational(soundRate)).floor();
}

Result<std::shared_ptr<SoundFeed>> SoundFiles::open(const std::string& path) {
  const std::scoped_lock lock(mutex_);
  const auto written = lastWritten(path);
  const auto at = std::find_if(open_.begin(), open_.end(), [&](const Open& one) { return one.path == path; });
  if (at != open_.end()) {
    open_.splice(open_.begin(), open_, at);
    if (at->written == written) return at->feed;
    open_.pop_front();
  }
  auto feed = SoundFeed::open(path, budget_, std::nullopt, outline_);
  open_.push_front({path, written, feed});
  if (open_.size() > filesKept) open_.pop_back();
  return feed;
}

Heard heardOf(const Project& project, std::shared_ptr<const ChainReading> reading, const Piece& piece, SoundFiles& files) {
  Heard heard;
  heard.samples = samplesBefore(piece.length, piece.rate);
  const SoundCurve::SecondsAt secondsAt = [reading, piece](double seconds) { return heardAt(*reading, piece, seconds); };
  heard.curve = std::make_shared<const SoundCurve>(secondsAt);
  const bool alone = soundSwitches(project.ownSound).alone ||
                     std::any_of(project.sounds.begin(), project.sounds.end(), [](const Stage& s) { return soundSwitches(s).alone; });
  const auto isHeard = [&](const Stage& sound) {
    const SoundSwitches level = soundSwitches(sound);
    return sound.on && !level.mute && (!alone || level.alone);
  };
  std::vector<PlacedSound> all;
  const std::string& footage = project.source.path;
  // Stills and blanks have no sound to look for, and a clip may well have none.
  if (!footage.empty() && !namesBlank(footage) && std::filesystem::is_regular_file(footage))
    if (auto own = files.open(footage)) heard.own = *own;
  const auto followed = std::make_shared<FollowedByGains>(heard.curve);
  const auto listen = [&](const Stage& sound) {
    for (const Follow& follow : toMeasure(sound)) {
      const Follow::Listening& by = follow.listening;
      if (follow.what != Follow::What::Loudness || followed->has(by) || by.sound > project.sounds.size()) continue;
      if (by.sound == 0) {
        if (heard.own) followed->add(by, heard.own);
      } else if (auto feed = files.open(laidSound(project.sounds[by.sound - 1]).file)) {
        followed->add(by, std::make_shared<const SoundMix>(std::vector{placedSound(project.sounds[by.sound - 1], *feed, heard.samples)}));
      }
    }
  };
  listen(project.ownSound);
  for (const Stage& stage : project.sounds) listen(stage);
  if (heard.own && isHeard(project.ownSound)) {
    PlacedSound placed;
    const OtherSpeeds speeds = otherSpeeds(project.ownSound);
    if (speeds == OtherSpeeds::KeepPitch)
      placed.source = std::make_shared<KeptPitch>(*heard.curve, heard.own, files.budget());
    else
      placed.source = std::make_shared<OnTape>(speeds == OtherSpeeds::Silent ? atOwnSpeed(secondsAt) : *heard.curve, heard.own);
    placed.length = heard.samples;
    placed.moreGain = moreGainOf(project.ownSound, followed);
    placed.gain = placed.moreGain ? 1.0f : static_cast<float>(soundGain(project.ownSound, 0));
    all.push_back(std::move(placed));
  }
  for (const Stage& stage : project.sounds) {
    Heard::Laid laid{stage, nullptr, {}};
    const std::string path = laidSound(stage).file;
    if (auto feed = files.open(path)) {
      laid.feed = *feed;
      laid.placed = placedSound(stage, *feed, heard.samples, followed);
      if (isHeard(stage)) all.push_back(laid.placed);
    } else if (!path.empty()) {
      heard.findings.push_back(feed.error().message);
    }
    heard.laid.push_back(std::move(laid));
  }
  heard.mix = std::make_shared<const SoundMix>(std::move(all));
  return heard;
}

std::vector<std::string> findingsOf(const Heard& heard) {
  std::vector<std::string> all = heard.findings;
  const auto add = [&](const std::shared_ptr<SoundFeed>& feed) {
    if (!feed) return;
    for (std::string& finding : feed->findings())
      if (std::find(all.begin(), all.end(), finding) == all.end()) all.push_back(std::move(finding));
  };
  add(heard.own);
  for (const Heard::Laid& laid : heard.laid) add(laid.feed);
  return all;
}

}  // namespace molten

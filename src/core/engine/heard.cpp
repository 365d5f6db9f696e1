#include "core/engine/heard.h"

#include <algorithm>
#include <cmath>

#include "core/engine/measured_course.h"
#include "core/engine/project_sound.h"
#include "core/picture/blank.h"
#include "core/project/files_behind.h"
#include "core/sound/kept_pitch.h"
#include "core/sound/loudness_course.h"
#include "core/sound/tape.h"
#include "core/stages/laid_sound.h"

namespace molten {
namespace {

/// So many sounds that were asked for are kept open.
constexpr std::size_t filesKept = 128;
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

/// What gains follow: the speed of the shot that is seen, and how loud sounds are. Those are taken without what they follow
/// themselves.
class FollowedByGains : public Followed {
 public:
  using Curves = std::vector<std::shared_ptr<const SoundCurve>>;
  /// Of each shot.
  explicit FollowedByGains(Curves curves) : curves_(std::move(curves)) {}
  /// Of a laid sound, or of a shot's own.
  void add(const Follow::Listening& by, std::size_t shot, std::shared_ptr<const SoundSource> source) {
    courses_.push_back({by, shot, std::make_shared<const LoudnessCourse>(std::move(source), Band{by.low, by.high})});
  }
  bool has(const Follow::Listening& by) const {
    return std::any_of(courses_.begin(), courses_.end(), [&](const Course& one) { return one.by == by; });
  }
  double value(const Follow& follow, double seconds) const override {
    const std::int64_t sample = std::llround(seconds * soundRate);
    std::size_t shot = 0;
    while (shot + 1 < curves_.size() && (!curves_[shot] || std::isnan(curves_[shot]->at(sample)))) ++shot;
    const SoundCurve* const curve = shot < curves_.size() ? curves_[shot].get() : nullptr;
    if (follow.what == Follow::What::Speed) {
      if (!curve) return 0;
      const auto heard = curve->positions(sample, 2);
      return std::isnan(heard[0]) || std::isnan(heard[1]) ? 0 : heard[1] - heard[0];
    }
    if (follow.what != Follow::What::Loudness || !has(follow.listening)) return std::nan("");
    const bool own = follow.listening.sound == 0;
    const auto course = std::find_if(courses_.begin(), courses_.end(), [&](const Course& one) { return one.by == follow.listening && (!own || one.shot == shot); });
    if (own) seconds = curve ? curve->at(sample) / soundRate : std::nan("");
    return std::isnan(seconds) || course == courses_.end() ? 0 : course->course->at(seconds, follow.listening.attack, follow.listening.release);
  }

 private:
  struct Course {
    Follow::Listening by;
    std::size_t shot;
    std::shared_ptr<const LoudnessCourse> course;
  };

  Curves curves_;
  std::vector<Course> courses_;
};

/// The moment of a row at so many seconds of the piece that shows it; NaN: none.
using RowSeconds = std::function<double(double seconds)>;

RowSeconds rowSeconds(const Project& project, const Played& played) {
  const ShotRow& row = *played.row;
  VideoDescription video{row.size, row.pixelAspect, row.rate, 1};
  video.setLength(row.seconds() * row.rate);
  const auto over = std::make_shared<const ChainReading>(project.reelChain, video);
  return [over, piece = played.piece](double seconds) { return heardAt(*over, piece, seconds); };
}

/// True if nothing after the last cut moves pictures in time.
bool runsEvenly(const Project& project, const Played& played) {
  const auto& row = *played.row;
  const ChainReading over(project.reelChain, {row.size, row.pixelAspect, row.rate, 1});
  bool evenly = played.piece.step == played.piece.chainRate / played.piece.rate;
  for (std::size_t k = 0; k < over.size(); ++k) evenly &= over.map(k).pixelWork() || over.map(k).frameWork();
  return evenly;
}

/// Seconds of a shot's source that are heard at so many of the piece.
SoundCurve::SecondsAt secondsOfShot(const RowSeconds& rowAt, const RowShot& shot, const std::shared_ptr<const ChainReading>& reading) {
  const double begin = shot.begin.toDouble(), length = shot.length.toDouble(), from = shot.from.toDouble();
  return [=](double seconds) {
    const double since = rowAt(seconds) - begin;
    if (!(since >= 0 && since < length)) return std::nan("");
    const VideoDescription& leaving = reading->outgoing();
    const double at = (from + since) * leaving.rate.toDouble(), whole = leaving.pictures().toDouble();
    if (!leaving.endless && at >= whole) return std::nan("");
    return reading->heardAt(leaving.endless ? std::fmod(at, whole) : at) / reading->source().rate.toDouble();
  };
}

/// How loud a shot is among its neighbours, of equal power together, by the piece's time; none: no dissolve touches it.
std::function<double(double)> dissolveOf(const RowSeconds& rowAt, const ShotRow& row, std::size_t k) {
  const double comes = row.shots[k].comes.toDouble(), goes = k + 1 < row.shots.size() ? row.shots[k + 1].comes.toDouble() : 0;
  if (comes == 0 && goes == 0) return nullptr;
  return [=, begin = row.shots[k].begin.toDouble(), end = row.shots[k].end().toDouble()](double seconds) {
    const double at = rowAt(seconds), quarter = std::acos(0.0);
    if (std::isnan(at)) return 0.0;
    double gain = 1;
    if (comes > 0) gain *= std::sin(std::clamp((at - begin) / comes, 0.0, 1.0) * quarter);
    if (goes > 0) gain *= std::sin(std::clamp((end - at) / goes, 0.0, 1.0) * quarter);
    return gain;
  };
}

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
  const auto at = std::find_if(open_.begin(), open_.end(), [&](const Open& one) { return one.path == path; });
  if (at != open_.end()) {
    open_.splice(open_.begin(), open_, at);
    if (at->written == lastWrittenOf(at->files)) return at->feed;
    open_.pop_front();
  }
  std::vector<std::string> files{path};
  if (namesProject(path))
    if (auto behind = filesBehind(path)) files = std::move(*behind);
  const auto written = lastWrittenOf(files);
  auto feed = namesProject(path) ? openProjectSound(path, budget_, outline_) : SoundFeed::open(path, budget_, std::nullopt, outline_);
  open_.push_front({path, std::move(files), written, feed});
  if (open_.size() > filesKept) open_.pop_back();
  return feed;
}

Heard heardOf(const Project& project, std::shared_ptr<const ChainReading> reading, const Piece& piece, SoundFiles& files,
              const std::stop_token& stop) {
  return heardOf(project, Played{project.chain, piece, {}, nullptr}, {std::move(reading)}, files, stop);
}

Heard heardOf(const Project& project, const Played& played, const std::vector<std::shared_ptr<const ChainReading>>& readings,
              SoundFiles& files, const std::stop_token& stop) {
  Heard heard;
  const Piece& piece = played.piece;
  heard.samples = samplesBefore(piece.length, piece.rate);
  const RowSeconds rowAt = played.row ? rowSeconds(project, played) : RowSeconds();
  const bool evenly = played.row && runsEvenly(project, played);
  bool alone = std::any_of(project.sounds.begin(), project.sounds.end(), [](const Stage& s) { return soundSwitches(s).alone; });
  for (std::size_t i = 0; i < shotCount(project); ++i) alone |= soundSwitches(ownSoundOf(project, i)).alone;
  const auto isHeard = [&](const Stage& sound) {
    const SoundSwitches level = soundSwitches(sound);
    return sound.on && !level.mute && (!alone || level.alone);
  };
  /// A shot that is seen.
  struct Seen {
    std::size_t shot;
    SoundCurve::SecondsAt secondsAt;
    std::shared_ptr<SoundFeed> feed;
  };
  std::vector<Seen> seen;
  FollowedByGains::Curves curves;
  for (std::size_t k = 0; k < (played.row ? played.times.size() : 1); ++k) {
    const std::size_t shot = played.row ? played.times[k].shot : 0;
    const auto& reading = readings[shot];
    if (!reading) {
      seen.push_back({shot, nullptr, nullptr});
      curves.push_back(nullptr);
      continue;
    }
    Seen one{shot, [reading, piece](double seconds) { return heardAt(*reading, piece, seconds); }, nullptr};
    if (played.row) one.secondsAt = secondsOfShot(rowAt, played.row->shots[k], reading);
    const std::string& footage = sourceOf(project, shot).path;
    // Stills and blanks have no sound to look for, and a clip may well have none.
    if (!stop.stop_requested() && !footage.empty() && !namesBlank(footage) && std::filesystem::is_regular_file(footage))
      if (auto own = files.open(footage)) one.feed = *own;
    curves.push_back(std::make_shared<const SoundCurve>(one.secondsAt));
    seen.push_back(std::move(one));
  }
  const auto followed = std::make_shared<FollowedByGains>(curves);
  const auto listen = [&](const Stage& sound) {
    for (const Follow& follow : toMeasure(sound)) {
      const Follow::Listening& by = follow.listening;
      if (follow.what != Follow::What::Loudness || followed->has(by) || by.sound > project.sounds.size()) continue;
      if (by.sound == 0) {
        for (std::size_t k = 0; k < seen.size(); ++k)
          if (seen[k].feed) followed->add(by, k, seen[k].feed);
      } else if (auto feed = files.open(laidSound(project.sounds[by.sound - 1]).file)) {
        followed->add(by, 0, std::make_shared<const SoundMix>(std::vector{placedSound(project.sounds[by.sound - 1], *feed, heard.samples)}));
      }
    }
  };
  for (const Seen& one : seen) listen(ownSoundOf(project, one.shot));
  for (const Stage& stage : project.sounds) listen(stage);
  std::vector<PlacedSound> all;
  for (std::size_t k = 0; k < seen.size(); ++k) {
    const Seen& one = seen[k];
    if (!one.feed) continue;
    const Stage& own = ownSoundOf(project, one.shot);
    heard.own.push_back({one.shot, one.feed, curves[k]});
    if (!isHeard(own)) continue;
    PlacedSound placed;
    const OtherSpeeds speeds = otherSpeeds(own);
    if (speeds == OtherSpeeds::KeepPitch)
      placed.source = std::make_shared<KeptPitch>(*curves[k], one.feed, files.budget());
    else
      placed.source = std::make_shared<OnTape>(speeds == OtherSpeeds::Silent ? atOwnSpeed(one.secondsAt) : *curves[k], one.feed);
    placed.length = heard.samples;
    if (evenly) {
      // What is silent need not be asked for.
      placed.at = placed.from = samplesOf(played.row->shots[k].begin.toDouble());
      placed.length = std::min(samplesOf(played.row->shots[k].end().toDouble()), heard.samples) - placed.at;
    }
    placed.moreGain = moreGainOf(own, followed);
    placed.gain = placed.moreGain ? 1.0f : static_cast<float>(soundGain(own, 0));
    if (const auto dissolve = played.row ? dissolveOf(rowAt, *played.row, k) : nullptr)
      placed.moreGain = [dissolve, more = placed.moreGain](double seconds) { return dissolve(seconds) * (more ? more(seconds) : 1); };
    all.push_back(std::move(placed));
  }
  for (const Stage& stage : project.sounds) {
    Heard::Laid laid{stage, nullptr, {}};
    const std::string path = laidSound(stage).file;
    if (stop.stop_requested()) break;
    if (auto feed = files.open(path)) {
      laid.feed = *feed;
      laid.placed = placedSound(stage, *feed, heard.samples, followed);
      if (isHeard(stage)) all.push_back(laid.placed);
    } else if (!path.empty()) {
      heard.findings.push_back(feed.error().message);
      if (isHeard(stage) && !heard.missing) heard.missing = feed.error();
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
  for (const Heard::Own& own : heard.own) add(own.feed);
  for (const Heard::Laid& laid : heard.laid) add(laid.feed);
  return all;
}

}  // namespace molten

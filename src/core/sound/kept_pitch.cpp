#include "core/sound/kept_pitch.h"

#include <rubberband/RubberBandStretcher.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <span>

#include "core/sound/tape.h"

namespace molten {
namespace {

using RubberBand::RubberBandStretcher;

/// Samples of a stretch, and over which neighbouring ones are blended.
constexpr std::int64_t stretchLength = 4 * soundRate, overlap = soundRate / 20;
/// What cancels out is made no louder than by this, of energy.
constexpr double leastLoud = 0.25;
constexpr std::size_t stretchesKept = 12;
/// Shorter ones are heard as on a tape.
constexpr std::size_t shortest = soundRate / 20;
/// Over how many samples one way goes over into the other.
constexpr std::size_t blend = soundRate / 100;
/// Samples of the source that are worked on at a time: so often it is seen how far the sound has come.
constexpr std::size_t lot = 256;
/// Over so many samples of the source it is brought to where it should have come; by what factor beyond the speeds that are
/// kept it may run for that.
constexpr double broughtIn = 4096, slack = 1.3;
/// Samples of the source, as measured: so far before the middle of its windows Rubber Band sets down a hit, at its own speed,
/// so that it comes the earlier the slower the rest runs.
constexpr double hitAhead = 250;
/// A speed that close to 100 % is left as it is.
constexpr double ownSpeed = 1e-4;

enum class Way { Tape, Forwards, Backwards };

struct Part {
  std::size_t begin, end;  ///< among the samples of a voice
  Way way;
};

/// What of a voice is heard in which way.
std::vector<Part> partsOf(const Voice& voice) {
  const auto wayAt = [&](std::size_t i) {
    const std::size_t at = std::min(i, voice.positions.size() - 2);
    const double step = voice.positions[at + 1] - voice.positions[at], speed = std::abs(step);
    if (speed < slowestKept - ownSpeed || speed > fastestKept + ownSpeed || std::abs(step - 1) < ownSpeed) return Way::Tape;
    return step > 0 ? Way::Forwards : Way::Backwards;
  };
  std::vector<Part> parts;
  if (voice.positions.size() < 2) return {{0, voice.positions.size(), Way::Tape}};
  for (std::size_t i = 0; i < voice.positions.size(); ++i) {
    const Way way = wayAt(i);
    if (!parts.empty() && parts.back().way == way)
      parts.back().end = i + 1;
    else
      parts.push_back({i, i + 1, way});
  }
  // Short ones go with what is beside them.
  std::vector<Part> merged;
  for (Part part : parts) {
    if (part.end - part.begin < shortest) part.way = Way::Tape;
    if (!merged.empty() && merged.back().way == part.way)
      merged.back().end = part.end;
    else
      merged.push_back(part);
  }
  return merged;
}

/// What Rubber Band has to say goes nowhere: nothing of it is the user's to act on.
struct Unheard : RubberBandStretcher::Logger {
  void log(const char*) override {}
  void log(const char*, double) override {}
  void log(const char*, double, double) override {}
};

/// The stretch of a source that a part runs through, in the direction in which it is heard, and a little on both sides; places
/// are counted in samples from its beginning.
class Passage {
 public:
  static Result<Passage> read(std::span<const double> positions, const SoundSource& source, std::stop_token stop) {
    Passage passage(positions);
    Sound in(static_cast<std::size_t>(passage.most_ - passage.least_ + 1));
    if (auto done = source.read(passage.least_, in, std::move(stop)); !done) return done.error();
    for (auto& channel : passage.values_) channel.resize(in.samples());
    for (std::size_t i = 0; i < in.samples(); ++i)
      for (std::size_t c = 0; c < soundChannels; ++c)
        passage.values_[c][passage.back_ ? in.samples() - 1 - i : i] = in.at(i, static_cast<int>(c));
    return passage;
  }
  std::size_t samples() const { return values_[0].size(); }
  const float* from(std::size_t channel, std::size_t at) const { return values_[channel].data() + at; }
  /// The sample of the part, not rounded, at which a place is heard; on both sides it goes on as fast as it comes or goes.
  double heardAt(double place) const {
    const double first = places_.front(), last = places_.back();
    if (place <= first) return (place - first) / speedIn_;
    if (place >= last) return static_cast<double>(places_.size() - 1) + (place - last) / speedOut_;
    const auto next = std::upper_bound(places_.begin(), places_.end(), place);
    const double before = *std::prev(next), step = *next - before;
    return static_cast<double>(next - places_.begin()) - 1 + (step > 0 ? (place - before) / step : 0);
  }

 private:
  explicit Passage(std::span<const double> positions) {
    constexpr std::int64_t margin = soundRate / 10;
    const double begin = positions.front(), end = positions.back();
    back_ = end < begin;
    least_ = static_cast<std::int64_t>(std::floor(std::min(begin, end))) - margin;
    most_ = static_cast<std::int64_t>(std::ceil(std::max(begin, end))) + margin;
    for (const double position : positions)
      places_.push_back(back_ ? static_cast<double>(most_) - position : position - static_cast<double>(least_));
    speedIn_ = std::clamp(places_[1] - places_[0], slowestKept, fastestKept);
    speedOut_ = std::clamp(places_.back() - places_[places_.size() - 2], slowestKept, fastestKept);
  }

  bool back_ = false;
  std::int64_t least_ = 0, most_ = 0;
  std::vector<double> places_;
  double speedIn_ = 1, speedOut_ = 1;
  std::array<std::vector<float>, soundChannels> values_;
};

/// The samples of a part, its pitch kept.
Result<Sound> stretched(std::span<const double> positions, const SoundSource& source, std::stop_token stop) {
  const auto passage = Passage::read(positions, source, stop);
  if (!passage) return passage.error();
  const auto ratioAt = [&](double place) { return (passage->heardAt(place + lot) - passage->heardAt(place)) / lot; };
  RubberBandStretcher stretcher(soundRate, soundChannels, std::make_shared<Unheard>(),
                                RubberBandStretcher::OptionProcessRealTime | RubberBandStretcher::OptionEngineFiner |
                                    RubberBandStretcher::OptionThreadingNever | RubberBandStretcher::OptionChannelsTogether,
                                ratioAt(0));
  stretcher.setMaxProcessSize(std::max<std::size_t>(lot, stretcher.getPreferredStartPad()));
  const std::size_t pad = stretcher.getPreferredStartPad();
  const std::vector<float> silence(pad);
  const float* const nothing[] = {silence.data(), silence.data()};
  if (pad > 0) stretcher.process(nothing, pad, false);
  // Of what comes out, the first sample that counts, and the number of the next one.
  const auto delay = static_cast<std::int64_t>(stretcher.getStartDelay());
  std::int64_t at = std::llround(passage->heardAt(0)) - delay;
  Sound out(positions.size());
  std::array<std::vector<float>, soundChannels> got;
  const auto take = [&] {
    const int there = stretcher.available();
    if (there <= 0) return;
    for (auto& channel : got) channel.resize(static_cast<std::size_t>(there));
    float* const data[] = {got[0].data(), got[1].data()};
    const std::size_t taken = stretcher.retrieve(data, static_cast<std::size_t>(there));
    for (std::size_t i = 0; i < taken; ++i, ++at)
      if (at >= 0 && at < static_cast<std::int64_t>(out.samples()))
        for (std::size_t c = 0; c < soundChannels; ++c) out.at(static_cast<std::size_t>(at), static_cast<int>(c)) = got[c][i];
  };
  for (std::size_t fed = 0; fed < passage->samples(); fed += lot) {
    if (stop.stop_requested()) return cancelledError();
    take();
    // The middle of what it works on next, and how far what has come out is from where that should be heard.
    const double place = static_cast<double>(fed) - static_cast<double>(pad) + static_cast<double>(stretcher.getSamplesRequired());
    const double slower = ratioAt(place), early = hitAhead * std::max(0.0, slower - 1);
    const double late = passage->heardAt(place) + early - static_cast<double>(at + delay);
    const double ratio = slower + late / broughtIn;
    stretcher.setTimeRatio(std::clamp(ratio, 1 / (fastestKept * slack), slack / slowestKept));
    const std::size_t some = std::min(lot, passage->samples() - fed);
    const float* const data[] = {passage->from(0, fed), passage->from(1, fed)};
    stretcher.process(data, some, fed + some == passage->samples());
  }
  take();
  return out;
}

/// How alike two sounds are, −1…1: where they are blended they are made so much softer that the blend is as loud as they are.
double likeness(std::span<const float> a, std::span<const float> b) {
  double ab = 0, aa = 0, bb = 0;
  for (std::size_t i = 0; i < a.size(); ++i) {
    const double x = static_cast<double>(a[i]), y = static_cast<double>(b[i]);
    ab += x * y, aa += x * x, bb += y * y;
  }
  return aa > 0 && bb > 0 ? ab / std::sqrt(aa * bb) : 1;
}

/// A voice of its own for a part of one, that goes on on both sides while it blends.
Voice partOf(const Voice& voice, const Part& part) {
  const std::size_t before = part.begin > 0 ? std::min(blend / 2, part.begin) : 0;
  const std::size_t all = voice.positions.size(), after = part.end < all ? std::min(blend / 2, all - part.end) : 0;
  const std::size_t begin = part.begin - before, end = part.end + after;
  const auto cut = [&](const auto& values) {
    return std::decay_t<decltype(values)>(values.begin() + static_cast<std::ptrdiff_t>(begin),
                                          values.begin() + static_cast<std::ptrdiff_t>(end));
  };
  Voice made{voice.begin + begin, end - begin, cut(voice.positions), cut(voice.gains), cut(voice.widths)};
  const auto ramp = [&](std::size_t i, std::size_t length) {
    return (static_cast<float>(i) + 0.5f) / static_cast<float>(length);
  };
  for (std::size_t i = 0; before > 0 && i < 2 * before && i < made.gains.size(); ++i) made.gains[i] *= ramp(i, 2 * before);
  for (std::size_t i = 0; after > 0 && i < 2 * after && i < made.gains.size(); ++i)
    made.gains[made.gains.size() - 1 - i] *= ramp(i, 2 * after);
  return made;
}

}  // namespace

KeptPitch::KeptPitch(SoundCurve curve, std::shared_ptr<const SoundSource> source, std::shared_ptr<MemoryBudget> budget)
    : curve_(std::move(curve)), source_(std::move(source)), budget_(std::move(budget)) {}

/// A stretch and what overlaps with its neighbours.
Result<Sound> KeptPitch::make(std::int64_t number, std::stop_token stop) const {
  const std::int64_t first = number * stretchLength - overlap;
  Sound out(static_cast<std::size_t>(stretchLength + 2 * overlap));
  const std::vector<double> positions =
      curve_.positions(first - static_cast<std::int64_t>(curveAround), out.samples() + 2 * curveAround);
  for (const Voice& voice : voicesOf(positions, runsOf(positions)))
    for (const Part& part : partsOf(voice)) {
      if (part.way == Way::Tape) {
        if (auto added = addTape(partOf(voice, part), *source_, curveAround, out, 0, out.samples(), stop); !added)
          return added.error();
        continue;
      }
      const Voice sounds = partOf(voice, part);
      auto kept = stretched(sounds.positions, *source_, stop);
      if (!kept) return kept;
      for (std::size_t i = 0; i < kept->samples(); ++i) {
        const std::size_t at = sounds.begin + i;
        if (at < curveAround || at - curveAround >= out.samples()) continue;
        for (int c = 0; c < soundChannels; ++c) out.at(at - curveAround, c) += sounds.gains[i] * kept->at(i, c);
      }
    }
  return out;
}

Result<std::shared_ptr<const Sound>> KeptPitch::stretch(std::int64_t number, std::stop_token stop) const {
  const auto known = [&]() -> std::shared_ptr<const Sound> {
    const std::scoped_lock lock(mutex_);
    const auto at = std::find_if(made_.begin(), made_.end(), [&](const Made& made) { return made.number == number; });
    if (at == made_.end()) return nullptr;
    made_.splice(made_.begin(), made_, at);
    return at->sound;
  };
  if (auto sound = known()) return sound;
  const std::scoped_lock one(making_);
  if (auto sound = known()) return sound;
  auto made = make(number, stop);
  if (!made) return made.error();
  const std::size_t bytes = made->values().size_bytes();
  const std::scoped_lock lock(mutex_);
  made_.push_front({number, std::make_shared<const Sound>(std::move(*made)), {budget_, bytes}});
  if (made_.size() > stretchesKept) made_.pop_back();
  return made_.front().sound;
}

Status KeptPitch::read(std::int64_t first, Sound& out, std::stop_token stop) const {
  std::fill(out.values().begin(), out.values().end(), 0.0f);
  const std::int64_t last = first + static_cast<std::int64_t>(out.samples());
  const auto numberOf = [](std::int64_t sample) {
    return sample >= 0 ? sample / stretchLength : -((-sample + stretchLength - 1) / stretchLength);
  };
  std::shared_ptr<const Sound> before;
  for (std::int64_t n = numberOf(first - overlap); n <= numberOf(last - 1 + overlap); ++n) {
    const auto sound = stretch(n, stop);
    if (!sound) return sound.error();
    const std::int64_t begin = n * stretchLength - overlap, end = (n + 1) * stretchLength + overlap;
    constexpr auto shared = static_cast<std::size_t>(2 * overlap * soundChannels);
    const double alike = before ? likeness(before->values().last(shared), (*sound)->values().first(shared)) : 1;
    for (std::int64_t at = std::max(first, begin); at < std::min(last, end); ++at) {
      // Over twice the overlap it comes in place of the one before.
      const double in = std::min(1.0, (static_cast<double>(at - begin) + 0.5) / (2 * overlap));
      const double loud = std::sqrt(std::max(leastLoud, 1 - 2 * in * (1 - in) * (1 - alike)));
      for (int c = 0; c < soundChannels; ++c) {
        float& value = out.at(static_cast<std::size_t>(at - first), c);
        const float now = (*sound)->at(static_cast<std::size_t>(at - begin), c);
        value = in < 1 && now != value ? static_cast<float>((value + in * static_cast<double>(now - value)) / loud) : now;
      }
    }
    before = *sound;
  }
  return {};
}

}  // namespace molten

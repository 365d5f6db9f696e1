#include "core/sound/kept_pitch.h"

#include <rubberband/RubberBandStretcher.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "core/sound/tape.h"

namespace molten {
namespace {

using RubberBand::RubberBandStretcher;

/// Samples of a stretch, and over which neighbouring ones are blended.
constexpr std::int64_t stretchLength = 8 * soundRate, overlap = soundRate / 20;
constexpr std::size_t stretchesKept = 6;
/// Shorter ones are heard as on a tape.
constexpr std::size_t shortest = soundRate / 20;
/// Over how many samples one way goes over into the other.
constexpr std::size_t blend = soundRate / 100;
/// So often it is said how far the sound should have come.
constexpr std::size_t probeStep = 1024;
constexpr std::size_t lot = 4096;
/// A speed that close to 100 % is left as it is.
constexpr double ownSpeed = 1e-4;

enum class Way { Tape, Kept };

struct Part {
  std::size_t begin, end;  ///< among the samples of a voice
  Way way;
};

/// What of a voice is heard in which way.
std::vector<Part> partsOf(const Voice& voice) {
  const auto wayAt = [&](std::size_t i) {
    const std::size_t at = std::min(i, voice.positions.size() - 2);
    const double step = voice.positions[at + 1] - voice.positions[at], speed = std::abs(step);
    return speed < slowestKept || speed > fastestKept || std::abs(step - 1) < ownSpeed ? Way::Tape : Way::Kept;
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
    if (part.way == Way::Kept && part.end - part.begin < shortest) part.way = Way::Tape;
    if (!merged.empty() && merged.back().way == part.way)
      merged.back().end = part.end;
    else
      merged.push_back(part);
  }
  return merged;
}

/// The samples of a part, its pitch kept.
Result<Sound> stretched(const std::vector<double>& positions, const Part& part, const SoundSource& source,
                        std::stop_token stop) {
  const std::size_t count = part.end - part.begin;
  const double begin = positions[part.begin], end = positions[part.end - 1];
  const bool back = end < begin;
  // Read in its own direction, a little on both sides; backwards it is turned round first.
  constexpr std::int64_t margin = soundRate / 10;
  const auto least = static_cast<std::int64_t>(std::floor(std::min(begin, end))) - margin;
  const auto most = static_cast<std::int64_t>(std::ceil(std::max(begin, end))) + margin;
  Sound in(static_cast<std::size_t>(most - least + 1));
  if (auto read = source.read(least, in, stop); !read) return read.error();
  std::vector<float> left(in.samples()), right(in.samples());
  for (std::size_t i = 0; i < in.samples(); ++i) {
    const std::size_t to = back ? in.samples() - 1 - i : i;
    left[to] = in.at(i, 0), right[to] = in.at(i, 1);
  }
  const auto along = [&](double position) {
    return back ? static_cast<double>(most) - position : position - static_cast<double>(least);
  };
  // At both ends it goes on at the speed that it has there.
  const double first = along(begin), last = along(end);
  const double speedIn = std::clamp(along(positions[part.begin + 1]) - first, slowestKept, fastestKept);
  const double speedOut = std::clamp(last - along(positions[part.end - 2]), slowestKept, fastestKept);
  const double before = first / speedIn, after = (static_cast<double>(in.samples()) - last) / speedOut;
  const double length = before + static_cast<double>(count) + after;

  RubberBandStretcher stretcher(soundRate, soundChannels,
                                RubberBandStretcher::OptionProcessOffline | RubberBandStretcher::OptionEngineFiner |
                                    RubberBandStretcher::OptionThreadingNever | RubberBandStretcher::OptionChannelsTogether,
                                length / static_cast<double>(in.samples()));
  std::map<std::size_t, std::size_t> marks;
  for (std::size_t i = 0; i < count; i += probeStep)
    marks[static_cast<std::size_t>(std::llround(along(positions[part.begin + i])))] =
        static_cast<std::size_t>(std::llround(before + static_cast<double>(i)));
  stretcher.setExpectedInputDuration(in.samples());
  stretcher.setMaxProcessSize(lot);
  stretcher.setKeyFrameMap(marks);
  const auto each = [&](auto work) {
    for (std::size_t at = 0; at < left.size(); at += lot) {
      if (stop.stop_requested()) return false;
      const float* const data[] = {left.data() + at, right.data() + at};
      const std::size_t some = std::min(lot, left.size() - at);
      work(data, some, at + some == left.size());
    }
    return true;
  };
  if (!each([&](const float* const* data, std::size_t some, bool final) { stretcher.study(data, some, final); }))
    return cancelledError();
  Sound out(count);
  std::vector<float> gotLeft, gotRight;
  const auto skipped = static_cast<std::int64_t>(std::llround(before));
  std::int64_t at = -skipped;
  const auto take = [&] {
    const int there = stretcher.available();
    if (there <= 0) return;
    gotLeft.resize(static_cast<std::size_t>(there)), gotRight.resize(static_cast<std::size_t>(there));
    float* const data[] = {gotLeft.data(), gotRight.data()};
    const std::size_t got = stretcher.retrieve(data, static_cast<std::size_t>(there));
    for (std::size_t i = 0; i < got; ++i, ++at)
      if (at >= 0 && at < static_cast<std::int64_t>(count)) {
        out.at(static_cast<std::size_t>(at), 0) = gotLeft[i];
        out.at(static_cast<std::size_t>(at), 1) = gotRight[i];
      }
  };
  if (!each([&](const float* const* data, std::size_t some, bool final) {
        stretcher.process(data, some, final);
        take();
      }))
    return cancelledError();
  take();
  return out;
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
      auto kept = stretched(sounds.positions, {0, sounds.positions.size(), Way::Kept}, *source_, stop);
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
  for (std::int64_t n = numberOf(first - overlap); n <= numberOf(last - 1 + overlap); ++n) {
    const auto sound = stretch(n, stop);
    if (!sound) return sound.error();
    const std::int64_t begin = n * stretchLength - overlap, end = (n + 1) * stretchLength + overlap;
    for (std::int64_t at = std::max(first, begin); at < std::min(last, end); ++at) {
      // Over twice the overlap the one goes and the other comes.
      const double in = (static_cast<double>(at - begin) + 0.5) / (2 * overlap);
      const double going = (static_cast<double>(end - at) - 0.5) / (2 * overlap);
      const auto gain = static_cast<float>(std::min({1.0, in, going}));
      for (int c = 0; c < soundChannels; ++c)
        out.at(static_cast<std::size_t>(at - first), c) += gain * (*sound)->at(static_cast<std::size_t>(at - begin), c);
    }
  }
  return {};
}

}  // namespace molten

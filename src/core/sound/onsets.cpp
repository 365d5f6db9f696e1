#include "core/sound/onsets.h"

#include <aubio/aubio.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <optional>

namespace molten {
namespace {

constexpr unsigned lookedAt = 1024, hop = 256;
/// Onsets are no closer to each other, in milliseconds; what is softer, in decibels, is none.
constexpr float leastApart = 40, softest = -60;
/// Where the sound rises is looked for around what was found, in steps, in samples.
constexpr std::int64_t before = 2400, after = 2400, step = 48;
/// Samples before and after an onset whose energy is compared.
constexpr std::int64_t compared = 960;
/// What goes before it for the search to settle, in samples.
constexpr std::int64_t settling = 8192;

struct Delete {
  void operator()(aubio_onset_t* p) const { del_aubio_onset(p); }
  void operator()(fvec_t* p) const { del_fvec(p); }
};

/// Where the energy of a step rises most above that of the ones before it; none: the sound has not `louder` times the energy
/// after it.
Result<std::optional<std::int64_t>> steepest(const SoundSource& source, std::int64_t found, double louder,
                                             std::stop_token stop) {
  Sound around(static_cast<std::size_t>(before + after));
  const std::int64_t first = found - before;
  if (auto read = source.read(first, around, stop); !read) return read.error();
  const auto energyOf = [&](std::int64_t from, std::int64_t samples = step) {
    double sum = 0;
    for (std::int64_t i = from; i < from + samples; ++i)
      for (int c = 0; c < soundChannels; ++c) {
        const double value = around.at(static_cast<std::size_t>(i), c);
        sum += value * value;
      }
    return sum;
  };
  constexpr int held = 4;
  std::int64_t best = before;
  double most = 0;
  for (std::int64_t at = held * step; at + 2 * step <= before + after; at += step) {
    double was = 0;
    for (int k = 1; k <= held; ++k) was += energyOf(at - k * step) / held;
    const double rise = energyOf(at) + energyOf(at + step) - 2 * was;
    if (rise > most) most = rise, best = at;
  }
  const std::int64_t beside = std::min({compared, best, before + after - best});
  if (energyOf(best, beside) < louder * energyOf(best - beside, beside)) return std::optional<std::int64_t>();
  return std::optional(first + best);
}

/// One of aubio's ways of looking for onsets.
class Detector {
 public:
  Detector(const char* way, double threshold) : onset_(new_aubio_onset(way, lookedAt, hop, soundRate)), found_(new_fvec(1)) {
    if (!onset_ || !found_) return;
    aubio_onset_set_threshold(onset_.get(), static_cast<float>(threshold));
    aubio_onset_set_silence(onset_.get(), softest);
    aubio_onset_set_minioi_ms(onset_.get(), leastApart);
  }
  bool works() const { return onset_ && found_; }
  /// Samples since the first that it was given, if it finds one.
  std::optional<std::int64_t> look(const fvec_t& samples) {
    aubio_onset_do(onset_.get(), &samples, found_.get());
    if (fvec_get_sample(found_.get(), 0) == 0) return std::nullopt;
    return static_cast<std::int64_t>(aubio_onset_get_last(onset_.get()));
  }

 private:
  std::unique_ptr<aubio_onset_t, Delete> onset_;
  std::unique_ptr<fvec_t, Delete> found_;
};

}  // namespace

Result<std::vector<std::int64_t>> onsetsIn(const SoundSource& source, std::int64_t first, std::int64_t last,
                                           double sensitivity, std::stop_token stop) {
  const double clearest = 1 - std::clamp(sensitivity, 0.0, 1.0);
  // The one hears changes of what sounds, the other of how loud it is: soft hits among loud ones.
  Detector detectors[] = {{"complex", 0.03 * std::pow(40, clearest)}, {"energy", 0.03 * std::pow(40, clearest)}};
  const double louder = 1.25 * std::pow(4, clearest);
  const std::unique_ptr<fvec_t, Delete> in(new_fvec(hop));
  if (!in || !detectors[0].works() || !detectors[1].works()) return outOfMemoryError();
  std::vector<std::int64_t> onsets;
  Sound some(hop);
  const std::int64_t begin = first - settling;
  for (std::int64_t at = begin; at < last + settling; at += hop) {
    if (stop.stop_requested()) return cancelledError();
    if (auto read = source.read(at, some, stop); !read) return read.error();
    for (unsigned i = 0; i < hop; ++i) fvec_set_sample(in.get(), (some.at(i, 0) + some.at(i, 1)) / 2, i);
    for (Detector& detector : detectors) {
      const auto found = detector.look(*in);
      if (!found) continue;
      const auto rise = steepest(source, begin + *found, louder, stop);
      if (!rise) return rise.error();
      if (*rise && **rise >= first && **rise < last) onsets.push_back(**rise);
    }
  }
  std::sort(onsets.begin(), onsets.end());
  std::vector<std::int64_t> apart;
  for (const std::int64_t onset : onsets)
    if (apart.empty() || onset - apart.back() > soundRate * static_cast<std::int64_t>(leastApart) / 1000) apart.push_back(onset);
  return apart;
}

}  // namespace molten

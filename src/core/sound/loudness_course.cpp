#include "core/sound/loudness_course.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace molten {
namespace {

/// Samples from one level to the next, and what counts for one: as many before it as after.
constexpr std::int64_t levelApart = soundRate / 100, countedAround = 1024;
/// Levels that are found together.
constexpr std::int64_t levelsTogether = 128;
/// Decibels that are told as 0.
constexpr double floorDecibels = -60;

/// One of the two halves of a Butterworth filter of the fourth order (R. Bristow-Johnson, Cookbook formulae for audio equalizer
/// biquad filter coefficients).
class Half {
 public:
  enum class Passes { Low, High };
  Half(Passes passes, double hertz, double quality) {
    const double w = 2 * std::acos(-1.0) * hertz / soundRate, c = std::cos(w), alpha = std::sin(w) / (2 * quality);
    const double scale = 1 / (1 + alpha);
    b1_ = (passes == Passes::Low ? 1 - c : -1 - c) * scale;
    b0_ = b2_ = std::abs(b1_) / 2;
    a1_ = -2 * c * scale, a2_ = (1 - alpha) * scale;
  }
  double pass(double in) {
    const double out = b0_ * in + s1_;
    s1_ = b1_ * in - a1_ * out + s2_;
    s2_ = b2_ * in - a2_ * out;
    return out;
  }

 private:
  double b0_ = 0, b1_ = 0, b2_ = 0, a1_ = 0, a2_ = 0, s1_ = 0, s2_ = 0;
};

std::vector<Half> halvesOf(const Band& band) {
  constexpr double qualities[] = {0.54119610, 1.30656296};
  constexpr double highest = 0.49 * soundRate;
  std::vector<Half> halves;
  for (const double quality : qualities) {
    if (band.low > 0) halves.emplace_back(Half::Passes::High, std::min(band.low, highest), quality);
    if (band.high > 0 && band.high < highest) halves.emplace_back(Half::Passes::Low, band.high, quality);
  }
  return halves;
}

/// Samples that go before what counts, for the filter to settle: four waves of its lowest end, a second at most.
std::int64_t settlingOf(const Band& band) {
  double lowest = band.low;
  if (band.high > 0 && (lowest <= 0 || band.high < lowest)) lowest = band.high;
  return lowest <= 0 ? 0 : std::llround(std::min(1.0, 4 / lowest + 0.01) * soundRate);
}

const std::array<double, 2 * countedAround>& window() {
  static const auto weights = [] {
    std::array<double, 2 * countedAround> all{};
    double sum = 0;
    for (std::size_t i = 0; i < all.size(); ++i) {
      const double wave = std::cos(2 * std::acos(-1.0) * (static_cast<double>(i) + 0.5) / static_cast<double>(all.size()));
      sum += all[i] = 0.5 - 0.5 * wave;
    }
    for (double& weight : all) weight /= sum;
    return all;
  }();
  return weights;
}

float levelOf(double meanSquare) {
  // A sine's mean square is half that of its peak.
  const double decibels = 10 * std::log10(std::max(2 * meanSquare, 1e-12));
  return static_cast<float>(std::clamp(1 - decibels / floorDecibels, 0.0, 1.0));
}

}  // namespace

LoudnessCourse::LoudnessCourse(std::shared_ptr<const SoundSource> source, Band band) : source_(std::move(source)), band_(band) {}

std::shared_ptr<const LoudnessCourse::Levels> LoudnessCourse::block(std::int64_t number) const {
  {
    const std::scoped_lock lock(mutex_);
    if (const auto known = known_.find(number); known != known_.end()) return known->second;
  }
  const std::int64_t settling = settlingOf(band_), counted = (levelsTogether - 1) * levelApart + 2 * countedAround;
  Sound sound(static_cast<std::size_t>(settling + counted));
  const std::int64_t first = number * levelsTogether * levelApart - countedAround;
  std::shared_ptr<Levels> levels;
  if (source_->read(first - settling, sound, {})) {
    std::vector<double> squares(static_cast<std::size_t>(counted));
    for (int channel = 0; channel < soundChannels; ++channel) {
      std::vector<Half> halves = halvesOf(band_);
      for (std::size_t i = 0; i < sound.samples(); ++i) {
        double value = sound.at(i, channel);
        for (Half& half : halves) value = half.pass(value);
        if (i >= static_cast<std::size_t>(settling)) squares[i - static_cast<std::size_t>(settling)] += value * value / soundChannels;
      }
    }
    levels = std::make_shared<Levels>();
    for (std::int64_t k = 0; k < levelsTogether; ++k) {
      double mean = 0;
      for (std::size_t i = 0; i < window().size(); ++i) mean += window()[i] * squares[static_cast<std::size_t>(k * levelApart) + i];
      levels->push_back(levelOf(mean));
    }
  }
  const std::scoped_lock lock(mutex_);
  return known_.emplace(number, std::move(levels)).first->second;
}

double LoudnessCourse::level(std::int64_t number) const {
  const std::int64_t within = (number % levelsTogether + levelsTogether) % levelsTogether;
  const auto levels = block((number - within) / levelsTogether);
  return levels ? (*levels)[static_cast<std::size_t>(within)] : std::nan("");
}

/// What lies further back than both times together cannot matter: it has fallen to 0, or has risen to 1.
double LoudnessCourse::limited(std::int64_t number, std::int64_t attack, std::int64_t release) const {
  const double falls = release > 0 ? 1.0 / static_cast<double>(release) : 1, rises = attack > 0 ? 1.0 / static_cast<double>(attack) : 1;
  double held = 0, risen = 1;
  for (std::int64_t k = number - attack - release; k <= number; ++k) {
    const double now = level(k);
    if (std::isnan(now)) return now;
    held = std::max(now, held - falls);
    if (k >= number - attack) risen = k == number - attack ? held : std::min(held, risen + rises);
  }
  return risen;
}

double LoudnessCourse::at(double seconds, double attack, double release) const {
  constexpr double aSecond = static_cast<double>(soundRate) / levelApart;
  const double place = seconds * aSecond, below = std::floor(place), share = place - below;
  const auto number = static_cast<std::int64_t>(below);
  const std::int64_t up = std::llround(attack * aSecond), down = std::llround(release * aSecond);
  const double first = limited(number, up, down);
  return share == 0 ? first : first + (limited(number + 1, up, down) - first) * share;
}

}  // namespace molten

#include "sounds.h"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <memory>
#include <numbers>

#include "core/media/muxer.h"
#include "core/media/sound_track.h"

namespace demo {
namespace {

using molten::Sound;
using molten::soundRate;

constexpr double turn = 2 * std::numbers::pi;

/// −1…1 by lot, the same for the same number (lowbias32: Wellons, Prospecting for Hash Functions, 2018).
double noise(std::uint32_t x) {
  x = (x ^ (x >> 16)) * 0x7feb352du;
  x = (x ^ (x >> 15)) * 0x846ca68bu;
  return static_cast<double>(x ^ (x >> 16)) / 2147483648.0 - 1;
}

double smooth(double from, double to, double x) {
  const double t = std::clamp((x - from) / (to - from), 0.0, 1.0);
  return t * t * (3 - 2 * t);
}

/// What lies between two frequencies of what passes: one pole on each side.
class Band {
 public:
  Band(double low, double high)
      : low_(1 - std::exp(-turn * low / soundRate)), high_(1 - std::exp(-turn * high / soundRate)) {}
  double operator()(double value) {
    below_ += (value - below_) * high_;
    under_ += (below_ - under_) * low_;
    return below_ - under_;
  }

 private:
  double low_, high_, below_ = 0, under_ = 0;
};

/// `value(seconds, channel)` for each sample.
template <class Value>
Sound made(double seconds, Value value) {
  Sound sound(static_cast<std::size_t>(std::llround(seconds * soundRate)));
  for (std::size_t i = 0; i < sound.samples(); ++i)
    for (int c = 0; c < molten::soundChannels; ++c)
      sound.at(i, c) = static_cast<float>(value(static_cast<double>(i) / soundRate, c, static_cast<std::uint32_t>(i)));
  return sound;
}

/// A wheel that turns faster and faster, or comes to rest: its tone is `low` to `high`, in hertz.
Sound whirr(double seconds, double low, double high) {
  const double grows = std::log(high / low) / seconds;
  Band air[] = {{300, 4000}, {300, 4000}};
  return made(seconds, [&](double t, int c, std::uint32_t i) {
    // Turns so far of a tone that rises evenly to the ear.
    const double phase = turn * low * (std::exp(grows * t) - 1) / grows, speed = std::exp(grows * t) * low / std::max(low, high);
    double tone = 0;
    for (int k = 1; k <= 7; ++k) tone += std::sin(k * phase + c * 0.3 * k) / (k * (k % 2 ? 1.0 : 1.8));
    const double blades = 0.75 + 0.25 * std::sin(phase / 3 + c);
    const double wind = air[c](noise(i * 2 + static_cast<std::uint32_t>(c))) * 0.9;
    const double loud = (0.25 + 0.75 * speed) * smooth(0, 0.05, t) * smooth(seconds, seconds - 0.12, t);
    return loud * (0.22 * tone * blades + 0.5 * speed * wind);
  });
}

/// A hammer on an anvil, so many seconds ago.
double hit(double t, int c, std::uint32_t i, double weight) {
  if (t < 0) return 0;
  constexpr struct {
    double hertz, decay, loud;
  } rings[] = {{812, 4.5, 0.30}, {1187, 6, 0.34}, {2313, 8, 0.26}, {3149, 11, 0.20}, {4871, 16, 0.14}, {6523, 24, 0.10}};
  double value = 0;
  for (const auto& ring : rings)
    value += ring.loud * std::sin(turn * ring.hertz * t + 0.2 * c) * std::exp(-ring.decay * t);
  value += noise(i * 2 + static_cast<std::uint32_t>(c)) * 0.5 * std::exp(-420 * t);
  return weight * value;
}

Sound fourHits() {
  constexpr double hits[] = {0.4, 0.9, 1.65, 2.15}, weights[] = {0.85, 0.6, 0.85, 0.7};
  return made(3.2, [&](double t, int c, std::uint32_t i) {
    double value = 0;
    for (int k = 0; k < 4; ++k) value += hit(t - hits[k], c, i, weights[k]);
    return 0.8 * value * smooth(3.2, 3.0, t);
  });
}

/// Goes round without a seam: all that is in it has whole turns in its length, and the noise meets itself.
Sound furnaceHum() {
  constexpr double seconds = 6;
  constexpr auto samples = static_cast<std::size_t>(seconds * soundRate);
  Sound sound(samples);
  for (int c = 0; c < molten::soundChannels; ++c) {
    Band rumble(40, 220), roar(180, 900);
    // Twice round: what the filters remember is then that of the end.
    for (std::size_t n = 0; n < 2 * samples; ++n) {
      const std::size_t i = n % samples;
      const double t = static_cast<double>(i) / soundRate, by = noise(static_cast<std::uint32_t>(i) * 2 + static_cast<std::uint32_t>(c));
      const double breath = 0.8 + 0.2 * std::sin(turn * t / seconds * 5 + c);
      const double hum = 0.10 * std::sin(turn * 50 * t) + 0.07 * std::sin(turn * 100 * t + 0.5 * c) + 0.03 * std::sin(turn * 150 * t);
      sound.at(i, c) = static_cast<float>(hum + breath * (1.1 * rumble(by) + 0.35 * roar(by)));
    }
  }
  return sound;
}

}  // namespace

std::vector<DemoSound> sounds() {
  return {{"rising-whirr", whirr(2.4, 70, 560)},
          {"falling-whirr", whirr(2.4, 560, 70)},
          {"four-hits", fourHits()},
          {"furnace-hum", furnaceHum()}};
}

/// By the times at which the picture shows it: see ladle.cpp.
Sound ladleSound() {
  constexpr double pours = 1.75, splashes = 2.1, ends = 4.35;
  Band stream[] = {{350, 2200}, {350, 2200}}, drops[] = {{1500, 6000}, {1500, 6000}}, steam[] = {{3500, 14000}, {3500, 14000}},
       hall[] = {{60, 300}, {60, 300}};
  return made(6, [&](double t, int c, std::uint32_t i) {
    const auto side = static_cast<std::uint32_t>(c);
    const double by = noise(i * 2 + side);
    const double flow = smooth(pours, pours + 0.5, t) * smooth(ends, ends - 0.7, t);
    const double splash = smooth(splashes, splashes + 0.03, t) * std::exp(-2.5 * std::max(0.0, t - splashes));
    const double hiss = smooth(splashes, splashes + 0.8, t) * smooth(6, ends, t);
    // A drop is a short burst, by lot.
    const bool falls = noise(i / 900 * 7 + side + 77) > 0.72;
    const double drop = flow * (falls ? std::exp(-static_cast<double>(i % 900) / 120) : 0);
    double creak = 0;
    for (const double at : {0.55, 0.8, 4.6})
      if (t > at) creak += std::sin(turn * (310 + 40 * std::sin(t * 9)) * t) * std::exp(-9 * (t - at)) * 0.12;
    return 0.75 * (0.25 * hall[c](by) + flow * 0.5 * stream[c](by) + splash * 1.1 * stream[c](noise(i * 2 + side + 900001)) +
           drop * 0.9 * drops[c](by) + hiss * 0.30 * steam[c](by) + creak);
  });
}

bool writeSounds(const std::string& folder) {
  using namespace molten;
  for (DemoSound& one : sounds()) {
    // As many bits as a loudspeaker tells apart: noise takes room.
    for (float& value : one.sound.values()) value = std::round(std::clamp(value, -1.0f, 1.0f) * 32767) / 32768;
    auto muxer = Muxer::open(folder + "/" + one.name + ".flac");
    Status done = muxer ? Status() : Status(muxer.error());
    std::unique_ptr<SoundTrack> track;
    if (done) {
      auto opened = SoundTrack::open((*muxer)->format(), (*muxer)->extension(), [&](AVPacket& packet) { return (*muxer)->put(packet); });
      if (opened)
        track = std::move(*opened);
      else
        done = opened.error();
    }
    if (done) done = (*muxer)->begin("FLAC");
    if (done) done = track->write(one.sound);
    if (done) done = track->finish();
    if (done) done = (*muxer)->finish();
    if (done) {
      std::vector<SafeFile> files;
      files.push_back((*muxer)->takeFile());
      done = commitTogether(std::move(files));
    }
    if (!done) {
      std::fprintf(stderr, "draw-demo: %s\n", done.error().message.c_str());
      return false;
    }
  }
  return true;
}

}  // namespace demo

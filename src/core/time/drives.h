#pragma once
// What moves a value besides its keys: by lot, in waves, or by following something.

#include <cstdint>
#include <string_view>
#include <utility>
#include <variant>
#include <vector>

#include "core/time/keys.h"

namespace molten {

/// Adds something between −amount and amount, by lot: a hash of the seed and the moment, so that it is the same
/// wherever a piece of a video begins. In steps: a draw for each 1/rate of a second, even between the two. Smooth: from
/// each draw to the next by 3u² − 2u³.
struct Jitter {
  KeyValue amount{};
  double perSecond = 8;  ///< above 0
  bool smooth = true;
  std::uint32_t seed = 1;
  friend bool operator==(const Jitter&, const Jitter&) = default;
};

/// Adds amount·w(t/length + phase), w having the period 1 and going from −1 to 1.
struct Wave {
  enum class Shape {
    Sine,      ///< sin 2πu
    Triangle,  ///< straight up and down, 0 at the beginning as a sine is
    Square,    ///< 1 for the first half, −1 for the second
    Saw        ///< straight up from −1, and back at once
  };
  KeyValue amount{};
  double length = 1;  ///< seconds, above 0
  Shape shape = Shape::Sine;
  double phase = 0;  ///< in parts of the length
  friend bool operator==(const Wave&, const Wave&) = default;
};

/// Goes to `at` as what is followed falls to `from`, and stays as it is where that is `to` or beyond: on the way it lies
/// between the two by the same part.
struct Follow {
  enum class What {
    Speed,      ///< of the shot, whichever way it runs: 1 is as it was shot
    Loudness,   ///< of a band of a sound: 0 at −60 dB, 1 at full scale
    Brightness  ///< the mean of the picture's luma: 0 black, 1 white
  };
  /// What is listened to, where loudness is followed.
  struct Listening {
    static constexpr std::size_t none = 9999;  ///< what nothing is laid as
    std::size_t sound = 0;                     ///< of those that are laid, counted from 1; 0: the shot's own
    double low = 0, high = 0;  ///< Hz; 0: no end on that side
    double attack = 0.02;      ///< seconds from 0 to 1 at least
    double release = 0.3;      ///< likewise from 1 to 0
    friend bool operator==(const Listening&, const Listening&) = default;
  };
  What what = What::Speed;
  KeyValue at{};
  double from = 0, to = 1;  ///< the same: at once
  Listening listening = {};
  friend bool operator==(const Follow&, const Follow&) = default;
};

using Drive = std::variant<Jitter, Wave, Follow>;
/// They act in turn, each on what the ones before have made of the value.
using Drives = std::vector<Drive>;

/// What values follow. For several threads.
class Followed {
 public:
  virtual ~Followed() = default;
  /// At a moment, in seconds of the stage's own output; NaN: it is not known, and what follows it stays as it is.
  virtual double value(const Follow& follow, double seconds) const = 0;
  /// It is not known yet, but will be.
  virtual bool isBeingMeasured(const Follow&) const { return false; }
};

/// Of a jitter of 1: between −1 and 1.
double jitterAt(const Jitter& jitter, double seconds, std::uint32_t salt);
/// A value as the drives make it. `salt`: of the value's name, so that two of a stage are not drawn alike. Not brought
/// into any range.
KeyValue driven(KeyValue value, const Drives& drives, double seconds, std::uint32_t salt, const Followed* followed);
/// The least and the most that the drives make of values between two, each number on its own.
std::pair<KeyValue, KeyValue> drivenBounds(KeyValue least, KeyValue most, const Drives& drives);
bool follows(const Drives& drives, Follow::What what);
/// Both go by the same, wherever they make their values go.
bool followTheSame(const Follow& a, const Follow& b);
/// Of a name, for `salt`.
std::uint32_t saltOf(std::string_view name);
/// Even in 0…1, by lot: a hash of the three (rounds of lowbias32: Wellons, Prospecting for Hash Functions, 2018).
double drawn(std::uint32_t seed, std::uint32_t salt, std::int64_t number);

}  // namespace molten

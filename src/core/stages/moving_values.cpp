#include "core/stages/moving_values.h"

#include <cmath>
#include <numeric>

#include "core/stages/material.h"

namespace molten {
namespace {

ParameterValue bounded(const ParameterDescription& parameter, const ParameterValue& value, const KeyTrack* keys,
                       const Drives* drives, bool most) {
  KeyValue low = keys ? keys->front().value : keyValue(value), high = low;
  if (keys)
    for (const Key& key : *keys)
      for (std::size_t i = 0; i < low.size(); ++i)
        low[i] = std::min(low[i], key.value[i]), high[i] = std::max(high[i], key.value[i]);
  if (drives) std::tie(low, high) = drivenBounds(low, high, *drives);
  return keyedParameter(parameter, most ? high : low);
}

}  // namespace

StageValues Stage::keyedAt(double seconds) const {
  StageValues now = values;
  for (const auto& [parameter, track] : keys)
    now[parameter] = keyedParameter(kind->description().parameters[parameter], keyedValue(track, seconds));
  return now;
}

StageValues Stage::valuesAt(double seconds, const Followed* followed) const {
  StageValues now = keyedAt(seconds);
  for (const auto& [parameter, own] : drives) {
    const ParameterDescription& described = kind->description().parameters[parameter];
    const auto track = keys.find(parameter);
    const KeyValue base = track == keys.end() ? keyValue(values[parameter]) : keyedValue(track->second, seconds);
    now[parameter] = keyedParameter(described, driven(base, own, seconds, saltOf(described.id), followed));
  }
  return now;
}

StageValues Stage::boundOf(bool most) const {
  StageValues bound = values;
  const auto& parameters = kind->description().parameters;
  for (std::size_t i = 0; i < values.size(); ++i) {
    if (!varies(i)) continue;
    const auto track = keys.find(i);
    const auto own = drives.find(i);
    bound[i] = bounded(parameters[i], values[i], track == keys.end() ? nullptr : &track->second,
                       own == drives.end() ? nullptr : &own->second, most);
  }
  return bound;
}

StageValues Stage::widestValues() const {
  StageValues widest = mostValues();
  const StageValues least = leastValues();
  for (std::size_t i = 0; i < widest.size(); ++i) {
    if (!varies(i)) continue;
    auto* const number = std::get_if<double>(&widest[i]);
    if (!number)
      widest[i] = values[i];
    else if (const double low = std::get<double>(least[i]); std::abs(low) > std::abs(*number))
      *number = low;
  }
  return widest;
}

Movement movementOf(const Stage& stage, std::size_t parameter) {
  const auto keys = stage.keys.find(parameter);
  const auto drives = stage.drives.find(parameter);
  return {stage.values[parameter], keys == stage.keys.end() ? KeyTrack{} : keys->second,
          drives == stage.drives.end() ? Drives{} : drives->second};
}

void setMovement(Stage& stage, std::size_t parameter, const Movement& movement) {
  stage.values[parameter] = movement.value;
  const auto put = [&](auto& all, const auto& own) {
    if (own.empty())
      all.erase(parameter);
    else
      all[parameter] = own;
  };
  put(stage.keys, movement.keys), put(stage.drives, movement.drives);
}

bool Stage::follows(Follow::What what) const {
  return std::any_of(drives.begin(), drives.end(), [&](const auto& one) { return molten::follows(one.second, what); });
}

bool anyFollows(const Chain& chain, Follow::What what) {
  return std::any_of(chain.begin(), chain.end(),
                     [&](const Stage& stage) { return stage.follows(what) || anyFollows(stage.branch, what); });
}

ParameterValue keyedParameter(const ParameterDescription& parameter, const KeyValue& value) {
  if (std::holds_alternative<PlaceDescription>(parameter.kind))
    return withinRange(parameter, Place{value[0], value[1]});
  if (std::holds_alternative<ColourDescription>(parameter.kind)) {
    const auto part = [&](std::size_t i) { return static_cast<std::uint8_t>(std::clamp(std::round(value[i]), 0.0, 255.0)); };
    return Colour{part(0), part(1), part(2)};
  }
  return withinRange(parameter, value[0]);
}

KeyValue keyValue(const ParameterValue& value) {
  if (const auto* place = std::get_if<Place>(&value)) return {place->x, place->y, 0};
  if (const auto* colour = std::get_if<Colour>(&value))
    return {static_cast<double>(colour->red), static_cast<double>(colour->green), static_cast<double>(colour->blue)};
  return {std::get<double>(value), 0, 0};
}

FollowedVideo::FollowedVideo(const VideoDescription& incoming, const Surroundings& around)
    : in_(incoming), around_(around) {}

double FollowedVideo::value(const Follow& follow, double seconds) const {
  if (follow.what == Follow::What::Brightness) return brightnessAt(seconds);
  if (follow.what == Follow::What::Loudness) return loudnessAt(follow.listening, seconds);
  return in_.course ? in_.course->speedAt(seconds * in_.rate.toDouble()) : 1;
}

double FollowedVideo::brightnessAt(double seconds) const {
  if (!around_.material || !around_.upstream) return std::nan("");
  {
    const std::scoped_lock lock(mutex_);
    if (const auto known = known_.find(seconds); known != known_.end()) return known->second;
  }
  const auto last = static_cast<double>(in_.length - 1);
  const Moment moment = Moment::near(std::clamp(seconds * in_.rate.toDouble(), 0.0, last));
  const auto picture = around_.material->ofVideo(*around_.upstream, moment, Measured::Brightness);
  if (!picture || picture->samples.empty()) return std::nan("");
  const double mean = std::accumulate(picture->samples.begin(), picture->samples.end(), 0.0) /
                      static_cast<double>(picture->samples.size());
  constexpr std::size_t mostKnown = 4096;
  const std::scoped_lock lock(mutex_);
  if (known_.size() > mostKnown) known_.clear();
  return known_.emplace(seconds, mean).first->second;
}

/// A laid sound lies on the time of what leaves; the shot's own is heard as whole pictures that enter run.
double FollowedVideo::loudnessAt(const Follow::Listening& listening, double seconds) const {
  if (!around_.material || !around_.upstream) return std::nan("");
  const auto course = around_.material->loudness(listening);
  if (!course) return std::nan("");
  if (listening.sound == 0) {
    std::call_once(readOnce_, [this] {
      upstream_ = std::make_unique<const ChainReading>(*around_.upstream, around_.material->footage());
    });
    const double rate = in_.rate.toDouble(), position = upstream_->heardAt(seconds * rate);
    if (std::isnan(position)) return 0;
    seconds = position / rate;
  }
  return course->at(seconds, listening.attack, listening.release);
}

MovingValues::MovingValues(const Stage& stage, const VideoDescription& incoming, const Surroundings& around)
    : stage_(stage), rate_(incoming.rate.toDouble()) {
  if (stage.follows(Follow::What::Speed) || stage.follows(Follow::What::Brightness) || stage.follows(Follow::What::Loudness))
    followed_ = std::make_shared<const FollowedVideo>(incoming, around);
}

StageValues MovingValues::at(double position) const {
  return vary() ? stage_.valuesAt(position / rate_, followed_.get()) : stage_.values;
}

}  // namespace molten

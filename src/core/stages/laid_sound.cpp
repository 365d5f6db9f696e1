#include "core/stages/laid_sound.h"

#include "core/sound/sound_mix.h"
#include "core/stages/common_parameters.h"
#include "core/stages/parameter_list.h"

namespace molten {
namespace {

constexpr double longest = 86400;
/// Decibels: as soft as this is silent.
constexpr double softest = -96;

struct Level {
  ParameterHandle<double> gain;
  ParameterHandle<bool> mute, alone;
};

Level levelIn(ParameterList& list) {
  ParameterWords gain{"gain", "Gain", "Sound", "How much louder or softer it is.", true};
  gain.ofSound = true;
  return {list.number(gain, {Unit::Decibels, softest, 24, 0, 0.5, 12, 1}),
          list.toggle({"mute", "Mute", "Sound", "It is not heard."}),
          list.toggle({"alone", "Alone", "Sound", "Nothing else is heard but what is alone as well."})};
}

struct OwnParameters {
  ParameterList list;
  ChoiceHandle<OtherSpeeds> otherSpeeds = list.choice<OtherSpeeds>(
      {"other-speeds", "Other speeds", "Sound", "What becomes of the shot's sound where it does not run at its own speed."},
      {{OtherSpeeds::Tape, {"tape", "Tape", "Its pitch goes with the speed; backwards it is heard backwards."}},
       {OtherSpeeds::KeepPitch, {"keep-pitch", "Keep pitch", "Its pitch stays, from 25 to 400 %; beyond that as a tape."}},
       {OtherSpeeds::Silent, {"silent", "Silent", "It is heard at its own speed alone."}}},
      OtherSpeeds::Tape);
  Level level = levelIn(list);
};
const OwnParameters& own() {
  static const OwnParameters parameters;
  return parameters;
}

struct LaidParameters {
  ParameterList list;
  ParameterHandle<std::string> file = list.file({"file", "File", "Sound", "A sound, or a clip with sound."});
  ParameterHandle<double> at =
      list.number({"at", "At", "Sound", "When it begins."}, secondsNumber(-longest, longest, 0, 0.05, 60));
  ParameterHandle<double> skipStart = list.number(
      {"skip-start", "Skip start", "Sound", "How much of its beginning is left out."}, secondsNumber(0, longest, 0, 0.05, 60));
  ParameterHandle<double> length = list.number({"length", "Length", "Sound", "How long it lasts."},
                                               secondsNumber(0, longest, 0, 0.05, 60, Tense::None, "to its end"));
  ParameterHandle<bool> loop = list.toggle({"loop", "Loop", "Sound", "It is heard again and again."});
  ParameterHandle<double> fadeIn =
      list.number({"fade-in", "Fade in", "Sound", "How long it takes to come up."}, secondsNumber(0, 3600, 0, 0.05, 4));
  ParameterHandle<double> fadeOut =
      list.number({"fade-out", "Fade out", "Sound", "How long it takes to go."}, secondsNumber(0, 3600, 0, 0.05, 4));
  Level level = levelIn(list);
  ParameterHandle<double> sensitivity =
      list.number({"sensitivity", "Sensitivity", "Onsets", "How soft a hit may be to count as one."},
                  {Unit::Percent, 0, 1, 0.5, 0.05, 1, 0});
};
const LaidParameters& laid() {
  static const LaidParameters parameters;
  return parameters;
}

/// Pictures pass it as they are.
class Unchanged : public MovingMap {
 public:
  explicit Unchanged(const VideoDescription& in) : MovingMap(in) {}
  PastTheEnds pastTheEnds() const override { return PastTheEnds::StandStill; }
};

class SoundKind : public StageKind {
 public:
  explicit SoundKind(StageDescription described) : described_(std::move(described)) {}
  const StageDescription& description() const override { return described_; }
  std::unique_ptr<TimeMap> timeMap(const Stage&, const VideoDescription& in, const Surroundings&) const override {
    return std::make_unique<Unchanged>(in);
  }
  std::string summary(const StageValues&, const VideoDescription&) const override { return {}; }
  std::vector<StageNote> notes(const StageValues&, const VideoDescription&, Rational) const override { return {}; }

 private:
  StageDescription described_;
};

const StageKind& ownKind() {
  static const SoundKind kind({"own-sound", "Own sound", "The sound of the shot's footage.", own().list.described(), {}});
  return kind;
}
const StageKind& laidKind() {
  static const SoundKind kind({"laid-sound", "Laid sound", "A sound on the piece's time.", laid().list.described(), {}});
  return kind;
}

const Level& levelOf(const Stage& sound) {
  return sound.kind == &laidKind() ? laid().level : own().level;
}

}  // namespace

SoundSwitches soundSwitches(const Stage& sound) {
  const Level& level = levelOf(sound);
  return {level.mute(sound.values), level.alone(sound.values)};
}

double soundGain(const Stage& sound, double seconds, const Followed* followed) {
  const auto& gain = levelOf(sound).gain;
  const double decibels = sound.varies(gain.index()) ? gain(sound.valuesAt(seconds, followed)) : gain(sound.values);
  return decibels <= softest ? 0 : factorOf(decibels);
}

SoundParameters soundParameters(const Stage& sound) {
  const Level& level = levelOf(sound);
  SoundParameters parameters{level.gain.index(), level.mute.index(), level.alone.index(), {}, {}, {}, {}};
  if (sound.kind == &ownKind()) parameters.otherSpeeds = own().otherSpeeds.index();
  if (sound.kind == &laidKind())
    parameters.at = laid().at.index(), parameters.loop = laid().loop.index(), parameters.sensitivity = laid().sensitivity.index();
  return parameters;
}

Stage ownSound() {
  return newStage(ownKind());
}

OtherSpeeds otherSpeeds(const Stage& sound) {
  return own().otherSpeeds(sound.values);
}

Stage layingSound(const std::string& file, double at) {
  Stage stage = newStage(laidKind());
  laid().file.set(stage.values, file);
  laid().at.set(stage.values, at);
  return stage;
}

LaidSound laidSound(const Stage& sound) {
  const StageValues& values = sound.values;
  return {laid().file(values),   laid().at(values),   laid().skipStart(values), laid().length(values), laid().loop(values),
          laid().fadeIn(values), laid().fadeOut(values)};
}

double onsetSensitivity(const Stage& sound) {
  return laid().sensitivity(sound.values);
}

Stage withLaidSound(Stage sound, const LaidSound& to) {
  laid().file.set(sound.values, to.file);
  laid().at.set(sound.values, to.at);
  laid().skipStart.set(sound.values, to.skipStart);
  laid().length.set(sound.values, to.length);
  laid().loop.set(sound.values, to.loop);
  laid().fadeIn.set(sound.values, to.fadeIn);
  laid().fadeOut.set(sound.values, to.fadeOut);
  return sound;
}

}  // namespace molten

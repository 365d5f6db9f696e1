#include "core/stages/finish.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>

#include "core/field/response_curve.h"
#include "core/picture/grain.h"
#include "core/stages/common_parameters.h"
#include "core/stages/moving_values.h"
#include "core/stages/pixel_work.h"
#include "core/time/drives.h"

namespace molten {
namespace {

struct Parameters {
  ParameterList list;
  ParameterHandle<double> exposure =
      list.number({"exposure", "Exposure", "Light", "Twice as much light for each stop, half for each below.", true},
                  {Unit::Stops, -16, 16, 0, 0.1, 3, 2, Tense::None});
  ParameterHandle<double> contrast =
      list.number({"contrast", "Contrast", "Light", "How far values lie from the middle; 100 % is as they are.", true},
                  percent(0, 10, 1, 2));
  ParameterHandle<double> middle = list.number(
      {"middle", "Middle", "Light", "The value that contrast leaves as it is: 0 % is black, 100 % white.", true},
      percent(0, 1, 0.5, 1));
  ParameterHandle<double> black =
      list.number({"black", "Black", "Light", "The value that becomes black.", true}, percent(-1, 0.95, 0, 0.5));
  ParameterHandle<double> white =
      list.number({"white", "White", "Light", "The value that becomes white.", true}, percent(0.05, 10, 1, 2));
  ParameterHandle<double> saturation =
      list.number({"saturation", "Saturation", "Colour", "How far colours lie from gray; 0 % is gray.", true},
                  percent(0, 10, 1, 2));
  ParameterHandle<double> hue =
      list.number({"hue", "Hue", "Colour", "By how much all hues are turned; brightness stays.", true},
                  {Unit::Degrees, -360, 360, 0, 5, 180, 1, Tense::None});
  ParameterHandle<double> warmth =
      list.number({"warmth", "Warmth", "Colour",
                   "More red and less blue light, or the other way round; white keeps its brightness.", true},
                  percent(-1, 1, 0, 1));
  ParameterHandle<CurvePoints> curve =
      list.curve({"curve", "Curve", "Curve", "Which value each becomes, in each of the three colours."});
  ParameterHandle<double> flicker =
      list.number({"flicker", "Flicker", "Flicker", "By how much each picture may be brighter or darker, by lot.", true},
                  {Unit::Stops, 0, 4, 0, 0.05, 1, 2, Tense::None});
  ParameterHandle<double> flickerTimes =
      list.number({"flicker-times", "Flicker times", "Flicker",
                   "How often; each picture: with every one, where a rate below is reduced with every one of those.", false,
                   ParameterDescription::Condition{"flicker"}},
                  timesASecond());
  ParameterHandle<double> flickerSeed = list.number(
      {"flicker-seed", "Flicker seed", "Flicker", "Another number: another flicker.", false,
       ParameterDescription::Condition{"flicker"}},
      seedNumber());
  ParameterHandle<double> grain = list.number(
      {"grain", "Grain", "Grain", "How strong it is at middle gray; black and white have none.", true}, percent(0, 1, 0, 0.2));
  ParameterHandle<double> grainSize =
      list.number({"grain-size", "Grain size", "Grain", "From one grain to the next.", true,
                   ParameterDescription::Condition{"grain"}},
                  {Unit::Pixels, 1, 64, 1.5, 0.1, 6, 1, Tense::None});
  ParameterHandle<bool> grainColoured = list.toggle(
      {"grain-coloured", "Grain coloured", "Grain", "Red, green and blue have grains of their own.", false,
       ParameterDescription::Condition{"grain"}});
  ParameterHandle<double> grainTimes =
      list.number({"grain-times", "Grain times", "Grain", "How often it is another one; each picture: with every one.", false,
                   ParameterDescription::Condition{"grain"}},
                  timesASecond());
  ParameterHandle<double> grainSeed = list.number(
      {"grain-seed", "Grain seed", "Grain", "Another number: another grain.", false, ParameterDescription::Condition{"grain"}},
      seedNumber());
  ParameterHandle<double> fadeIn =
      list.number({"fade-in", "Fade in", "Fades", "How long it takes to come up from black at the beginning."},
                  secondsNumber(0, 3600, 0, 0.1, 5, Tense::None, "none"));
  ParameterHandle<double> fadeOut =
      list.number({"fade-out", "Fade out", "Fades", "How long it takes to go down to black at the end."},
                  secondsNumber(0, 3600, 0, 0.1, 5, Tense::None, "none"));

 private:
  static NumberDescription timesASecond() {
    return {Unit::Times, 0, 1000, 0, 1, 30, 2, Tense::None, false, "each picture"};
  }
  static NumberDescription seedNumber() { return {Unit::None, 0, 99999, 1, 1, 100, 0, Tense::None, true}; }
  static NumberDescription percent(double least, double most, double initial, double usual) {
    return {Unit::Percent, least, most, initial, 0.05, usual, 1, Tense::None};
  }
};
const Parameters& of() {
  static const Parameters parameters;
  return parameters;
}

/// So close to the black point the white one may come.
constexpr double leastSpan = 0.01;

/// What the values make of a picture.
class FinishChange : public PixelChange {
 public:
  /// What a picture has of its own.
  struct Own {
    double fade = 1;  ///< what is left of its values
    double flicker = 0;  ///< stops
    Grain grain;
  };
  FinishChange(const StageValues& values, const Own& own, Size full)
      : exposure_(of().exposure(values) + own.flicker),
        warmth_(of().warmth(values)),
        fade_(static_cast<float>(own.fade)),
        grain_(own.grain),
        full_(full) {
    const double black = of().black(values), span = std::max(leastSpan, of().white(values) - black);
    const double contrast = of().contrast(values), middle = of().middle(values);
    scale_ = static_cast<float>(contrast / span);
    shift_ = static_cast<float>(middle - (middle + black / span) * contrast);
    const double turn = of().hue(values) * std::acos(-1.0) / 180, far = of().saturation(values);
    along_ = static_cast<float>(std::cos(turn) * far), beside_ = static_cast<float>(std::sin(turn) * far);
    if (of().curve(values) != straightCurve) curve_.emplace(of().curve(values));
  }
  /// Whether it leaves everything as it is.
  bool isNothing() const {
    return exposure_ == 0 && warmth_ == 0 && isPlain() && along_ == 1 && beside_ == 0 && !curve_ && fade_ == 1 && grain_.amount == 0;
  }

  void apply(WorkingTile& tile, const WorkingFormat& format) const override {
    const auto weights = format.lumaWeights();
    if (exposure_ != 0 || warmth_ != 0) format.multiplyLight(tile, gains(weights));
    if (!isPlain() || curve_)
      for (std::size_t c = 0; c < 3; ++c) bend(tile.channels[c]);
    if (along_ != 1 || beside_ != 0) turnColours(tile, weights);
    if (grain_.amount > 0) addGrain(tile, grain_, full_, format.size());
    if (fade_ != 1)
      for (std::size_t c = 0; c < 3; ++c)
        for (float& v : tile.channels[c]) v *= fade_;
  }

 private:
  bool isPlain() const { return scale_ == 1 && shift_ == 0; }
  std::array<double, 3> gains(const std::array<double, 3>& weights) const {
    const double red = std::exp2(warmth_ / 2), blue = 1 / red;
    const double all = std::exp2(exposure_) / (weights[0] * red + weights[1] + weights[2] * blue);
    return {red * all, all, blue * all};
  }
  void bend(std::vector<float>& values) const {
    for (float& v : values) v = v * scale_ + shift_;
    if (!curve_) return;
    for (float& v : values) {
      const float inside = std::clamp(v, 0.0f, 1.0f);
      v = static_cast<float>(curve_->at(static_cast<double>(inside))) + (v - inside);
    }
  }
  void turnColours(WorkingTile& tile, const std::array<double, 3>& weights) const {
    const auto kr = static_cast<float>(weights[0]), kg = static_cast<float>(weights[1]),
               kb = static_cast<float>(weights[2]);
    float *const r = tile.channels[0].data(), *const g = tile.channels[1].data(), *const b = tile.channels[2].data();
    for (std::size_t i = 0; i < tile.channels[0].size(); ++i) {
      const float y = kr * r[i] + kg * g[i] + kb * b[i];
      // Cb and Cr, each as wide as the other.
      const float cb = (b[i] - y) / (2 * (1 - kb)), cr = (r[i] - y) / (2 * (1 - kr));
      const float turnedB = along_ * cb - beside_ * cr, turnedR = beside_ * cb + along_ * cr;
      r[i] = y + 2 * (1 - kr) * turnedR;
      b[i] = y + 2 * (1 - kb) * turnedB;
      g[i] = (y - kr * r[i] - kb * b[i]) / kg;
    }
  }

  double exposure_, warmth_;
  float scale_ = 1, shift_ = 0;  ///< points and contrast
  float along_ = 1, beside_ = 0;
  float fade_;
  Grain grain_;
  Size full_;
  std::optional<ResponseCurve> curve_;
};

class FinishMap : public MovingMap, public PixelWork {
 public:
  FinishMap(const Stage& stage, const VideoDescription& in, const Surroundings& around)
      : MovingMap([&] {
          VideoDescription out = in;
          out.endless = in.endless && isAlike(stage);
          return out;
        }()),
        moving_(stage, in, around),
        course_(in.course) {}

  PastTheEnds pastTheEnds() const override { return PastTheEnds::StandStill; }
  const PixelWork* pixelWork() const override { return this; }
  bool alike() const override { return isAlike(moving_.stage()); }
  std::shared_ptr<const PixelChange> changeAt(const Moment& moment) const override {
    const StageValues values = moving_.at(moment);
    const double position = moment.pictures();
    FinishChange::Own own{fadeAt(position), 0, {}};
    if (const double stops = of().flicker(values); stops > 0)
      own.flicker = stops * (2 * drawn(seedOf(of().flickerSeed, values), saltOf("flicker"),
                                       numberAt(position, of().flickerTimes(values))) -
                             1);
    own.grain = {of().grain(values), of().grainSize(values), of().grainColoured(values), seedOf(of().grainSeed, values),
                 numberAt(position, of().grainTimes(values))};
    auto change = std::make_shared<const FinishChange>(values, own, outgoing().size);
    return change->isNothing() ? nullptr : change;
  }

 private:
  static bool isAlike(const Stage& stage) {
    const StageValues& values = stage.values;
    return !stage.varies() && of().fadeIn(values) == 0 && of().fadeOut(values) == 0 && of().flicker(values) == 0 &&
           of().grain(values) == 0;
  }
  static std::uint32_t seedOf(const ParameterHandle<double>& seed, const StageValues& values) {
    return static_cast<std::uint32_t>(seed(values));
  }
  /// Of what is drawn so many times a second; 0: of the picture, which may be one that is held.
  std::int64_t numberAt(double position, double times) const {
    if (times > 0) return wholeBelow(position / outgoing().rate.toDouble() * times);
    // Pictures that are held lie anywhere between those of the rate.
    constexpr double places = 4096;
    if (course_ && course_->pictureAt) return std::llround(course_->pictureAt(position) * places);
    return wholeBelow(position);
  }
  /// The first picture of a fade in and the last one of a fade out are black.
  double fadeAt(double position) const {
    const double rate = outgoing().rate.toDouble(), last = static_cast<double>(outgoing().length - 1);
    const double in = of().fadeIn(moving_.stage().values) * rate, out = of().fadeOut(moving_.stage().values) * rate;
    double fade = 1;
    if (in > 0) fade *= std::clamp(position / in, 0.0, 1.0);
    if (out > 0) fade *= std::clamp((last - position) / out, 0.0, 1.0);
    return fade;
  }

  MovingValues moving_;
  std::shared_ptr<const Course> course_;
};

class Finish : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "finish",
        "Finish",
        "Light and colour: exposure, contrast, saturation, hue, warmth, a curve, flicker, grain, fades.",
        of().list.described(),
        {},
        {{"Light", false, 1, true}, {"Curve", true}, {"Flicker", true}, {"Grain", true}, {"Fades", true, 1}}};
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings& around) const override {
    return std::make_unique<FinishMap>(stage, incoming, around);
  }

  std::string summary(const StageValues& values, const VideoDescription&) const override {
    std::string words;
    const auto& parameters = description().parameters;
    for (std::size_t i = 0; i < parameters.size(); ++i) {
      if (values[i] == initialValue(parameters[i]) || !isInUse(description(), values, i)) continue;
      std::string name = parameters[i].label;
      name[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(name[0])));
      words += (words.empty() ? "" : ", ") + name;
      if (std::holds_alternative<double>(values[i])) words += " " + valueLabel(parameters[i], values[i]);
    }
    return words.empty() ? "as it comes" : words;
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    std::vector<StageNote> found;
    if (of().white(values) - of().black(values) < leastSpan)
      found.push_back({"Light", "White lies at or below black: they are taken to be 1 % apart."});
    if (of().fadeIn(values) + of().fadeOut(values) > in.seconds().toDouble())
      found.push_back({"Fades", "The fades are longer than the video: it never comes up in full."});
    return found;
  }
};

}  // namespace

const StageKind& finish() {
  static const Finish kind;
  return kind;
}

}  // namespace molten

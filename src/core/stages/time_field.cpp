#include "core/stages/time_field.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

#include "core/stages/common_parameters.h"
#include "core/wide.h"

namespace molten {
namespace {

enum Parameter : std::size_t { Start, End, Flip, Back, Ahead, PastEnds, Between };

MOLTEN_WIDE void toFrames(const float* f, double least, double reach, double rate, double* out, int count) {
  for (int i = 0; i < count; ++i) out[i] = (least + static_cast<double>(f[i]) * reach) * rate;
}

class LinearTimeMap : public TimeMap {
 public:
  LinearTimeMap(const StageValues& values, const VideoDescription& in)
      : TimeMap(in),
        field_(std::get<Place>(values[Start]), std::get<Place>(values[End]), in.size, in.pixelAspect),
        flip_(std::get<bool>(values[Flip])),
        back_(std::get<double>(values[Back])),
        reach_(back_ + std::get<double>(values[Ahead])),
        rate_(in.rate.toDouble()),
        past_(pastTheEndsOf(values[PastEnds])),
        between_(inBetweenOf(values[Between])) {
    // The field is straight but for its clamps: its extremes lie at the corner pixels.
    const double right = in.size.width - 0.5, bottom = in.size.height - 0.5;
    const double corners[] = {frames(field_.at(0.5, 0.5)), frames(field_.at(right, 0.5)),
                              frames(field_.at(0.5, bottom)), frames(field_.at(right, bottom))};
    const auto [least, most] = std::minmax_element(std::begin(corners), std::end(corners));
    bounds_ = {*least, *most};
  }

  void displacements(const PlaneSites& sites, int row, std::span<double> out) const override {
    thread_local std::vector<float> f;
    f.resize(out.size());
    field_.row(sites, row, f);
    if (flip_)
      for (float& value : f) value = 1.0f - value;
    toFrames(f.data(), -back_, reach_, rate_, out.data(), static_cast<int>(out.size()));
  }
  Reach reach() const override { return bounds_; }
  PastTheEnds pastTheEnds() const override { return past_; }
  InBetween inBetween() const override { return between_; }

 private:
  double frames(float f) const {
    if (flip_) f = 1.0f - f;
    return (-back_ + static_cast<double>(f) * reach_) * rate_;
  }

  LinearField field_;
  bool flip_;
  double back_, reach_, rate_;
  PastTheEnds past_;
  InBetween between_;
  Reach bounds_;
};

class TimeField : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "time-field",
        "Time Field",
        "Each pixel reads its own moment: time runs along a line across the picture.",
        {
            {"start", "Start", "Line", "Where the field begins; before it everything reads the moment of the start.",
             true, PlaceDescription{{0.5, 0}}},
            {"end", "End", "Line", "Where the field ends; beyond it everything reads the moment of the end.", true,
             PlaceDescription{{0.5, 1}}},
            {"flip", "Flip", "Line", "The start and the end change their moments.", false, ToggleDescription{false}},
            {"back", "Back", "Reach", "How far into the past the start reads.", true,
             NumberDescription{Unit::Seconds, 0, 3600, 1, 0.05, 4, 3, Tense::Past}},
            {"ahead", "Ahead", "Reach", "How far ahead of the present moment the end reads.", true,
             NumberDescription{Unit::Seconds, 0, 3600, 0, 0.05, 4, 3, Tense::Ahead}},
            pastTheEndsParameter(),
            inBetweenParameter(),
        },
        {{"start", "end"}},
        {},
    };
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const StageValues& values, const VideoDescription& incoming) const override {
    return std::make_unique<LinearTimeMap>(values, incoming);
  }

  std::string summary(const StageValues& values, const VideoDescription&) const override {
    const double back = std::get<double>(values[Back]), ahead = std::get<double>(values[Ahead]);
    char text[64];
    if (back > 0 && ahead > 0)
      std::snprintf(text, sizeof text, "linear · %.4g s back, %.4g s ahead", back, ahead);
    else if (ahead > 0)
      std::snprintf(text, sizeof text, "linear · %.4g s ahead", ahead);
    else
      std::snprintf(text, sizeof text, "linear · %.4g s back", back);
    return text;
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    const Place start = std::get<Place>(values[Start]), end = std::get<Place>(values[End]);
    const double across = (end.x - start.x) * in.size.width * in.pixelAspect.toDouble();
    const double down = (end.y - start.y) * in.size.height;
    const double length = std::sqrt(across * across + down * down);
    const double frames = (std::get<double>(values[Back]) + std::get<double>(values[Ahead])) * in.rate.toDouble();
    if (length < 1)
      return {{"Line", "Start and end stand on one spot: the whole picture reads the moment of the start."}};
    if (frames < 0.5) return {{"Reach", "Back and ahead are nothing: every pixel reads the present moment."}};
    char text[160];
    const double step = length / frames;
    const int used = std::snprintf(text, sizeof text, "%.0f source frames over %.0f px of line: ", frames, length);
    char* const rest = text + used;
    const std::size_t room = sizeof text - static_cast<std::size_t>(used);
    if (step < 1.5)
      std::snprintf(rest, room, "steps of one pixel.");
    else if (inBetweenOf(values[Between]) == InBetween::Blend)
      std::snprintf(rest, room, "%.0f px steps, blended.", step);
    else if (inBetweenOf(values[Between]) == InBetween::Flow)
      std::snprintf(rest, room, "%.0f px steps, smoothed to 1.", step);
    else
      std::snprintf(rest, room, "steps %.0f px wide.", step);
    return {{"In-between frames", text}};
  }

  double momentAt(const StageValues& values, std::size_t parameter) const override {
    const bool atEnd = (parameter == End) != std::get<bool>(values[Flip]);
    return atEnd ? std::get<double>(values[Ahead]) : -std::get<double>(values[Back]);
  }
};

}  // namespace

const StageKind& timeField() {
  static const TimeField kind;
  return kind;
}

}  // namespace molten

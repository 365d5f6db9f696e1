#include "core/engine/measured_course.h"

#include <algorithm>
#include <cmath>

#include "core/engine/source_material.h"
#include "core/stages/moving_values.h"

namespace molten {
namespace {

constexpr std::int64_t mostPictures = 600, mostSounds = 6000;
/// Pictures are looked at so many times smaller.
constexpr int smaller = 4;

class AsMeasured : public Followed {
 public:
  AsMeasured(const VideoDescription& in, std::vector<MeasuredCourse> measured)
      : rate_(in.rate.toDouble()), course_(in, {}), measured_(std::move(measured)) {}
  double value(const Follow& follow, double seconds) const override {
    if (follow.what == Follow::What::Speed) return course_.value(follow, seconds);
    const MeasuredCourse* const known = find(follow);
    return known ? known->at(seconds * rate_) : std::nan("");
  }
  bool isBeingMeasured(const Follow& follow) const override { return follow.what != Follow::What::Speed && !find(follow); }

 private:
  const MeasuredCourse* find(const Follow& follow) const {
    for (const MeasuredCourse& one : measured_)
      if (followTheSame(one.by, follow)) return &one;
    return nullptr;
  }

  double rate_;
  FollowedVideo course_;
  std::vector<MeasuredCourse> measured_;
};

}  // namespace

double MeasuredCourse::at(double position) const {
  if (values.empty()) return std::nan("");
  const double place = std::clamp(position / step, 0.0, static_cast<double>(values.size() - 1));
  const auto low = static_cast<std::size_t>(place), high = std::min(low + 1, values.size() - 1);
  return values[low] + (place - static_cast<double>(low)) * (values[high] - values[low]);
}

std::vector<Follow> toMeasure(const Stage& stage) {
  std::vector<Follow> all;
  for (const auto& [parameter, drives] : stage.drives)
    for (const Drive& drive : drives) {
      const auto* const follow = std::get_if<Follow>(&drive);
      if (!follow || follow->what == Follow::What::Speed) continue;
      if (std::any_of(all.begin(), all.end(), [&](const Follow& one) { return followTheSame(one, *follow); })) continue;
      Follow by{.what = follow->what};
      if (by.what == Follow::What::Loudness) by.listening = follow->listening;
      all.push_back(by);
    }
  return all;
}

std::optional<MeasuredCourse> measureCourse(const MeasuredFootage& from, const Chain& upstream, const Follow& by, std::stop_token stop) {
  const VideoDescription video = videoAt(upstream, upstream.size(), from.footage()->video());
  const auto material = std::make_shared<SourceMaterial>(from.sources, 1, stop, Urgency::Background);
  // The same question that a render asks.
  const PlanSettings settings{smaller, from.between, video.rate, from.sounds};
  const FollowedVideo followed(video, {std::make_shared<MaterialAt>(material, settings), std::make_shared<const Chain>(upstream)});
  const std::int64_t most = by.what == Follow::What::Loudness ? mostSounds : mostPictures;
  MeasuredCourse course{by, static_cast<double>(std::max<std::int64_t>(1, (video.length + most - 1) / most)), {}};
  for (double position = 0; position < static_cast<double>(video.length); position += course.step) {
    const double value = followed.value(by, position / video.rate.toDouble());
    if (stop.stop_requested()) return std::nullopt;
    if (std::isnan(value)) return MeasuredCourse{by, course.step, {}};
    course.values.push_back(value);
  }
  return course;
}

std::shared_ptr<const Followed> followedAs(const VideoDescription& in, std::vector<MeasuredCourse> measured) {
  return std::make_shared<const AsMeasured>(in, std::move(measured));
}

}  // namespace molten

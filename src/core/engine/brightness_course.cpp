#include "core/engine/brightness_course.h"

#include <algorithm>
#include <cmath>

#include "core/engine/source_material.h"
#include "core/stages/moving_values.h"

namespace molten {
namespace {

constexpr std::int64_t mostMoments = 600;
/// Pictures are looked at so many times smaller.
constexpr int smaller = 4;

class AsMeasured : public Followed {
 public:
  AsMeasured(const VideoDescription& in, const std::optional<BrightnessCourse>& brightness)
      : rate_(in.rate.toDouble()), course_(in, {}), brightness_(brightness) {}
  double value(Follow::What what, double seconds) const override {
    if (what != Follow::What::Brightness) return course_.value(what, seconds);
    return brightness_ ? brightness_->at(seconds * rate_) : std::nan("");
  }

 private:
  double rate_;
  FollowedVideo course_;
  std::optional<BrightnessCourse> brightness_;
};

}  // namespace

double BrightnessCourse::at(double position) const {
  if (values.empty()) return std::nan("");
  const double place = std::clamp(position / step, 0.0, static_cast<double>(values.size() - 1));
  const auto low = static_cast<std::size_t>(place), high = std::min(low + 1, values.size() - 1);
  return values[low] + (place - static_cast<double>(low)) * (values[high] - values[low]);
}

std::optional<BrightnessCourse> measureBrightness(const MeasuredFootage& from, const Chain& upstream,
                                                  std::stop_token stop) {
  const VideoDescription video = videoAt(upstream, upstream.size(), from.footage()->video());
  const auto material = std::make_shared<SourceMaterial>(from.sources, 1, stop, Urgency::Background);
  // The same question that a render asks.
  const FollowedVideo followed(video, {std::make_shared<MaterialAt>(material, PlanSettings{smaller, from.between, video.rate}),
                                       std::make_shared<const Chain>(upstream)});
  BrightnessCourse course;
  course.step = static_cast<double>(std::max<std::int64_t>(1, (video.length + mostMoments - 1) / mostMoments));
  for (double position = 0; position < static_cast<double>(video.length); position += course.step) {
    course.values.push_back(followed.value(Follow::What::Brightness, position / video.rate.toDouble()));
    if (stop.stop_requested() || std::isnan(course.values.back())) return std::nullopt;
  }
  return course;
}

std::shared_ptr<const Followed> followedAs(const VideoDescription& in, const std::optional<BrightnessCourse>& brightness) {
  return std::make_shared<const AsMeasured>(in, brightness);
}

}  // namespace molten

#include "app/chain/stage_costs.h"

#include <algorithm>
#include <chrono>

#include "core/engine/evaluator.h"

namespace molten {
namespace {

constexpr int soonMilliseconds = 700;

/// Milliseconds that a picture of a chain takes, its frames being in memory; none if it was called off.
std::optional<double> timeOf(Evaluator& evaluator, const Chain& chain, const PlanSettings& settings,
                             std::stop_token stop) {
  const PicturePlan plan = evaluator.plan(chain, settings);
  const std::int64_t middle = plan.length() / 2;
  double best = 1e9;
  // The first one also makes what serves for all.
  for (const std::int64_t n : {middle, middle + 1, middle + 2}) {
    const Moment moment{std::min(n, plan.length() - 1)};
    const auto frames = plan.framesFor(moment);
    if (frames.size() <= evaluator.feed().framesThatFit(settings.scale) &&
        !evaluator.feed().fetch(frames, settings.scale, plan.layout(), stop, Urgency::Background))
      return std::nullopt;
    const auto begun = std::chrono::steady_clock::now();
    if (!evaluator.picture(plan, moment, stop)) return std::nullopt;
    const double took = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun).count();
    if (n > middle) best = std::min(best, took);
  }
  return best;
}

}  // namespace

StageCosts::StageCosts(QObject* parent) : QObject(parent) {
  soon_.setSingleShot(true);
  soon_.setInterval(soonMilliseconds);
  connect(&soon_, &QTimer::timeout, this, &StageCosts::begin);
}

StageCosts::~StageCosts() {
  cancel();
}

void StageCosts::cancel() {
  ++call_;
  soon_.stop();
  // It ends with the picture that it is at; nobody waits for that.
  thread_.request_stop();
  sources_.reset();
  stages_.clear();
  costs_.clear();
}

void StageCosts::measure(const std::shared_ptr<Sources>& sources, const Chain& stages, const PlanSettings& settings) {
  if (sources == sources_ && stages == stages_ && settings == settings_) return;
  cancel();
  sources_ = sources, stages_ = stages, settings_ = settings;
  if (sources && !stages.empty()) soon_.start();
}

void StageCosts::begin() {
  thread_ = guardedThread(inbox_, [this, previous = std::move(thread_), call = call_, sources = sources_, stages = stages_,
                          settings = settings_](std::stop_token stop) mutable {
    previous = {};
    Evaluator evaluator(sources, 2, Urgency::Background);
    std::vector<double> costs;
    double without = 0;
    // Of a stage: what the chain costs with it more than without.
    for (std::size_t k = 0; k <= stages.size(); ++k) {
      const Chain some(stages.begin(), stages.begin() + static_cast<std::ptrdiff_t>(k));
      const auto took = timeOf(evaluator, some, settings, stop);
      if (!took) return;
      if (k > 0) costs.push_back(std::max(0.0, *took - without));
      without = *took;
    }
    inbox_.post([this, call, costs] {
      if (call != call_) return;
      costs_ = costs;
      emit measured();
    });
  });
}

}  // namespace molten

#include "app/picture/moment_finder.h"

#include <cmath>

#include "app/playback/player.h"
#include "app/session/places.h"

namespace molten {

MomentFinder::MomentFinder(const Session& session, const Player& player)
    : session_(session), player_(player), newest_(&MomentFinder::answer, [this](double seconds) { found_(seconds); }) {}

void MomentFinder::find(std::size_t stage, Place place, std::function<void(double seconds)> found) {
  found_ = std::move(found);
  const Chain& chain = session_.project().chain;
  newest_.ask({player_.sources(),
               Chain(chain.begin(), chain.begin() + static_cast<std::ptrdiff_t>(stage) + 1), session_.videoInto(stage),
               session_.stageMoment(stage), intoStage(session_, stage, place), session_.followed()});
}

double MomentFinder::answer(const Question& question, std::stop_token stop) {
  const Stage& stage = question.chain.back();
  const Surroundings around{std::make_shared<MaterialAt>(
                                std::make_shared<SourceMaterial>(question.sources, 1, stop), PlanSettings{1, InBetween::Whole, 0, question.sounds}),
                            std::make_shared<const Chain>(question.chain.begin(), question.chain.end() - 1)};
  const auto map = stage.kind->timeMap(stage, question.in, around);
  const DisplacingMap* const displacing = map->displacing();
  if (!displacing) return 0;
  PlaneSites pixel;
  pixel.width = pixel.height = 1;
  pixel.x0 = std::floor(question.place.x * question.in.size.width) + 0.5;
  pixel.y0 = std::floor(question.place.y * question.in.size.height) + 0.5;
  double frames = 0;
  displacing->displacement(Moment::at(question.at, question.in.rate))->row(pixel, 0, {&frames, 1});
  return frames / question.in.rate.toDouble();
}

}  // namespace molten

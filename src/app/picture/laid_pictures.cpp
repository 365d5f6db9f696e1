#include "app/picture/laid_pictures.h"

#include <algorithm>

#include "core/engine/source_material.h"
#include "core/media/title_picture.h"

namespace molten {
namespace {

constexpr std::size_t mostKnown = 32;

}  // namespace

LaidPictures::LaidPictures(const Player& player, QObject* parent)
    : QObject(parent),
      player_(player),
      newest_([](const Question& question, const std::stop_token& stop) { return measure(question, stop); },
              [this](const Answer& answer) {
                for (const auto& one : answer) {
                  std::erase(asked_, one.first);
                  known_.push_front(one);
                }
                while (known_.size() > mostKnown) known_.pop_back();
                emit known();
              }) {}

LaidPictures::Answer LaidPictures::measure(const Question& question, const std::stop_token& stop) {
  Answer answer;
  MaterialAt material(std::make_shared<SourceMaterial>(question.sources, 1, stop, Urgency::Background), {});
  for (const Laid& laid : question.laid) {
    std::optional<OwnPicture> own;
    if (laid.title) {
      const TitleBox box = titleBox(*laid.title);
      own = {titleSize(*laid.title), 1, box.left, box.top, box.right, box.bottom};
    } else if (const auto source = material.source(laid.source->use, laid.source->between, SourceStays::Open)) {
      const VideoDescription made = videoAt(laid.branch, laid.branch.size(), source->made);
      own = {made.size, made.pixelAspect, 0, 0, static_cast<double>(made.size.width), static_cast<double>(made.size.height)};
    }
    answer.emplace_back(laid, own);
  }
  return answer;
}

std::optional<OwnPicture> LaidPictures::of(const Stage& stage, const StageValues& values, const VideoDescription& incoming,
                                           std::uint64_t filesSeen) {
  Laid laid{stage.kind->title(values, incoming), std::nullopt};
  if (!laid.title) {
    laid.source = stage.kind->ownSource(values);
    if (!laid.source) return std::nullopt;
    laid.branch = stage.branch, laid.filesSeen = filesSeen;
  }
  const auto at = std::find_if(known_.begin(), known_.end(), [&](const auto& one) { return one.first == laid; });
  if (at != known_.end()) {
    known_.splice(known_.begin(), known_, at);
    return known_.front().second;
  }
  const auto sources = player_.sources();
  if (sources && std::find(asked_.begin(), asked_.end(), laid) == asked_.end()) {
    // All that is not known yet, since a newer question takes the place of an older one.
    if (asked_.size() == mostKnown) asked_.erase(asked_.begin());
    asked_.push_back(std::move(laid));
    newest_.ask({sources, asked_});
  }
  return std::nullopt;
}

void LaidPictures::forget() {
  newest_.forget();
  asked_.clear();
  known_.clear();
}

}  // namespace molten

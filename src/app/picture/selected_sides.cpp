#include "app/picture/selected_sides.h"

#include <algorithm>
#include <cmath>

#include "app/dials/dials.h"
#include "app/picture/viewing.h"
#include "app/playback/player.h"
#include "app/session/footage_loader.h"
#include "app/session/stage_edits.h"

namespace molten {
namespace {

/// The small picture is made for a frame as large as it comes to be, twice as fine as it is mostly seen.
constexpr Size room{480, 320};

}  // namespace

SelectedSides::SelectedSides(Session& session, const Player& player, PictureView& picture, Viewing& viewing,
                             Dials& dials, QObject* parent)
    : QObject(parent), session_(session), player_(player), picture_(picture), dials_(dials) {
  viewing.askSides([this] { return wanted(); });
  viewing.lay([this](PictureState& state) { state.frame = frame(); });
  connect(&viewing, &Viewing::sidesShown, this, [this](const std::optional<StageSides>& sides) {
    if (!sides) return dials_.setBrightnessOld();
    if (!sides->entering.pixels.empty()) picture_.setEntering(asImage(ScreenImage(sides->entering)));
    dials_.setBrightness(sides->before, sides->after);
  });
  connect(&session_, &Session::selectionChanged, this, [this] {
    picture_.setEntering({});
    dials_.setBrightness({}, {});
  });
  connect(&session_, &Session::footageLeaves, this, [this] { picture_.setEntering({}); });
  // Those that were asked for when it began to play are of another moment.
  connect(&player_, &Player::stopped, &viewing, &Viewing::refresh);
  connect(&picture_, &PictureView::frameMoved, this, &SelectedSides::moveFrame);
}

std::optional<SelectedSides::Selected> SelectedSides::selected() const {
  const auto stage = session_.selectedStage();
  if (!session_.footage() || !stage || !session_.project().chain[*stage].on) return std::nullopt;
  const std::size_t place = session_.placeOn(*stage);
  const Moment shown = session_.piece().moment(session_.frame());
  return Selected{*stage, place, session_.reading()->present(place, shown), session_.reading()->present(place + 1, shown)};
}

std::optional<SidesOf> SelectedSides::wanted() const {
  const auto of = selected();
  if (!of) return std::nullopt;
  const auto& cards = session_.project().chain[of->stage].kind->description().cards;
  const bool brightness = std::any_of(cards.begin(), cards.end(), [](const CardDescription& card) { return card.brightness; });
  const bool warps = session_.reading()->map(of->place).warp() != nullptr;
  if (!brightness && !warps) return std::nullopt;
  return SidesOf{of->stage, of->entering, of->leaving, warps ? room : Size{0, 0}, brightness};
}

std::optional<ShownFrame> SelectedSides::frame() const {
  const auto of = selected();
  // While it plays the picture stands for itself.
  if (!of || player_.playing()) return std::nullopt;
  const Warp* const warp = session_.reading()->map(of->place).warp();
  if (!warp) return std::nullopt;
  const Affine way = warp->toIncoming(of->leaving);
  const VideoDescription video = session_.videoInto(of->stage);
  ShownFrame frame;
  frame.aspect = video.size.width * video.pixelAspect.toDouble() / video.size.height;
  constexpr Place corners[] = {{0, 0}, {1, 0}, {1, 1}, {0, 1}};
  bool all = true;
  for (std::size_t i = 0; i < frame.corners.size(); ++i) {
    const Place at{way.x(corners[i].x, corners[i].y), way.y(corners[i].x, corners[i].y)};
    frame.corners[i] = at;
    all = all && std::abs(at.x - corners[i].x) < 1e-6 && std::abs(at.y - corners[i].y) < 1e-6;
  }
  // Where all of the picture is seen there is nothing to choose.
  return all ? std::nullopt : std::optional(frame);
}

void SelectedSides::moveFrame(Place middle) {
  const auto of = selected();
  if (!of) return;
  const Stage& stage = session_.project().chain[of->stage];
  const StageValues values = stage.keyedAt(session_.stageMoment(of->stage).toDouble());
  changeStage(session_, of->stage,
              stage.kind->withFrameAt(values, middle, of->leaving.pictures(), session_.videoInto(of->stage)), "frame");
}

}  // namespace molten

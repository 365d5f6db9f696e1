#include "app/picture/picture_hands.h"

#include <cmath>

#include "app/picture/viewing.h"
#include "app/session/places.h"
#include "app/session/stage_edits.h"

namespace molten {

PictureHands::PictureHands(Session& session, const Player& player, PictureView& picture, Viewing& viewing,
                           QObject* parent)
    : QObject(parent),
      session_(session),
      picture_(picture),
      viewing_(viewing),
      moments_(session, player),
      laid_(new LaidPictures(player, this)),
      guides_(session, *laid_) {
  connect(&picture, &PictureView::handleMoved, this, &PictureHands::moveHandle);
  connect(&picture, &PictureView::keyMoved, this, &PictureHands::moveKey);
  connect(&picture, &PictureView::handleReleased, &session_.document(), &Document::endGesture);
  connect(&picture, &PictureView::placePicked, this, &PictureHands::pick);
  // Before the Picture is told of the new selection.
  connect(&session_, &Session::selectionChanged, this, [this] { picking_.clear(); });
  connect(&session_, &Session::footageLeaves, this, [this] {
    moments_.forget();
    laid_->forget();
  });
  connect(laid_, &LaidPictures::known, &viewing_, &Viewing::refreshLaid);
  viewing_.lay([this](PictureState& state) { lay(state); });
  // What a colour is picked from lies on top, and as it is.
  viewing_.showInstead([this]() -> std::optional<Viewing::Instead> {
    const StageAction* const action = waiting();
    if (!action || action->wants != StageAction::Wants::Colour) return std::nullopt;
    const std::size_t stage = *session_.selectedStage();
    const Chain& chain = session_.project().chain;
    Viewing::Instead instead{{chain.begin(), chain.begin() + static_cast<std::ptrdiff_t>(stage) + 1}, session_.stageMoment(stage)};
    instead.chain.back() = chain[stage].kind->shownForColour(chain[stage], action->id);
    instead.chain.back().on = true;
    return instead;
  });
}

void PictureHands::pickFor(const std::string& action) {
  picking_ = action;
  viewing_.refresh();
}

bool PictureHands::stopPicking() {
  if (std::exchange(picking_, {}).empty()) return false;
  viewing_.refresh();
  return true;
}

void PictureHands::moveHandle(std::size_t handle, Place shown) {
  const auto stage = session_.selectedStage();
  if (!stage) return;
  const Place place = intoStage(session_, *stage, shown);
  const Stage& held = session_.project().chain[*stage];
  const double at = session_.stageMoment(*stage).toDouble();
  const VideoDescription in = session_.videoInto(*stage);
  const StageValues before = held.keyedAt(at);
  StageValues values = held.kind->withHandle(before, handle, place, in);
  // What is moved as it is holds to where others begin and end.
  const auto was = guides_.cornersOf(*stage, before), is = guides_.cornersOf(*stage, values);
  constexpr double same = 1e-9;
  if (is.size() == 4 && was.size() == 4 && std::abs(is[0].x - is[2].x - was[0].x + was[2].x) < same && std::abs(is[0].y - is[2].y - was[0].y + was[2].y) < same) {
    constexpr double nearPixels = 7;
    const QPointF first = picture_.toWidget({0, 0}), last = picture_.toWidget({1, 1});
    const Place by = guides_.pull(*stage, values, nearPixels / std::max(1.0, last.x() - first.x()), nearPixels / std::max(1.0, last.y() - first.y()));
    values = held.kind->withHandle(before, handle, {place.x + by.x, place.y + by.y}, in);
  }
  changeStage(session_, *stage, values, "handle " + std::to_string(handle));
}

void PictureHands::moveKey(std::size_t parameter, std::size_t key, Place shown) {
  const auto stage = session_.selectedStage();
  if (!stage) return;
  const Place place = intoStage(session_, *stage, shown);
  const Stage& held = session_.project().chain[*stage];
  KeyTrack track = held.keys.at(parameter);
  track[key].value = {place.x, place.y, 0};
  session_.apply(setKeys(session_.project(), *stage, parameter, track, 0,
                         "Move key of " + held.kind->description().parameters[parameter].label,
                         "path " + std::to_string(parameter) + " " + std::to_string(key)));
}

const StageAction* PictureHands::waiting() const {
  const auto stage = session_.selectedStage();
  if (!stage || picking_.empty()) return nullptr;
  const auto& actions = session_.project().chain[*stage].kind->description().actions;
  const auto at = std::find_if(actions.begin(), actions.end(), [&](const StageAction& one) { return one.id == picking_; });
  return at == actions.end() ? nullptr : &*at;
}

/// Of a few pixels of what is shown, so that no single one's noise is taken for it.
void PictureHands::pickColour(Place place) {
  constexpr int around = 2;
  const QImage& image = picture_.image();
  const StageAction* const action = waiting();
  if (image.isNull() || !action) return;
  const int x = static_cast<int>(place.x * image.width()), y = static_cast<int>(place.y * image.height());
  int red = 0, green = 0, blue = 0, count = 0;
  for (int j = std::max(0, y - around); j <= std::min(image.height() - 1, y + around); ++j)
    for (int i = std::max(0, x - around); i <= std::min(image.width() - 1, x + around); ++i) {
      const QColor one = image.pixelColor(i, j);
      red += one.red(), green += one.green(), blue += one.blue(), ++count;
    }
  if (count == 0) return;
  const std::size_t stage = *session_.selectedStage();
  const auto part = [&](int sum) { return static_cast<std::uint8_t>((sum + count / 2) / count); };
  const Stage& held = session_.project().chain[stage];
  const StageValues values = held.kind->withColour(held.values, action->id, {part(red), part(green), part(blue)});
  const std::string name = action->label;
  picking_.clear();
  session_.document().endGesture();
  session_.apply(setValues(session_.project(), stage, values, name));
  viewing_.refresh();
}

/// What the action picks is the moment that is seen at the place, of the video that enters the stage.
void PictureHands::pick(Place place) {
  if (const StageAction* const known = waiting(); known && known->wants == StageAction::Wants::Colour) return pickColour(place);
  const auto stage = session_.selectedStage();
  const std::string action = std::exchange(picking_, {});
  viewing_.refreshLaid();
  if (!stage || action.empty() || !session_.footage()) return;
  moments_.find(*stage, place, [this, place = intoStage(session_, *stage, place), action, index = *stage, chain = session_.project().chain,
                                at = session_.stageMoment(*stage)](double beside) {
    // What was clicked is not there any more.
    if (session_.project().chain != chain) return;
    const Stage& held = chain[index];
    const double now = at.toDouble(), reads = now + beside;
    const StageValues values =
        held.kind->picked(held.keyedAt(now), action, {place, now, reads}, session_.videoInto(index));
    std::string name = action;
    for (const StageAction& known : held.kind->description().actions)
      if (known.id == action) name = known.label;
    session_.document().endGesture();
    session_.apply(setValuesAt(session_.project(), index, values, at, name, {}));
    session_.document().endGesture();
    emit session_.said(tr("%1: %2").arg(QString::fromStdString(name), QString::fromStdString(secondsText(reads))));
  });
}

void PictureHands::lay(PictureState& state) const {
  if (!picking_.empty()) {
    const StageAction* const action = waiting();
    state.corner = action && action->wants == StageAction::Wants::Colour
                       ? tr("Click the colour that is to be cut out; Esc leaves it.")
                       : tr("Click the place whose moment is to be held; Esc leaves it.");
    state.tool = PictureTool::Pick;
  }
  const auto selected = session_.selectedStage();
  if (!session_.footage() || !selected || !session_.project().chain[*selected].on) return;
  layHandles(state, session_.project().chain[*selected], *selected);
  layPaths(state, session_.project().chain[*selected], *selected);
  layGuides(state, session_.project().chain[*selected], *selected);
}

/// While something is laid over the picture: where titles begin and end, and around what else is laid.
void PictureHands::layGuides(PictureState& state, const Stage& stage, std::size_t index) const {
  const bool title = stage.kind->title(stage.values, session_.videoInto(index)).has_value();
  if (!title && !stage.kind->ownSource(stage.values)) return;
  const auto draw = [&](Place from, Place to) {
    state.guides.push_back({outOfStage(session_, index, from), outOfStage(session_, index, to)});
  };
  const LaidGuides::Lines lines = guides_.ofTitles();
  for (const double x : lines.across) draw({x, 0}, {x, 1});
  for (const double y : lines.down) draw({0, y}, {1, y});
  if (title) return;
  const auto corners = guides_.cornersOf(index, stage.valuesAt(session_.stageMoment(index).toDouble()));
  for (std::size_t i = 0; i < corners.size(); ++i) draw(corners[i], corners[(i + 1) % corners.size()]);
}

void PictureHands::layHandles(PictureState& state, const Stage& stage, std::size_t index) const {
  const VideoDescription in = session_.videoInto(index);
  const StageValues values = stage.keyedAt(session_.stageMoment(index).toDouble());
  const auto handles = stage.kind->handles(values, in);
  const auto lines = stage.kind->lines(values, in);
  double most = 0;
  for (const StageHandle& handle : handles) most = std::max(most, std::abs(handle.moment.value_or(0)));
  for (const FieldLine& line : lines) most = std::max({most, std::abs(line.from), std::abs(line.to)});
  const auto share = [most](double moment) { return most > 0 ? moment / most : 0; };
  for (std::size_t i = 0; i < handles.size(); ++i)
    state.handles.push_back({i,
                             handles[i].moment ? momentText(*handles[i].moment) : handles[i].label,
                             outOfStage(session_, index, handles[i].place),
                             handles[i].moment ? std::optional(share(*handles[i].moment)) : std::nullopt,
                             handles[i].anchor,
                             {}});
  for (const FieldLine& line : lines) {
    ShownLine shown{line.points, share(line.from), share(line.to)};
    for (Place& point : shown.points) point = outOfStage(session_, index, point);
    state.lines.push_back(std::move(shown));
  }
}

/// Places with keys: the way that they go.
void PictureHands::layPaths(PictureState& state, const Stage& stage, std::size_t index) const {
  const StageDescription& described = stage.kind->description();
  const Rational rate = session_.videoInto(index).rate;
  const Rational now = Moment::at(session_.stageMoment(index), rate).seconds(rate);
  for (const auto& [parameter, track] : stage.keys) {
    if (!std::holds_alternative<PlaceDescription>(described.parameters[parameter].kind) ||
        !isInUse(described, stage.values, parameter))
      continue;
    ShownLine line;
    const double from = track.front().at.toDouble(), to = track.back().at.toDouble();
    constexpr int pieces = 160;
    for (int i = 0; i <= pieces; ++i) {
      const auto at = keyedValue(track, from + (to - from) * i / pieces);
      line.points.push_back(outOfStage(session_, index, {at[0], at[1]}));
    }
    state.lines.push_back(std::move(line));
    for (std::size_t k = 0; k < track.size(); ++k)
      if (track[k].at != now)
        state.handles.push_back({k, {}, outOfStage(session_, index, {track[k].value[0], track[k].value[1]}), std::nullopt, {}, parameter});
  }
}

}  // namespace molten

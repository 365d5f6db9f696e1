// The Bench: what hands do on the Picture, and keys.
#include <QDir>
#include <QFileInfo>
#include <cmath>

#include "app/bench/bench.h"
#include "app/bench/player.h"
#include "app/chart/time_chart.h"
#include "app/dials/dials.h"
#include "app/dials/paint_dials.h"
#include "app/picture/picture_view.h"
#include "core/engine/time_map_file.h"
#include "core/field/painting.h"

namespace molten {
namespace {

/// A painting is as large as the footage, but no larger than this: it is soft anyhow.
constexpr int widestPainting = 1920;

}  // namespace

void Bench::connectPicture() {
  connect(picture_, &PictureView::viewChanged, this, &Bench::refreshPicture);
  connect(picture_, &PictureView::handleMoved, this, [this](std::size_t handle, Place place) {
    const auto stage = selectedStage();
    if (!stage) return;
    const Project& project = document_->project();
    const Stage& held = project.chain[*stage];
    const Rational at = stageMoment(*stage);
    const StageValues values = held.kind->withHandle(held.valuesAt(at.toDouble()), handle, place, videoInto(*stage));
    apply(setValuesAt(project, *stage, values, at, changeName(held, values, at),
                      "handle " + std::to_string(handle) + "@" + rationalText(at)));
  });
  connect(picture_, &PictureView::keyMoved, this, [this](std::size_t parameter, std::size_t key, Place place) {
    const auto stage = selectedStage();
    if (!stage) return;
    KeyTrack track = document_->project().chain[*stage].keys.at(parameter);
    track[key].value = {place.x, place.y};
    const auto& label = document_->project().chain[*stage].kind->description().parameters[parameter].label;
    apply(setKeys(document_->project(), *stage, parameter, track, 0, "Move key of " + label,
                  "path " + std::to_string(parameter) + " " + std::to_string(key)));
  });
  connect(picture_, &PictureView::handleReleased, document_, &Document::endGesture);
  connect(picture_, &PictureView::placePicked, this, &Bench::pickPlace);
  connect(picture_, &PictureView::strokeBegan, this, [this](Place place) {
    stroke_.reset();
    lasso_.clear();
    paintTo(place);
  });
  connect(picture_, &PictureView::strokeMoved, this, &Bench::paintTo);
  connect(picture_, &PictureView::strokeEnded, this, [this] {
    if (lasso_.size() > 2) fillLasso();
    stroke_.reset();
    lasso_.clear();
    document_->endGesture();
    refreshPicture();
  });
  connectLanes();
  connect(dials_->paint(), &PaintDials::toolChosen, this, &Bench::refreshPicture);
  connect(dials_->paint(), &PaintDials::fillRequested, this, [this](double level) {
    if (const auto painting = paintingInHand()) setPainting(filled(*painting, level), "Fill the painting");
    document_->endGesture();
  });
}

/// `Centre 0.500 × 0.500`, after the first of the values that differ.
std::string Bench::changeName(const Stage& stage, const StageValues& values, Rational at) const {
  const StageValues before = stage.valuesAt(at.toDouble());
  const auto& parameters = stage.kind->description().parameters;
  for (std::size_t i = 0; i < values.size(); ++i)
    if (!(values[i] == before[i])) return parameters[i].label + " " + valueLabel(parameters[i], values[i]);
  return stage.kind->description().label;
}

// ---- keys

void Bench::setDial(std::size_t parameter, const ParameterValue& value) {
  const auto stage = selectedStage();
  if (!stage) return;
  ParameterValue whole = value;
  // A file that is named without its folder stands beside the project, or as long as that has no place beside the
  // footage.
  if (auto* file = std::get_if<std::string>(&whole); file && !file->empty()) {
    const QString beside =
        document_->path().isEmpty() ? QString::fromStdString(document_->project().source.path) : document_->path();
    *file = QDir::cleanPath(QFileInfo(beside).dir().absoluteFilePath(QString::fromStdString(*file))).toStdString();
  }
  apply(setValueAt(document_->project(), *stage, parameter, whole, stageMoment(*stage)));
}

/// The pin: a key here, or none; the last one that goes leaves the value that it had.
void Bench::toggleKey(std::size_t parameter) {
  const auto stage = selectedStage();
  if (!stage || !footage_) return;
  const Stage& keyed = document_->project().chain[*stage];
  const std::string& label = keyed.kind->description().parameters[parameter].label;
  const Rational at = stageMoment(*stage);
  const auto known = keyed.keys.find(parameter);
  KeyTrack track = known == keyed.keys.end() ? KeyTrack{} : known->second;
  const auto here = keyAt(track, at);
  if (here)
    track = withoutKeys(track, {*here});
  else
    track = withKey(track, at, keyValue(keyed.valuesAt(at.toDouble())[parameter]));
  apply(
      setKeys(document_->project(), *stage, parameter, track, at, here ? "Remove key of " + label : "Key of " + label));
  document_->endGesture();
}

void Bench::refreshLanes() {
  KeyLanesState state;
  const auto selected = selectedStage();
  if (footage_ && selected) {
    const Stage& stage = document_->project().chain[*selected];
    const StageDescription& described = stage.kind->description();
    state.kind = stage.kind;
    state.rate = piece_.chainRate;
    state.playhead = stageMoment(*selected);
    for (const auto& [parameter, track] : stage.keys)
      if (isInUse(described, stage.values, parameter))
        state.lanes.push_back({parameter, QString::fromStdString(described.parameters[parameter].label),
                               std::holds_alternative<PlaceDescription>(described.parameters[parameter].kind), track});
  }
  chart_->lanes()->setState(state);
  chart_->lanes()->setView(chart_->plot()->view());
}

void Bench::connectLanes() {
  KeyLanes* lanes = chart_->lanes();
  connect(
      lanes, &KeyLanes::changed, this,
      [this](std::size_t parameter, const KeyTrack& track, const QString& name, const QString& mergeKey) {
        const auto stage = selectedStage();
        if (!stage) return;
        const std::string key = mergeKey.isEmpty() ? std::string() : "lane " + mergeKey.toStdString();
        apply(setKeys(document_->project(), *stage, parameter, track, stageMoment(*stage), name.toStdString(), key));
      });
  connect(lanes, &KeyLanes::gestureEnded, document_, &Document::endGesture);
  connect(lanes, &KeyLanes::scrubbed, this, [this](Rational seconds) {
    // Where later stages move pictures, the lanes' time is not the output's: there is no one place to go to.
    const auto stage = selectedStage();
    if (stage && stageMoment(*stage) == piece_.moment(frame_).seconds(piece_.chainRate))
      seek((seconds * piece_.rate + Rational(1, 2)).floor());
  });
}

void Bench::removeKeys(std::size_t parameter) {
  const auto stage = selectedStage();
  if (!stage || !document_->project().chain[*stage].keys.contains(parameter)) return;
  const auto& label = document_->project().chain[*stage].kind->description().parameters[parameter].label;
  apply(setKeys(document_->project(), *stage, parameter, {}, stageMoment(*stage), "Remove all keys of " + label));
  document_->endGesture();
}

// ---- what is on the Picture

/// What the action picks is the moment that is seen at the place, of the video that enters the stage.
void Bench::pickPlace(Place place) {
  const auto stage = selectedStage();
  const std::string action = std::exchange(picking_, {});
  if (!stage || action.empty() || !footage_) return refreshPicture();
  const Project& project = document_->project();
  const Stage& held = project.chain[*stage];
  const Rational at = stageMoment(*stage);
  const double now = at.toDouble(), seconds = now + momentAt(*stage, place);
  const StageValues values = held.kind->picked(held.valuesAt(now), action, {place, now, seconds}, videoInto(*stage));
  std::string name = action;
  for (const StageAction& known : held.kind->description().actions)
    if (known.id == action) name = known.label;
  apply(setValuesAt(project, *stage, values, at, name, {}));
  document_->endGesture();
  say(tr("%1: %2").arg(QString::fromStdString(name), QString::fromStdString(secondsText(seconds))));
}

double Bench::momentAt(std::size_t stage, Place place) const {
  const VideoDescription in = videoInto(stage);
  const Chain& chain = document_->project().chain;
  // What a field is made of is read here and now: it is for a click.
  const Surroundings around{
      std::make_shared<FieldMaterial>(footage_, player_->feed()->budget(), 1),
      std::make_shared<const Chain>(chain.begin(), chain.begin() + static_cast<std::ptrdiff_t>(stage))};
  const auto map = chain[stage].kind->timeMap(chain[stage], in, around);
  const auto displacement = map->displacement(Moment::at(stageMoment(stage), in.rate));
  if (!displacement) return 0;
  PlaneSites pixel;
  pixel.width = pixel.height = 1;
  pixel.x0 = std::floor(place.x * in.size.width) + 0.5, pixel.y0 = std::floor(place.y * in.size.height) + 0.5;
  double frames = 0;
  displacement->row(pixel, 0, {&frames, 1});
  return frames / in.rate.toDouble();
}

void Bench::addTimeMap(const QString& path) {
  auto stage = stageOfTimeMap(path.toStdString());
  if (!stage) return say(QString::fromStdString(stage.error().message));
  Edit edit = addStage(document_->project(), *stage->kind);
  edit.name = "Add a time map";
  edit.after.chain.back() = std::move(*stage);
  apply(edit);
  select(document_->project().chain.size());
}

// ---- painting

std::optional<std::size_t> Bench::paintedParameter() const {
  const auto stage = selectedStage();
  if (!stage) return std::nullopt;
  const Stage& held = document_->project().chain[*stage];
  const auto& described = held.kind->description();
  for (std::size_t i = 0; i < described.parameters.size(); ++i)
    if (std::holds_alternative<PaintingDescription>(described.parameters[i].kind) && isInUse(described, held.values, i))
      return i;
  return std::nullopt;
}

std::shared_ptr<const PaintedPicture> Bench::paintingInHand() const {
  const auto parameter = paintedParameter();
  if (!parameter || !footage_) return nullptr;
  const auto& painting = std::get<Painting>(document_->project().chain[*selectedStage()].values[*parameter]);
  if (painting.picture) return painting.picture;
  const Size full = video().size;
  const int width = std::min(full.width, widestPainting);
  return std::make_shared<const PaintedPicture>(Size{width, std::max(1, full.height * width / full.width)});
}

void Bench::setPainting(std::shared_ptr<const PaintedPicture> picture, const std::string& name) {
  const auto stage = selectedStage();
  const auto parameter = paintedParameter();
  if (!stage || !parameter) return;
  Edit edit = setValue(document_->project(), *stage, *parameter, Painting{"", std::move(picture)});
  edit.name = name;
  edit.mergeKey = std::to_string(*stage) + ":painting";
  apply(edit);
}

void Bench::paintTo(Place place) {
  const auto painting = paintingInHand();
  if (!painting) return;
  const PaintDials& tools = *dials_->paint();
  const Size size = painting->size();
  const Place at{place.x * size.width, place.y * size.height};
  if (tools.tool() != PaintDials::Tool::Brush) {
    lasso_.push_back(at);
    return refreshPicture();
  }
  if (!stroke_)
    stroke_ = std::make_unique<Stroke>(painting, Brush{tools.radius() * size.height, tools.softness(), tools.level()});
  setPainting(stroke_->to(at.x, at.y), "Paint");
}

void Bench::fillLasso() {
  const auto painting = paintingInHand();
  if (!painting) return;
  const PaintDials& tools = *dials_->paint();
  const bool gradient = tools.tool() == PaintDials::Tool::Gradient;
  setPainting(filledWithin(*painting, lasso_, gradient ? tools.levelFrom() : tools.level(), tools.level(),
                           tools.softness() * tools.radius() * painting->size().height),
              gradient ? "Gradient in a lasso" : "Fill a lasso");
}

PictureState Bench::pictureState() const {
  PictureState state;
  const Project& project = document_->project();
  if (footage_)
    state.title = tr("Picture · %1").arg(QString::fromStdString(timecode(frame_, piece_.rate)));
  else if (indexing_ >= 0)
    state.title = tr("Picture · first frame, the others are being found");
  state.before = before_;
  state.message = trouble_;
  state.corner =
      !remark_.isEmpty()  ? remark_
      : !picking_.empty() ? tr("Click the place whose moment is to be held; Esc leaves it.")
      : smallerForMemory_
          ? tr("Shown smaller: this reach does not fit the memory budget at full size. Rendering is not affected.")
          : QString();
  if (footage_ && sectionsShown_) state.marks = marks_;
  state.pointed = pointedWords_;
  if (pointed_ && !picture_->underMouse()) state.ring = pointed_;
  state.comparing = before_ ? Comparing::Off : comparing_;
  state.otherName = comparing_ == Comparing::Off ? QString() : otherName();
  const auto selected = selectedStage();
  if (!footage_ || !selected || !project.chain[*selected].on) return state;
  const Stage& stage = project.chain[*selected];
  const VideoDescription in = videoInto(*selected);
  const StageValues values = stage.valuesAt(stageMoment(*selected).toDouble());
  const auto handles = stage.kind->handles(values, in);
  const auto lines = stage.kind->lines(values, in);
  double most = 0;
  for (const StageHandle& handle : handles) most = std::max(most, std::abs(handle.moment.value_or(0)));
  for (const FieldLine& line : lines) most = std::max({most, std::abs(line.from), std::abs(line.to)});
  const auto share = [most](double moment) { return most > 0 ? moment / most : 0; };
  for (std::size_t i = 0; i < handles.size(); ++i)
    state.handles.push_back({i,
                             handles[i].moment ? momentText(*handles[i].moment) : handles[i].label,
                             handles[i].place,
                             handles[i].moment ? std::optional(share(*handles[i].moment)) : std::nullopt,
                             handles[i].anchor,
                             {}});
  for (const FieldLine& line : lines) state.lines.push_back({line.points, share(line.from), share(line.to)});
  addPaths(state, stage, in);
  if (paintedParameter() && dials_->paint()->tool() != PaintDials::Tool::None) {
    state.tool = PictureTool::Paint;
    const bool brush = dials_->paint()->tool() == PaintDials::Tool::Brush;
    state.brush = brush ? dials_->paint()->radius() : 0;
  }
  if (!lasso_.empty()) {
    const Size size = paintingInHand()->size();
    ShownLine line;
    for (const Place& at : lasso_) line.points.push_back({at.x / size.width, at.y / size.height});
    state.lines.push_back(line);
  }
  if (!picking_.empty()) state.tool = PictureTool::Pick;
  return state;
}

/// Places with keys: the way that they go.
void Bench::addPaths(PictureState& state, const Stage& stage, const VideoDescription& in) const {
  const StageDescription& described = stage.kind->description();
  for (const auto& [parameter, track] : stage.keys) {
    if (!std::holds_alternative<PlaceDescription>(described.parameters[parameter].kind) ||
        !isInUse(described, stage.values, parameter))
      continue;
    ShownLine line;
    const double from = track.front().at.toDouble(), to = track.back().at.toDouble();
    constexpr int pieces = 160;
    for (int i = 0; i <= pieces; ++i) {
      const auto at = keyedValue(track, from + (to - from) * i / pieces);
      line.points.push_back({at[0], at[1]});
    }
    state.lines.push_back(std::move(line));
    const Rational now = Moment::at(stageMoment(*selectedStage()), in.rate).seconds(in.rate);
    for (std::size_t k = 0; k < track.size(); ++k)
      if (track[k].at != now)
        state.handles.push_back({k, {}, {track[k].value[0], track[k].value[1]}, std::nullopt, {}, parameter});
  }
}

}  // namespace molten

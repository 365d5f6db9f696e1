#include "app/picture/painting_hand.h"

#include "app/dials/paint_dials.h"
#include "app/picture/viewing.h"

namespace molten {
namespace {

/// A painting is as large as the footage, but no larger than this: it is soft anyhow.
constexpr int widestPainting = 1920;

}  // namespace

PaintingHand::PaintingHand(Session& session, PaintDials& tools, PictureView& picture, Viewing& viewing, QObject* parent)
    : QObject(parent), session_(session), tools_(tools), viewing_(viewing) {
  connect(&picture, &PictureView::strokeBegan, this, &PaintingHand::begin);
  connect(&picture, &PictureView::strokeMoved, this, &PaintingHand::paintTo);
  connect(&picture, &PictureView::strokeEnded, this, &PaintingHand::end);
  connect(&tools_, &PaintDials::toolChosen, &viewing_, &Viewing::refreshLaid);
  connect(&tools_, &PaintDials::fillRequested, this, [this](double level) {
    if (const auto whole = painting()) set(filled(*whole, level), "Fill the painting");
    session_.document().endGesture();
  });
  viewing_.lay([this](PictureState& state) { lay(state); });
}

std::optional<std::size_t> PaintingHand::parameter() const {
  const auto stage = session_.selectedStage();
  if (!stage) return std::nullopt;
  const Stage& held = session_.project().chain[*stage];
  const auto& described = held.kind->description();
  for (std::size_t i = 0; i < described.parameters.size(); ++i)
    if (std::holds_alternative<PaintingDescription>(described.parameters[i].kind) && isInUse(described, held.values, i))
      return i;
  return std::nullopt;
}

std::shared_ptr<const PaintedPicture> PaintingHand::painting() const {
  const auto which = parameter();
  if (!which || !session_.footage()) return nullptr;
  const auto& known = std::get<Painting>(session_.project().chain[*session_.selectedStage()].values[*which]);
  if (known.picture) return known.picture;
  const Size full = session_.video().size;
  const int width = std::min(full.width, widestPainting);
  return std::make_shared<const PaintedPicture>(Size{width, std::max(1, full.height * width / full.width)});
}

void PaintingHand::set(std::shared_ptr<const PaintedPicture> picture, const std::string& name) {
  const auto stage = session_.selectedStage();
  const auto which = parameter();
  if (!stage || !which) return;
  Edit edit = setValue(session_.project(), *stage, *which, Painting{"", std::move(picture)});
  edit.name = name;
  edit.mergeKey = std::to_string(*stage) + ":painting";
  session_.apply(edit);
}

void PaintingHand::begin(Place place) {
  stroke_.reset();
  beneath_.reset();
  lasso_.clear();
  paintTo(place);
}

void PaintingHand::paintTo(Place place) {
  const auto whole = painting();
  if (!whole) return;
  const Size size = whole->size();
  const Place at{place.x * size.width, place.y * size.height};
  if (tools_.tool() == PaintDials::Tool::Gradient) {
    // A straight drag from one end to the other: seen as it is drawn.
    if (lasso_.empty()) return lasso_.assign(2, at);
    lasso_[1] = at;
    if (!beneath_) beneath_ = whole;
    return set(withGradient(*beneath_, lasso_[0], at, tools_.levelFrom(), tools_.level()), "Gradient");
  }
  if (tools_.tool() == PaintDials::Tool::Fill) {
    lasso_.push_back(at);
    return viewing_.refreshLaid();
  }
  if (!stroke_)
    stroke_ =
        std::make_unique<Stroke>(whole, Brush{tools_.radius() * size.height, tools_.softness(), tools_.level()});
  set(stroke_->to(at.x, at.y), "Paint");
}

void PaintingHand::end() {
  if (tools_.tool() == PaintDials::Tool::Fill && lasso_.size() > 2) fillLasso();
  stroke_.reset();
  beneath_.reset();
  lasso_.clear();
  session_.document().endGesture();
  viewing_.refreshLaid();
}

void PaintingHand::fillLasso() {
  const auto whole = painting();
  if (!whole) return;
  set(filledWithin(*whole, lasso_, tools_.level(), tools_.softness() * tools_.radius() * whole->size().height),
      "Fill a lasso");
}

void PaintingHand::lay(PictureState& state) const {
  const auto selected = session_.selectedStage();
  if (!session_.footage() || !selected || !session_.project().chain[*selected].on) return;
  if (parameter() && tools_.tool() != PaintDials::Tool::None && state.tool == PictureTool::Look) {
    state.tool = PictureTool::Paint;
    state.field = !viewing_.bypassed();
    state.brush = tools_.tool() == PaintDials::Tool::Brush ? tools_.radius() : 0;
  }
  if (const auto whole = lasso_.empty() ? nullptr : painting()) {
    ShownLine line;
    for (const Place& at : lasso_) line.points.push_back({at.x / whole->size().width, at.y / whole->size().height});
    state.lines.push_back(line);
  }
}

}  // namespace molten

#include "app/picture/picture_view.h"

#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "app/theme/spoken.h"
#include "app/theme/value_field.h"

namespace molten {
namespace {

constexpr double grabRadius = 13;

}  // namespace

PictureView::PictureView(QWidget* parent) : QWidget(parent) {
  setMouseTracking(true);
  setMinimumSize(240, 160);
  setAttribute(Qt::WA_OpaquePaintEvent);
  theme::setSpoken(*this, QAccessible::Graphic, tr("Picture"));
}

// ---- what is shown

void PictureView::setPictureShape(Size size, double pixelAspect) {
  if (sight_.size == size && sight_.pixelAspect == pixelAspect) return;
  sight_.size = size;
  sight_.pixelAspect = pixelAspect;
  sight_.zoom = 0;
  setPane();
  drawing_.setImage({});
  emit viewChanged();
  update();
}

void PictureView::setImage(QImage image) {
  drawing_.setImage(std::move(image));
  update();
}

void PictureView::setOther(QImage image) {
  if (image.isNull() && !drawing_.isComparing()) return;
  drawing_.setOther(std::move(image));
  update();
}

void PictureView::setEntering(QImage image) {
  drawing_.setEntering(std::move(image));
  update();
}

void PictureView::setSteps(QImage borders) {
  if (borders.isNull() && drawing_.steps().isNull()) return;
  drawing_.setSteps(std::move(borders));
  update();
}

void PictureView::setField(QImage field, std::vector<PictureLabel> labels) {
  if (field.isNull() && drawing_.field().isNull()) return;
  drawing_.setField(std::move(field), std::move(labels));
  update();
}

void PictureView::setState(const PictureState& state) {
  if (state == state_) return;
  const bool otherTool = state.tool != state_.tool;
  const bool otherPane = (state.comparing == Comparing::SideBySide) != (state_.comparing == Comparing::SideBySide);
  state_ = state;
  if (dragged_ && *dragged_ >= state_.handles.size()) dragged_.reset();
  if (hovered_ && *hovered_ >= state_.handles.size()) hovered_.reset();
  if (otherTool && !dragged_) setCursor(restingCursor());
  if (otherPane) {
    setPane();
    emit viewChanged();
  }
  update();
}

void PictureView::setPane() {
  const QRectF whole(rect());
  sight_.ratio = devicePixelRatioF();
  sight_.pane = state_.comparing == Comparing::SideBySide ? whole.adjusted(whole.width() / 2, 0, 0, 0) : whole;
}

void PictureView::setZoomAround(double zoom, const QPointF& anchor) {
  if (sight_.size.width < 1) return;
  sight_.zoomAround(zoom, anchor);
  emit viewChanged();
  update();
}

void PictureView::typeZoom() {
  auto* field = new ValueField(
      [this](const QString& words) -> Taken {
        QString plain = words.toLower().remove(' ').remove('%').replace(',', '.');
        bool number = false;
        const double percent = plain.toDouble(&number);
        if (plain != tr("fit") && (!number || percent <= 0)) return {false, tr("A zoom like 150%, or fit.")};
        setZoom(number ? percent / 100 : 0);
        return {};
      },
      this);
  field->setObjectName("zoom");
  field->setAccessibleName(tr("Zoom"));
  field->setAlignment(Qt::AlignRight);
  field->setValueText(tr("%1 %").arg(std::lround(shownZoom() * 100)));
  field->setGeometry(width() - 98, 6, 90, 24);
  // It goes when it is left: Enter and Escape leave it too.
  connect(field, &ValueField::left, field, &QObject::deleteLater);
  field->show();
  field->setFocus();
  field->selectAll();
}

void PictureView::resizeEvent(QResizeEvent*) {
  setPane();
  emit viewChanged();
}

void PictureView::paintEvent(QPaintEvent*) {
  // The window has gone to a screen with other pixels.
  if (sight_.ratio != devicePixelRatioF()) {
    setPane();
    emit viewChanged();
  }
  const bool paints = state_.tool == PictureTool::Paint && underMouse() && !dragged_;
  drawing_.setActiveHandle(dragged_ ? dragged_ : hovered_);
  drawing_.setFrameActive(hold_ == Hold::Frame || overFrame_);
  drawing_.setBrushAt(paints ? std::optional(pointer_) : std::nullopt);
  QPainter painter(this);
  drawing_.draw(painter, rect());
}

// ---- hands

std::optional<std::size_t> PictureView::handleAt(const QPointF& point) const {
  std::optional<std::size_t> nearest;
  double best = grabRadius;
  for (std::size_t i = 0; i < state_.handles.size(); ++i) {
    const QPointF d = sight_.toWidget(state_.handles[i].place) - point;
    const double distance = std::hypot(d.x(), d.y());
    // A handle comes before the keys on its path.
    if (distance <= best - (state_.handles[i].pathParameter ? 1 : 0)) best = distance, nearest = i;
  }
  return nearest;
}

PictureView::Hold PictureView::holdAt(const QPointF& point) const {
  constexpr double near = 5;
  if (state_.comparing == Comparing::Wipe && drawing_.isComparing() && std::abs(point.x() - wipe_ * width()) <= 8)
    return Hold::Wipe;
  if (const auto room = frameRoom(); room && state_.tool == PictureTool::Look && room->contains(point))
    return Hold::Frame;
  if (!state_.marks || state_.bypassed || state_.tool != PictureTool::Look || !sight_.target().contains(point))
    return Hold::Nothing;
  const QPointF at = sight_.toWidget(*state_.marks);
  if (std::abs(point.x() - at.x()) <= near) return Hold::Column;
  return std::abs(point.y() - at.y()) <= near ? Hold::Row : Hold::Nothing;
}

Qt::CursorShape PictureView::restingCursor() const {
  if (hovered_) return Qt::OpenHandCursor;
  return state_.tool == PictureTool::Look ? Qt::ArrowCursor : Qt::CrossCursor;
}

void PictureView::mousePressEvent(QMouseEvent* event) {
  setFocus(Qt::MouseFocusReason);
  if (event->button() == Qt::LeftButton) dragged_ = state_.bypassed ? std::nullopt : handleAt(event->position());
  if (dragged_) {
    grip_ = sight_.toWidget(state_.handles[*dragged_].place) - event->position();
    setCursor(Qt::ClosedHandCursor);
  } else if (event->button() == Qt::LeftButton && state_.tool == PictureTool::Pick) {
    emit placePicked(sight_.placeAt(event->position()));
  } else if (event->button() == Qt::LeftButton && state_.tool == PictureTool::Paint && !state_.bypassed) {
    hold_ = Hold::Brush;
    emit strokeBegan(sight_.placeAt(event->position()));
  } else if (event->button() == Qt::LeftButton && holdAt(event->position()) != Hold::Nothing) {
    hold_ = holdAt(event->position());
    if (hold_ == Hold::Frame) takeFrame(event->position());
  } else if (event->button() == Qt::LeftButton && event->modifiers() & Qt::ControlModifier && state_.marks) {
    const Place place = sight_.placeAt(event->position());
    emit marksMoved({std::clamp(place.x, 0.0, 1.0), std::clamp(place.y, 0.0, 1.0)});
  } else if (event->button() == Qt::MiddleButton || (event->button() == Qt::LeftButton && sight_.zoom > 0)) {
    hold_ = Hold::Ground;
    panFrom_ = event->position();
    setCursor(Qt::ClosedHandCursor);
  }
  update();
}

void PictureView::dragHandle(const QPointF& point, bool straight) {
  const Handle handle = state_.handles[*dragged_];
  QPointF at = point + grip_;
  if (straight && handle.anchor) {
    // Straight up, across, or at 45 degrees from the handle that it belongs to.
    const QPointF anchor = sight_.toWidget(state_.handles[*handle.anchor].place), d = at - anchor;
    const double step = std::acos(-1.0) / 4, angle = std::round(std::atan2(d.y(), d.x()) / step) * step;
    const double length = d.x() * std::cos(angle) + d.y() * std::sin(angle);
    at = anchor + QPointF(std::cos(angle), std::sin(angle)) * length;
  }
  if (handle.pathParameter)
    emit keyMoved(*handle.pathParameter, handle.index, sight_.placeAt(at));
  else
    emit handleMoved(handle.index, sight_.placeAt(at));
}

/// The frame itself is taken where it is; beside it, its middle comes to the pointer.
void PictureView::takeFrame(const QPointF& point) {
  setCursor(Qt::ClosedHandCursor);
  const QRectF room = *frameRoom();
  QPolygonF seen;
  QPointF middle;
  for (const Place& corner : state_.frame->corners) seen << QPointF(corner.x, corner.y), middle += seen.back() / 4;
  const QPointF at((point.x() - room.left()) / room.width(), (point.y() - room.top()) / room.height());
  const bool within = seen.containsPoint(at, Qt::WindingFill);
  grip_ = within ? middle - at : QPointF();
  if (!within) dragFrame(point);
}

void PictureView::dragFrame(const QPointF& point) {
  const auto room = frameRoom();
  if (!room) return;
  emit frameMoved({(point.x() - room->left()) / room->width() + grip_.x(),
                   (point.y() - room->top()) / room->height() + grip_.y()});
}

void PictureView::drag(const QPointF& point) {
  const Place place = sight_.placeAt(point);
  const auto marksAt = [&](double x, double y) { emit marksMoved({std::clamp(x, 0.0, 1.0), std::clamp(y, 0.0, 1.0)}); };
  switch (hold_) {
    case Hold::Wipe:
      wipe_ = std::clamp(point.x() / width(), 0.0, 1.0);
      drawing_.setWipe(wipe_);
      break;
    case Hold::Frame:
      return dragFrame(point);
    case Hold::Column:
      return marksAt(place.x, state_.marks.value_or(place).y);
    case Hold::Row:
      return marksAt(state_.marks.value_or(place).x, place.y);
    case Hold::Brush:
      emit strokeMoved(place);
      break;
    case Hold::Ground:
      sight_.pan(point - std::exchange(panFrom_, point));
      emit panned();
      break;
    case Hold::Nothing:
      return;
  }
  update();
}

void PictureView::mouseMoveEvent(QMouseEvent* event) {
  const QPointF point = pointer_ = event->position();
  if (dragged_ && *dragged_ < state_.handles.size()) return dragHandle(point, event->modifiers() & Qt::ShiftModifier);
  if (hold_ != Hold::Nothing) return drag(point);
  if (state_.tool == PictureTool::Paint) update();
  const auto over = state_.bypassed ? std::nullopt : handleAt(point);
  if (over != hovered_) {
    hovered_ = over;
    update();
  }
  const Hold line = over ? Hold::Nothing : holdAt(point);
  if (overFrame_ != (line == Hold::Frame)) {
    overFrame_ = !overFrame_;
    update();
  }
  setCursor(line == Hold::Nothing ? restingCursor()
            : line == Hold::Frame ? Qt::OpenHandCursor
            : line == Hold::Row   ? Qt::SizeVerCursor
                                  : Qt::SizeHorCursor);
  emit pointedAt(sight_.shows(point) && line != Hold::Frame ? std::optional(sight_.placeAt(point)) : std::nullopt);
}

void PictureView::mouseReleaseEvent(QMouseEvent*) {
  if (dragged_ || hold_ == Hold::Frame) emit handleReleased();
  if (hold_ == Hold::Brush) emit strokeEnded();
  dragged_.reset();
  hold_ = Hold::Nothing;
  setCursor(restingCursor());
  update();
}

void PictureView::mouseDoubleClickEvent(QMouseEvent* event) {
  if (handleAt(event->position()) || holdAt(event->position()) == Hold::Frame || state_.tool != PictureTool::Look) return;
  setZoomAround(sight_.zoom > 0 ? 0 : 1, event->position());
}

void PictureView::wheelEvent(QWheelEvent* event) {
  const double steps = event->angleDelta().y() / 120.0;
  setZoomAround(sight_.shownZoom() * std::pow(1.25, steps), event->position());
  event->accept();
}

void PictureView::leaveEvent(QEvent*) {
  hovered_.reset();
  overFrame_ = false;
  emit pointedAt(std::nullopt);
  update();
}

}  // namespace molten

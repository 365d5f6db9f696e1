#include "app/picture/picture_view.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr double handleRadius = 6.5;
constexpr double grabRadius = 13;
/// Kept free around a fitted picture, so that handles on its edges can be seen and grasped.
constexpr double rim = 12;
constexpr double leastZoom = 0.05, mostZoom = 32;

/// Words on the picture: legible on any of its colours.
void paintTag(QPainter& painter, const QPointF& at, const QString& text, const QFont& font, const QColor& colour,
              Qt::Alignment side) {
  painter.setFont(font);
  const QFontMetricsF metrics(font);
  QRectF box(0, 0, metrics.horizontalAdvance(text) + 10, metrics.height() + 4);
  box.moveTopLeft(at);
  if (side & Qt::AlignRight) box.moveRight(at.x());
  if (side & Qt::AlignHCenter) box.moveLeft(at.x() - box.width() / 2);
  if (side & Qt::AlignVCenter) box.moveTop(at.y() - box.height() / 2);
  if (side & Qt::AlignBottom) box.moveBottom(at.y());
  painter.setPen(Qt::NoPen);
  painter.setBrush(QColor(0x13, 0x14, 0x16, 200));
  painter.drawRoundedRect(box, 3, 3);
  painter.setPen(colour);
  painter.drawText(box, Qt::AlignCenter, text);
}

}  // namespace

PictureView::PictureView(QWidget* parent) : QWidget(parent) {
  setMouseTracking(true);
  setMinimumSize(240, 160);
  setAttribute(Qt::WA_OpaquePaintEvent);
  setAccessibleName(tr("Picture"));
}

void PictureView::setPictureShape(Size size, double pixelAspect) {
  if (size_ == size && pixelAspect_ == pixelAspect) return;
  size_ = size;
  pixelAspect_ = pixelAspect;
  zoom_ = 0;
  image_ = {};
  emit viewChanged();
  update();
}

void PictureView::setImage(QImage image) {
  image_ = std::move(image);
  difference_ = {};
  update();
}

void PictureView::setOther(QImage image) {
  other_ = std::move(image);
  difference_ = {};
  update();
}

void PictureView::setSteps(QImage borders) {
  steps_ = std::move(borders);
  update();
}

void PictureView::setState(const PictureState& state) {
  const bool otherTool = state.tool != state_.tool;
  const bool otherPane = (state.comparing == Comparing::SideBySide) != (state_.comparing == Comparing::SideBySide);
  state_ = state;
  if (dragged_ && *dragged_ >= state_.handles.size()) dragged_.reset();
  if (hovered_ && *hovered_ >= state_.handles.size()) hovered_.reset();
  if (otherTool && !dragged_) setCursor(restingCursor());
  if (otherPane) emit viewChanged();
  update();
}

double PictureView::fitScale() const {
  if (size_.width < 1) return 1;
  return std::min(std::max(1.0, pane().width() - 2 * rim) / (size_.width * pixelAspect_),
                  std::max(1.0, height() - 2 * rim) / size_.height);
}

double PictureView::scale() const {
  return zoom_ > 0 ? zoom_ / devicePixelRatioF() : fitScale();
}

QRectF PictureView::pane() const {
  const QRectF whole(rect());
  return state_.comparing == Comparing::SideBySide ? whole.adjusted(whole.width() / 2, 0, 0, 0) : whole;
}

QRectF PictureView::target() const {
  const double w = size_.width * pixelAspect_ * scale(), h = size_.height * scale();
  const QPointF centre = zoom_ > 0 ? centre_ : QPointF(0.5, 0.5);
  const QPointF middle = pane().center();
  return {middle.x() - centre.x() * w, middle.y() - centre.y() * h, w, h};
}

QPointF PictureView::toWidget(const Place& place) const {
  const QRectF t = target();
  return {t.left() + place.x * t.width(), t.top() + place.y * t.height()};
}

Size PictureView::wantedSize() const {
  const double s = std::min(1.0, scale() * devicePixelRatioF());
  return {std::max(1, static_cast<int>(std::lround(size_.width * pixelAspect_ * s))),
          std::max(1, static_cast<int>(std::lround(size_.height * s)))};
}

QString PictureView::zoomText() const {
  const int percent = static_cast<int>(std::lround(scale() * devicePixelRatioF() * 100));
  return zoom_ > 0 ? tr("%1 %").arg(percent) : tr("fit · %1 %").arg(percent);
}

void PictureView::setZoomAround(double zoom, const QPointF& anchor) {
  if (size_.width < 1) return;
  const QRectF before = target();
  const QPointF at((anchor.x() - before.left()) / before.width(), (anchor.y() - before.top()) / before.height());
  zoom_ = zoom <= 0 ? 0 : std::clamp(zoom, leastZoom, mostZoom);
  if (zoom_ > 0) {
    // What was under the anchor stays there; the picture keeps to the view.
    const double w = size_.width * pixelAspect_ * scale(), h = size_.height * scale();
    const QPointF middle = pane().center();
    centre_ = {at.x() + (middle.x() - anchor.x()) / w, at.y() + (middle.y() - anchor.y()) / h};
    centre_ = {std::clamp(centre_.x(), 0.0, 1.0), std::clamp(centre_.y(), 0.0, 1.0)};
  }
  emit viewChanged();
  update();
}

std::optional<std::size_t> PictureView::handleAt(const QPointF& point) const {
  std::optional<std::size_t> nearest;
  double best = grabRadius;
  for (std::size_t i = 0; i < state_.handles.size(); ++i) {
    const QPointF d = toWidget(state_.handles[i].place) - point;
    const double distance = std::hypot(d.x(), d.y());
    // A handle comes before the keys on its path.
    if (distance <= best - (state_.handles[i].pathParameter ? 1 : 0)) best = distance, nearest = i;
  }
  return nearest;
}

void PictureView::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme::ink);
  const QRectF t = target();
  const bool comparing = state_.comparing != Comparing::Off && !other_.isNull();
  if (comparing && state_.comparing == Comparing::Difference) makeDifference();
  painter.save();
  painter.setClipRect(pane());
  paintPicture(painter, comparing && !difference_.isNull() ? difference_ : image_, t);
  if (!steps_.isNull() && !state_.before) {
    painter.setRenderHint(QPainter::SmoothPixmapTransform, false);
    painter.drawImage(t, steps_);
  }
  painter.restore();
  if (comparing) paintOther(painter);
  painter.setRenderHint(QPainter::Antialiasing);
  if (!state_.before) {
    painter.save();
    painter.setClipRect(pane());
    paintMarks(painter);
    paintHandles(painter);
    painter.restore();
  }
  if (!state_.title.isEmpty()) paintTag(painter, {8, 8}, state_.title, theme::words(), theme::text, Qt::AlignLeft);
  if (!image_.isNull())
    paintTag(painter, {width() - 8.0, 8}, zoomText(), theme::numbers(11), theme::dim, Qt::AlignRight);
  if (state_.before)
    paintTag(painter, {width() / 2.0, 8}, tr("Before"), theme::words(12, true), theme::now, Qt::AlignHCenter);
  if (const QString& said = state_.corner.isEmpty() ? state_.pointed : state_.corner; !said.isEmpty())
    paintTag(painter, {8, height() - 8.0}, said, state_.corner.isEmpty() ? theme::numbers(11) : theme::words(11),
             theme::text, Qt::AlignBottom);
  if (!state_.message.isEmpty()) {
    QFont font = theme::words(14);
    painter.setFont(font);
    const QRectF box = QRectF(rect()).adjusted(width() * 0.15, 0, -width() * 0.15, 0);
    QRectF words =
        painter.boundingRect(box, Qt::AlignCenter | Qt::TextWordWrap, state_.message).adjusted(-16, -12, 16, 12);
    painter.setPen(Qt::NoPen);
    painter.setBrush(QColor(0x1c, 0x1d, 0x20, 235));
    painter.drawRoundedRect(words, 3, 3);
    painter.setPen(theme::text);
    painter.drawText(box, Qt::AlignCenter | Qt::TextWordWrap, state_.message);
  }
}

void PictureView::paintPicture(QPainter& painter, const QImage& image, const QRectF& where) const {
  if (image.isNull()) return;
  // Pixels are shown as they are from twice their size on.
  const double magnified = where.width() / image.width() * devicePixelRatioF();
  painter.setRenderHint(QPainter::SmoothPixmapTransform, std::abs(magnified - 1) > 0.01 && magnified < 2);
  if (image.hasAlphaChannel()) {
    painter.save();
    painter.setClipRect(where, Qt::IntersectClip);
    constexpr int cell = 10;
    const QRect seen = where.toAlignedRect() & rect();
    for (int y = seen.top() / cell * cell; y <= seen.bottom(); y += cell)
      for (int x = seen.left() / cell * cell; x <= seen.right(); x += cell)
        painter.fillRect(x, y, cell, cell, (x / cell + y / cell) % 2 ? theme::raised : theme::panel);
    painter.restore();
  }
  painter.drawImage(where, image);
}

void PictureView::paintOther(QPainter& painter) const {
  const QRectF t = target();
  const auto names = [&](double left, double right) {
    paintTag(painter, {left, height() - 34.0}, state_.otherName, theme::words(12, true), theme::now,
             Qt::AlignRight | Qt::AlignBottom);
    paintTag(painter, {right, height() - 34.0}, tr("as it is now"), theme::words(12, true), theme::now,
             Qt::AlignLeft | Qt::AlignBottom);
  };
  if (state_.comparing == Comparing::Difference)
    return paintTag(painter, {width() / 2.0, 8}, tr("Difference from %1").arg(state_.otherName), theme::words(12, true),
                    theme::now, Qt::AlignHCenter);
  painter.save();
  const bool wiping = state_.comparing == Comparing::Wipe;
  const double border = wiping ? wipe_ * width() : width() / 2.0;
  painter.setClipRect(QRectF(0, 0, border, height()));
  if (!wiping) painter.fillRect(QRectF(0, 0, border, height()), theme::ink);
  paintPicture(painter, other_, wiping ? t : t.translated(-width() / 2.0, 0));
  painter.restore();
  painter.fillRect(QRectF(border - 1.5, 0, 3, height()), theme::ink);
  painter.fillRect(QRectF(border - 0.5, 0, 1, height()), theme::now);
  if (wiping) {
    painter.setPen(QPen(theme::ink, 1.5));
    painter.setBrush(theme::now);
    painter.drawRoundedRect(QRectF(border - 5, height() / 2.0 - 16, 10, 32), 3, 3);
  }
  names(border - 8, border + 8);
}

/// What differs, at three times its strength, so that little is seen too.
void PictureView::makeDifference() {
  if (!difference_.isNull() || image_.size() != other_.size()) return;
  const QImage a = image_.convertToFormat(QImage::Format_RGB32), b = other_.convertToFormat(QImage::Format_RGB32);
  difference_ = QImage(a.size(), QImage::Format_RGB32);
  for (int y = 0; y < a.height(); ++y) {
    const auto *from = reinterpret_cast<const QRgb*>(a.constScanLine(y)),
               *other = reinterpret_cast<const QRgb*>(b.constScanLine(y));
    auto* const to = reinterpret_cast<QRgb*>(difference_.scanLine(y));
    for (int x = 0; x < a.width(); ++x)
      to[x] = qRgb(std::min(255, 3 * std::abs(qRed(from[x]) - qRed(other[x]))),
                   std::min(255, 3 * std::abs(qGreen(from[x]) - qGreen(other[x]))),
                   std::min(255, 3 * std::abs(qBlue(from[x]) - qBlue(other[x]))));
  }
}

void PictureView::paintMarks(QPainter& painter) const {
  const QRectF t = target();
  if (state_.marks && !image_.isNull()) {
    const QPointF at = toWidget(*state_.marks);
    for (const QLineF& line :
         {QLineF(at.x(), t.top(), at.x(), t.bottom()), QLineF(t.left(), at.y(), t.right(), at.y())}) {
      painter.setPen(QPen(QColor(0x13, 0x14, 0x16, 110), 2));
      painter.drawLine(line);
      QPen pen(QColor(theme::now.red(), theme::now.green(), theme::now.blue(), 130), 1);
      pen.setDashPattern({3, 4});
      painter.setPen(pen);
      painter.drawLine(line);
    }
  }
  if (!state_.ring) return;
  painter.setBrush(Qt::NoBrush);
  for (const auto& [colour, width] : {std::pair(QColor(0x13, 0x14, 0x16, 200), 4.0), {theme::now, 1.6}}) {
    painter.setPen(QPen(colour, width));
    painter.drawEllipse(toWidget(*state_.ring), 6, 6);
  }
}

PictureView::Held PictureView::heldAt(const QPointF& point) const {
  constexpr double near = 5;
  if (state_.comparing == Comparing::Wipe && !other_.isNull() && std::abs(point.x() - wipe_ * width()) <= 8)
    return Held::Wipe;
  if (!state_.marks || state_.before || state_.tool != PictureTool::Look || !target().contains(point))
    return Held::Nothing;
  const QPointF at = toWidget(*state_.marks);
  if (std::abs(point.x() - at.x()) <= near) return Held::Column;
  return std::abs(point.y() - at.y()) <= near ? Held::Row : Held::Nothing;
}

void PictureView::paintHandles(QPainter& painter) const {
  const auto colourOf = [](const std::optional<double>& share) {
    return share ? theme::momentColour(*share) : theme::now;
  };
  for (const ShownLine& line : state_.lines) {
    QPolygonF shape;
    double length = 0;
    for (const Place& place : line.points) {
      const QPointF at = toWidget(place);
      if (!shape.isEmpty()) length += std::hypot(at.x() - shape.back().x(), at.y() - shape.back().y());
      shape << at;
    }
    if (shape.size() < 2) continue;
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor(0x13, 0x14, 0x16, 150), 4));
    painter.drawPolyline(shape);
    // Piece by piece, since the colour goes along the line.
    double come = 0;
    for (qsizetype i = 1; i < shape.size(); ++i) {
      const double step = std::hypot(shape[i].x() - shape[i - 1].x(), shape[i].y() - shape[i - 1].y());
      const auto at = [&](double way) {
        const double part = length > 0 ? way / length : 0;
        return !line.from || !line.to ? theme::now : theme::momentColour(*line.from + (*line.to - *line.from) * part);
      };
      QLinearGradient colours(shape[i - 1], shape[i]);
      colours.setColorAt(0, at(come));
      colours.setColorAt(1, at(come + step));
      come += step;
      painter.setPen(QPen(QBrush(colours), 2));
      painter.drawLine(shape[i - 1], shape[i]);
    }
  }
  for (std::size_t i = 0; i < state_.handles.size(); ++i) {
    const Handle& handle = state_.handles[i];
    const QPointF at = toWidget(handle.place);
    const bool active = dragged_ == i || (!dragged_ && hovered_ == i);
    const double radius = handle.pathParameter ? handleRadius * 0.6 : handleRadius;
    painter.setPen(QPen(QColor(0x13, 0x14, 0x16, 200), 4));
    painter.setBrush(colourOf(handle.share));
    painter.drawEllipse(at, radius, radius);
    painter.setPen(QPen(active ? theme::now : theme::ink, 1.5));
    painter.drawEllipse(at, radius + (active ? 2.5 : 0), radius + (active ? 2.5 : 0));
    if (handle.label.empty()) continue;
    // The tag stands inside the view, on the side that has room.
    const bool left = at.x() > width() - 110;
    const double y = std::clamp(at.y(), 16.0, height() - 16.0);
    const double x = std::clamp(at.x() + (left ? -14 : 14), 4.0, width() - 4.0);
    paintTag(painter, {x, y}, QString::fromStdString(handle.label), theme::numbers(12), theme::now,
             (left ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter);
  }
  if (state_.tool == PictureTool::Paint && underMouse() && !dragged_) {
    const double r = state_.brush * target().height();
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor(0x13, 0x14, 0x16, 150), 3));
    painter.drawEllipse(pointer_, r, r);
    painter.setPen(QPen(theme::now, 1));
    painter.drawEllipse(pointer_, r, r);
  }
}

Place PictureView::placeAt(const QPointF& point) const {
  const QRectF t = target();
  return {(point.x() - t.left()) / t.width(), (point.y() - t.top()) / t.height()};
}

void PictureView::mousePressEvent(QMouseEvent* event) {
  setFocus(Qt::MouseFocusReason);
  if (event->button() == Qt::LeftButton) dragged_ = state_.before ? std::nullopt : handleAt(event->position());
  if (dragged_) {
    grip_ = toWidget(state_.handles[*dragged_].place) - event->position();
    setCursor(Qt::ClosedHandCursor);
  } else if (event->button() == Qt::LeftButton && state_.tool == PictureTool::Pick) {
    emit placePicked(placeAt(event->position()));
  } else if (event->button() == Qt::LeftButton && state_.tool == PictureTool::Paint && !state_.before) {
    painting_ = true;
    emit strokeBegan(placeAt(event->position()));
  } else if (event->button() == Qt::LeftButton && heldAt(event->position()) != Held::Nothing) {
    held_ = heldAt(event->position());
  } else if (event->button() == Qt::LeftButton && event->modifiers() & Qt::ControlModifier && state_.marks) {
    const Place place = placeAt(event->position());
    emit marksMoved({std::clamp(place.x, 0.0, 1.0), std::clamp(place.y, 0.0, 1.0)});
  } else if (event->button() == Qt::MiddleButton || (event->button() == Qt::LeftButton && zoom_ > 0)) {
    panning_ = true;
    panFrom_ = event->position();
    setCursor(Qt::ClosedHandCursor);
  }
  update();
}

void PictureView::mouseMoveEvent(QMouseEvent* event) {
  pointer_ = event->position();
  if (dragged_ && *dragged_ < state_.handles.size()) {
    const Handle handle = state_.handles[*dragged_];
    QPointF at = event->position() + grip_;
    if (event->modifiers() & Qt::ShiftModifier && handle.anchor) {
      // Straight up, across, or at 45 degrees from the handle that it belongs to.
      const QPointF anchor = toWidget(state_.handles[*handle.anchor].place), d = at - anchor;
      const double step = std::acos(-1.0) / 4, angle = std::round(std::atan2(d.y(), d.x()) / step) * step;
      const double length = d.x() * std::cos(angle) + d.y() * std::sin(angle);
      at = anchor + QPointF(std::cos(angle), std::sin(angle)) * length;
    }
    if (handle.pathParameter)
      emit keyMoved(*handle.pathParameter, handle.index, placeAt(at));
    else
      emit handleMoved(handle.index, placeAt(at));
    return;
  }
  if (held_ == Held::Wipe) {
    wipe_ = std::clamp(event->position().x() / width(), 0.0, 1.0);
    return update();
  }
  if (held_ != Held::Nothing) {
    const Place place = placeAt(event->position());
    Place marks = *state_.marks;
    (held_ == Held::Column ? marks.x : marks.y) = std::clamp(held_ == Held::Column ? place.x : place.y, 0.0, 1.0);
    return emit marksMoved(marks);
  }
  if (painting_) {
    emit strokeMoved(placeAt(event->position()));
    return update();
  }
  if (state_.tool == PictureTool::Paint) update();
  if (panning_) {
    const QRectF t = target();
    const QPointF d = event->position() - panFrom_;
    panFrom_ = event->position();
    centre_ = {std::clamp(centre_.x() - d.x() / t.width(), 0.0, 1.0),
               std::clamp(centre_.y() - d.y() / t.height(), 0.0, 1.0)};
    emit panned();
    update();
    return;
  }
  const auto over = state_.before ? std::nullopt : handleAt(event->position());
  if (over != hovered_) {
    hovered_ = over;
    update();
  }
  const Held line = over ? Held::Nothing : heldAt(event->position());
  setCursor(line == Held::Nothing ? restingCursor() : line == Held::Row ? Qt::SizeVerCursor : Qt::SizeHorCursor);
  const Place place = placeAt(event->position());
  const bool inside = place.x >= 0 && place.x < 1 && place.y >= 0 && place.y < 1 && pane().contains(event->position());
  emit pointedAt(inside ? std::optional(place) : std::nullopt);
}

Qt::CursorShape PictureView::restingCursor() const {
  if (hovered_) return Qt::OpenHandCursor;
  return state_.tool == PictureTool::Look ? Qt::ArrowCursor : Qt::CrossCursor;
}

void PictureView::mouseReleaseEvent(QMouseEvent*) {
  if (dragged_) emit handleReleased();
  if (painting_) emit strokeEnded();
  dragged_.reset();
  panning_ = painting_ = false;
  held_ = Held::Nothing;
  setCursor(restingCursor());
  update();
}

void PictureView::mouseDoubleClickEvent(QMouseEvent* event) {
  if (handleAt(event->position()) || state_.tool != PictureTool::Look) return;
  zoom_ > 0 ? fit() : setZoomAround(1, event->position());
}

void PictureView::wheelEvent(QWheelEvent* event) {
  const double steps = event->angleDelta().y() / 120.0;
  const double now = scale() * devicePixelRatioF();
  setZoomAround(now * std::pow(1.25, steps), event->position());
  event->accept();
}

void PictureView::resizeEvent(QResizeEvent*) {
  emit viewChanged();
}

void PictureView::leaveEvent(QEvent*) {
  hovered_.reset();
  emit pointedAt(std::nullopt);
  update();
}

}  // namespace molten

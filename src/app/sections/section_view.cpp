#include "app/sections/section_view.h"

#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>
#include <limits>

#include "app/theme/spoken.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr double grabbed = 12, markGrabbed = 6;
constexpr double rim = 3;
/// Where on the line its grip is: off the middle, where the dashed line mostly is.
constexpr double gripAlong = 0.3;

void paintDashes(QPainter& painter, const QPointF& from, const QPointF& to) {
  painter.setPen(QPen(QColor(0x13, 0x14, 0x16, 120), 2));
  painter.drawLine(from, to);
  QPen pen(QColor(theme::now.red(), theme::now.green(), theme::now.blue(), 150), 1);
  pen.setDashPattern({3, 4});
  painter.setPen(pen);
  painter.drawLine(from, to);
}

void paintRing(QPainter& painter, const QPointF& at) {
  painter.setBrush(Qt::NoBrush);
  for (const auto& [colour, width] : {std::pair(QColor(0x13, 0x14, 0x16, 200), 4.0), {theme::now, 1.6}}) {
    painter.setPen(QPen(colour, width));
    painter.drawEllipse(at, 5, 5);
  }
}

}  // namespace

SectionView::SectionView(Way way, QWidget* parent) : QWidget(parent), way_(way) {
  setMouseTracking(true);
  setAttribute(Qt::WA_OpaquePaintEvent);
  theme::setSpoken(*this, QAccessible::Chart, way == Way::Across ? tr("Across") : tr("Down"));
  setToolTip(way == Way::Across
                 ? tr("The footage along the dashed row of the Picture, time upwards. The line is the moment that each "
                      "column reads; drag it to change the reach, the dashed line for another column. The wheel zooms; a double "
                      "click shows all that is read.")
                 : tr("The footage along the dashed column of the Picture, time to the right. The line is the moment "
                      "that each row reads; drag it to change the reach, the dashed line for another row. The wheel zooms; a double "
                      "click shows all that is read."));
}

void SectionView::setState(const SectionState& state) {
  state_ = state;
  update();
}

void SectionView::setSlice(const QImage& slice) {
  // As the screen wants it: other formats are turned into that at every drawing.
  slice_ = slice.convertToFormat(QImage::Format_RGB32);
  scaled_ = {};
  update();
}

QPointF SectionView::point(double along, double seconds) const {
  const double place = state_.from + along * (state_.to - state_.from);
  const double part = (seconds - state_.first) / (state_.last - state_.first);
  if (way_ == Way::Down) return {rim + part * (width() - 2 * rim), place};
  return {place, height() - rim - part * (height() - 2 * rim)};
}

double SectionView::alongOf(const QPointF& at) const {
  const double place = way_ == Way::Across ? at.x() : at.y();
  return (place - state_.from) / std::max(1.0, state_.to - state_.from);
}

double SectionView::secondsAt(const QPointF& at) const {
  const double part = way_ == Way::Down ? (at.x() - rim) / (width() - 2 * rim)
                                        : (height() - rim - at.y()) / (height() - 2 * rim);
  return state_.first + part * (state_.last - state_.first);
}

double SectionView::readAt(double along) const {
  if (state_.reads.empty()) return state_.now;
  const double at = std::clamp(along * static_cast<double>(state_.reads.size()) - 0.5, 0.0,
                               static_cast<double>(state_.reads.size() - 1));
  const auto below = static_cast<std::size_t>(at);
  const std::size_t above = std::min(below + 1, state_.reads.size() - 1);
  return state_.reads[below] + (state_.reads[above] - state_.reads[below]) * (at - static_cast<double>(below));
}

QPointF SectionView::linePoint(double along) const {
  return point(along, readAt(along));
}

void SectionView::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme::ink);
  if (!slice_.isNull()) paintSlice(painter);
  painter.setRenderHint(QPainter::Antialiasing);
  if (!state_.reads.empty()) {
    paintDashes(painter, point(state_.marked, 0), point(state_.marked, state_.length));
    paintDashes(painter, point(0, state_.now), point(1, state_.now));
  }
  paintReads(painter);
  if (state_.ring) paintRing(painter, point(state_.ring->first, state_.ring->second));
  if (state_.mayPull && !state_.reads.empty()) paintGrip(painter);
  if (state_.dimmed) {
    QColor veil = theme::ink;
    veil.setAlpha(130);
    painter.fillRect(rect(), veil);
  }
  paintTitle(painter);
}

/// It begins with the first frame and ends when the last one does.
void SectionView::paintSlice(QPainter& painter) {
  QRectF box(point(0, state_.length), point(1, 0));
  if (way_ == Way::Down) box = QRectF(point(0, 0), point(1, state_.length));
  box = box.normalized();
  const QColor veil(0x13, 0x14, 0x16, 70);
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  // Scaled once; zoomed in, only what is in sight is drawn.
  const QSize size = (box.size() * devicePixelRatioF()).toSize();
  if (size.isEmpty()) return;
  if (size.width() > 3 * width() || size.height() > 3 * height()) {
    painter.setRenderHint(QPainter::SmoothPixmapTransform, false);
    painter.drawImage(box, slice_);
    painter.fillRect(box, veil);
    return;
  }
  if (scaled_.size() != size) {
    scaled_ = QPixmap::fromImage(slice_.scaled(size, Qt::IgnoreAspectRatio, Qt::SmoothTransformation));
    QPainter(&scaled_).fillRect(scaled_.rect(), veil);
  }
  painter.drawPixmap(box, scaled_, QRectF(scaled_.rect()));
}

/// How far from now what is read farthest away lies, in seconds; above 0.
double SectionView::farthest() const {
  double most = 1e-6;
  for (const double read : state_.reads) most = std::max(most, std::abs(read - state_.now));
  return most;
}

/// The line of what each place along reads, over a ground that keeps it legible.
void SectionView::paintReads(QPainter& painter) const {
  const double most = farthest();
  const auto along = [&](std::size_t k) {
    return (static_cast<double>(k) + 0.5) / static_cast<double>(state_.reads.size());
  };
  for (const bool ground : {true, false})
    for (std::size_t i = 1; i < state_.reads.size(); ++i) {
      const double a = state_.reads[i - 1], b = state_.reads[i];
      const bool outside = std::min(a, b) < -state_.frame / 2 || std::max(a, b) > state_.length;
      if (ground)
        painter.setPen(QPen(QColor(0x13, 0x14, 0x16, 170), 5));
      else if (outside)
        painter.setPen(QPen(theme::outside, 2, Qt::DotLine));
      else
        painter.setPen(QPen(theme::momentColour(((a + b) / 2 - state_.now) / most), 2.4));
      painter.drawLine(point(along(i - 1), a), point(along(i), b));
    }
}

/// Two strokes on the line: here it is taken hold of.
void SectionView::paintGrip(QPainter& painter) const {
  const QPointF at = linePoint(gripAlong);
  const QSizeF size = way_ == Way::Across ? QSizeF(20, 8) : QSizeF(8, 20);
  const QRectF box(at - QPointF(size.width(), size.height()) / 2, size);
  painter.setPen(QPen(theme::ink, 1));
  painter.setBrush(grip_ == Grip::Line ? theme::now : theme::text);
  painter.drawRoundedRect(box, 3, 3);
  for (const double off : {-1.5, 1.5}) {
    const QPointF half = way_ == Way::Across ? QPointF(5, 0) : QPointF(0, 5);
    const QPointF middle = at + (way_ == Way::Across ? QPointF(0, off) : QPointF(off, 0));
    painter.drawLine(middle - half, middle + half);
  }
}

QRectF SectionView::titleRect() const {
  const QRectF words = QFontMetricsF(theme::words(11)).boundingRect(state_.title).adjusted(-5, -2, 5, 2);
  const double length = std::min(words.width(), width() - 10.0);
  const double left = 6, right = std::max(left, width() - 6 - length), top = 5, bottom = height() - 5 - words.height();
  const auto covered = [&](const QRectF& box) {
    int points = 0;
    for (std::size_t k = 0; k < state_.reads.size(); ++k) {
      const double along = (static_cast<double>(k) + 0.5) / static_cast<double>(state_.reads.size());
      points += box.adjusted(-3, -3, 3, 3).contains(point(along, state_.reads[k]));
    }
    return points;
  };
  QRectF best;
  int least = std::numeric_limits<int>::max();
  for (const QPointF& corner : {QPointF(left, top), {right, top}, {left, bottom}, {right, bottom}}) {
    const QRectF box(corner, QSizeF(length, words.height()));
    if (const int points = covered(box); points < least) least = points, best = box;
  }
  return best;
}

void SectionView::paintTitle(QPainter& painter) const {
  painter.setFont(theme::words(11));
  const QRectF title = titleRect();
  painter.setPen(Qt::NoPen);
  painter.setBrush(QColor(0x13, 0x14, 0x16, 190));
  painter.drawRoundedRect(title, 3, 3);
  painter.setPen(theme::text);
  painter.drawText(title, Qt::AlignCenter, state_.title);
}

SectionView::Grip SectionView::gripAt(const QPointF& at) const {
  if (state_.reads.empty()) return Grip::None;
  const double along = std::clamp(alongOf(at), 0.0, 1.0);
  const QPointF onLine = linePoint(along), onMark = point(state_.marked, 0);
  const double off = way_ == Way::Across ? std::abs(at.y() - onLine.y()) : std::abs(at.x() - onLine.x());
  if (state_.mayPull && off <= grabbed) return Grip::Line;
  const double aside = way_ == Way::Across ? std::abs(at.x() - onMark.x()) : std::abs(at.y() - onMark.y());
  return aside <= markGrabbed ? Grip::Mark : Grip::None;
}

void SectionView::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  grip_ = gripAt(event->position());
  heldAlong_ = std::clamp(alongOf(event->position()), 0.0, 1.0);
  heldSeconds_ = secondsAt(event->position());
  if (grip_ == Grip::Line) emit pullBegan(heldAlong_);
}

void SectionView::mouseMoveEvent(QMouseEvent* event) {
  if (grip_ == Grip::Line) return emit pulled(heldAlong_, secondsAt(event->position()) - heldSeconds_);
  if (grip_ == Grip::Mark) return emit markMoved(std::clamp(alongOf(event->position()), 0.0, 1.0));
  const Grip over = gripAt(event->position());
  setCursor(over == Grip::None                              ? Qt::ArrowCursor
            : (over == Grip::Line) == (way_ == Way::Across) ? Qt::SizeVerCursor
                                                            : Qt::SizeHorCursor);
  const double along = alongOf(event->position());
  emit hovered(along >= 0 && along <= 1 ? std::optional(along) : std::nullopt);
}

void SectionView::mouseReleaseEvent(QMouseEvent*) {
  if (grip_ != Grip::None) emit released();
  grip_ = Grip::None;
}

void SectionView::mouseDoubleClickEvent(QMouseEvent*) {
  emit wholeWanted();
}

void SectionView::wheelEvent(QWheelEvent* event) {
  if (event->angleDelta().y() == 0) return event->ignore();
  emit zoomed(std::pow(1.25, event->angleDelta().y() / 120.0), secondsAt(event->position()));
  event->accept();
}

void SectionView::leaveEvent(QEvent*) {
  emit hovered(std::nullopt);
}

}  // namespace molten

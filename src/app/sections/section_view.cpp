#include "app/sections/section_view.h"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr double grabbed = 7;
/// Room beside the clip, where the line goes when it leaves it.
constexpr double edge = 8, roomAbove = 26;

void tag(QPainter& painter, QPointF at, const QString& words, const QColor& colour, const QRectF& within) {
  const QFont font = theme::numbers(11);
  painter.setFont(font);
  const QFontMetricsF metrics(font);
  QRectF box(at.x(), at.y() - metrics.height() / 2 - 1, metrics.horizontalAdvance(words) + 8, metrics.height() + 2);
  box.moveLeft(
      std::clamp(box.left(), within.left() + 2, std::max(within.left() + 2, within.right() - box.width() - 2)));
  box.moveTop(std::clamp(box.top(), within.top() + 18, std::max(within.top() + 18, within.bottom() - box.height())));
  painter.setPen(Qt::NoPen);
  painter.setBrush(QColor(0x13, 0x14, 0x16, 190));
  painter.drawRoundedRect(box, 3, 3);
  painter.setPen(colour);
  painter.drawText(box, Qt::AlignCenter, words);
}

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
  setAccessibleName(way == Way::Across ? tr("Across") : tr("Down"));
  way == Way::Across ? setMinimumHeight(80) : setFixedWidth(112);
  setToolTip(way == Way::Across
                 ? tr("The footage along the dashed row of the Picture, time upwards. The line is the moment that each "
                      "column reads; drag it to change the reach, the dashed line for another column.")
                 : tr("The footage along the dashed column of the Picture, time to the right. The line is the moment "
                      "that each row reads; drag it to change the reach, the dashed line for another row."));
}

void SectionView::setState(const SectionState& state) {
  state_ = state;
  update();
}

void SectionView::setSlice(const QImage& slice) {
  slice_ = slice;
  scaled_ = {};
  update();
}

QPointF SectionView::point(double along, double seconds) const {
  const double place = state_.from + along * (state_.to - state_.from);
  if (way_ == Way::Down) return {edge + seconds / state_.length * (width() - 2 * edge), place};
  if (state_.lower == state_.upper)
    return {place, height() - edge - seconds / state_.length * (height() - roomAbove - edge)};
  return {place,
          state_.lower + (seconds - state_.bottom) / (state_.top - state_.bottom) * (state_.upper - state_.lower)};
}

double SectionView::alongOf(const QPointF& at) const {
  const double place = way_ == Way::Across ? at.x() : at.y();
  return (place - state_.from) / std::max(1.0, state_.to - state_.from);
}

double SectionView::secondsAt(const QPointF& at) const {
  if (way_ == Way::Down) return (at.x() - edge) / (width() - 2 * edge) * state_.length;
  if (state_.lower == state_.upper) return (height() - edge - at.y()) / (height() - roomAbove - edge) * state_.length;
  return state_.bottom + (at.y() - state_.lower) / (state_.upper - state_.lower) * (state_.top - state_.bottom);
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
  if (way_ == Way::Across && !state_.reads.empty()) paintTags(painter);
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
  if (size.width() > 3 * width() || size.height() > 3 * height()) {
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

void SectionView::paintTags(QPainter& painter) const {
  const auto seconds = [](double s) { return QString::number(s, 'f', 2); };
  tag(painter, point(0, state_.now) + QPointF(8, 0), tr("now %1 s").arg(seconds(state_.now)), theme::now, rect());
  const double read = readAt(state_.marked);
  if (std::abs(read - state_.now) > state_.frame / 2)
    tag(painter, linePoint(state_.marked) + QPointF(10, 0), tr("reads %1 s").arg(seconds(read)),
        theme::momentColour((read - state_.now) / farthest()), rect());
}

void SectionView::paintTitle(QPainter& painter) const {
  painter.setFont(theme::words(12));
  const QRectF box = QFontMetricsF(painter.font()).boundingRect(state_.title).adjusted(-5, -2, 5, 2);
  const QRectF title(6, 5, std::min(box.width(), width() - 10.0), box.height());
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
  return aside <= grabbed ? Grip::Mark : Grip::None;
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

void SectionView::leaveEvent(QEvent*) {
  emit hovered(std::nullopt);
}

}  // namespace molten

#include "app/sections/bands.h"

#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QSettings>
#include <algorithm>

#include "app/sections/section_view.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr int edge = 4;  ///< between the Picture and a band: what is taken hold of to make it larger
constexpr int usualAcross = 70, usualDown = 80, least = 40;

}  // namespace

Bands::Bands(QWidget* picture, SectionView* across, SectionView* down, QWidget* parent)
    : QWidget(parent), picture_(picture), across_(across), down_(down) {
  corner_ = new QLabel(this);
  corner_->setObjectName("corner");
  corner_->setProperty("dim", true);
  corner_->setFont(theme::words(11));
  corner_->setAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  corner_->setContentsMargins(6, 0, 2, 0);
  corner_->setToolTip(tr("What the pixel that is pointed at reads, or the one where the dashed lines cross"));
  for (QWidget* const part : {picture_, static_cast<QWidget*>(across_), static_cast<QWidget*>(down_)})
    part->setParent(this);
  acrossWanted_ = QSettings().value("bands/across", usualAcross).toInt();
  downWanted_ = QSettings().value("bands/down", usualDown).toInt();
  setMouseTracking(true);
  setMinimumSize(240, 160);
}

void Bands::setShown(bool shown) {
  if (shown == shown_) return;
  shown_ = shown;
  arrange();
}

void Bands::setCorner(const QString& words) {
  corner_->setText(words);
}

int Bands::acrossHeight() const {
  return std::clamp(acrossWanted_, least, std::max(least, height() / 2));
}

int Bands::downWidth() const {
  return std::clamp(downWanted_, least, std::max(least, width() / 2));
}

void Bands::arrange() {
  const int below = shown_ ? acrossHeight() + edge : 0, beside = shown_ ? downWidth() + edge : 0;
  const int w = width() - beside, h = height() - below;
  picture_->setGeometry(0, 0, w, h);
  down_->setGeometry(w + edge, 0, beside - edge, h);
  across_->setGeometry(0, h + edge, w, below - edge);
  corner_->setGeometry(w + edge, h + edge, beside - edge, below - edge);
  for (QWidget* const part : {static_cast<QWidget*>(across_), static_cast<QWidget*>(down_),
                              static_cast<QWidget*>(corner_)})
    part->setVisible(shown_);
  update();
  emit arranged();
}

void Bands::resizeEvent(QResizeEvent*) {
  arrange();
}

Bands::Grip Bands::gripAt(const QPoint& point) const {
  if (!shown_) return Grip::None;
  if (std::abs(point.y() - (across_->y() - edge / 2)) <= edge) return Grip::Across;
  return std::abs(point.x() - (down_->x() - edge / 2)) <= edge ? Grip::Down : Grip::None;
}

void Bands::mousePressEvent(QMouseEvent* event) {
  if (event->button() == Qt::LeftButton) grip_ = gripAt(event->pos());
}

void Bands::mouseMoveEvent(QMouseEvent* event) {
  if (grip_ == Grip::None) {
    const Grip over = gripAt(event->pos());
    return setCursor(over == Grip::Across ? Qt::SplitVCursor : over == Grip::Down ? Qt::SplitHCursor : Qt::ArrowCursor);
  }
  if (grip_ == Grip::Across) acrossWanted_ = std::clamp(height() - event->pos().y(), least, height() / 2);
  if (grip_ == Grip::Down) downWanted_ = std::clamp(width() - event->pos().x(), least, width() / 2);
  arrange();
}

void Bands::mouseReleaseEvent(QMouseEvent*) {
  if (grip_ == Grip::None) return;
  grip_ = Grip::None;
  QSettings().setValue("bands/across", acrossWanted_);
  QSettings().setValue("bands/down", downWanted_);
}

void Bands::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme::panel);
}

}  // namespace molten

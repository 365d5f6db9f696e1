#include "app/dials/brightness_gauge.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/theme/spoken.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr int curvesHeight = 54, wordsHeight = 16;

/// `0 %`, `under 0.1 %`, `0.4 %`, `12 %`.
QString partText(double part) {
  const double percent = part * 100;
  if (percent == 0) return BrightnessGauge::tr("0 %");
  if (percent < 0.1) return BrightnessGauge::tr("under 0.1 %");
  return BrightnessGauge::tr("%1 %").arg(percent, 0, 'f', percent < 10 ? 1 : 0);
}

/// Few pixels are to be seen beside many.
double heightOf(float share) {
  return std::min(1.0, std::sqrt(static_cast<double>(share) * Brightness::steps / 6));
}

}  // namespace

BrightnessGauge::BrightnessGauge(QWidget* parent) : QWidget(parent) {
  theme::setSpoken(*this, QAccessible::Chart, tr("Brightness"));
  setFixedHeight(curvesHeight + wordsHeight);
  setMinimumWidth(120);
  setToolTip(tr("How many pixels lie at each brightness, black at the left, white at the right: a line before the stage, "
                "filled after it. Burnt out is where a colour is at white or beyond."));
  setBrightness({}, {});
}

void BrightnessGauge::setBrightness(const std::optional<Brightness>& before, const std::optional<Brightness>& after) {
  before_ = before, after_ = after, old_ = false;
  const auto turns = [](double from, double to) {
    return partText(from) == partText(to) ? partText(to) : tr("%1 → %2").arg(partText(from), partText(to));
  };
  say(before_ && after_ ? tr("burnt out %1 · black %2").arg(turns(before_->burntOut, after_->burntOut),
                                                            turns(before_->black, after_->black))
                        : tr("measured while the picture stands still"));
}

void BrightnessGauge::say(const QString& words) {
  words_ = words;
  setAccessibleDescription(words);
  update();
}

void BrightnessGauge::setOld() {
  if (old_ || !before_) return;
  old_ = true;
  say(tr("measured while the picture stands still"));
}

QRectF BrightnessGauge::area() const {
  return {0.5, 0.5, width() - 1.0, curvesHeight - 1.0};
}

QPolygonF BrightnessGauge::curve(const Brightness& brightness) const {
  const QRectF box = area();
  QPolygonF curve;
  curve << box.bottomLeft();
  for (std::size_t i = 0; i < brightness.shares.size(); ++i) {
    const double x = box.left() + (static_cast<double>(i) + 0.5) / Brightness::steps * box.width();
    curve << QPointF(x, box.bottom() - heightOf(brightness.shares[i]) * (box.height() - 4));
  }
  curve << box.bottomRight();
  return curve;
}

/// How much is burnt out: a column at the white end, hatched, as high as its part of all pixels; dim as it was before.
void BrightnessGauge::paintEnds(QPainter& painter) const {
  const QRectF box = area();
  const auto column = [&](double part) {
    const double height = std::min(1.0, std::sqrt(part)) * (box.height() - 2);
    return QRectF(box.right() - 7, box.bottom() - height, 6.5, height);
  };
  if (before_->burntOut > 0) {
    painter.setPen(QPen(theme::dim, 1));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(column(before_->burntOut));
  }
  if (after_->burntOut > 0) painter.fillRect(column(after_->burntOut), QBrush(theme::now, Qt::Dense3Pattern));
}

void BrightnessGauge::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  const QRectF box = area();
  painter.fillRect(box, theme::ink);
  painter.setPen(theme::line);
  painter.drawRect(box);
  for (const double part : {0.25, 0.5, 0.75})
    painter.drawLine(QPointF(box.left() + part * box.width(), box.top()), QPointF(box.left() + part * box.width(), box.bottom()));
  painter.setFont(theme::words(11));
  painter.setPen(theme::dim);
  const QRectF below(0, curvesHeight, width(), wordsHeight);
  painter.drawText(below, Qt::AlignLeft | Qt::AlignVCenter, words_);
  if (!before_ || !after_) return;
  painter.setOpacity(old_ ? 0.35 : 1);
  paintCurves(painter);
}

void BrightnessGauge::paintCurves(QPainter& painter) const {
  painter.setRenderHint(QPainter::Antialiasing);
  QColor fill = theme::text;
  fill.setAlpha(70);
  painter.setPen(QPen(theme::text, 1));
  painter.setBrush(fill);
  painter.drawPolygon(curve(*after_));
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(theme::dim, 1.2, Qt::DashLine));
  painter.drawPolyline(curve(*before_));
  paintEnds(painter);
}

}  // namespace molten

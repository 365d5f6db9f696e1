#include "app/live/ring_bar.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/theme/spoken.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr double barTop = 22, barHigh = 12;

QString megabytes(std::size_t bytes) {
  const double mega = static_cast<double>(bytes) / 1e6;
  return mega < 1000 ? QString("%1 MB").arg(mega, 0, 'f', 0) : QString("%1 GB").arg(mega / 1000, 0, 'f', 1);
}

/// A whole second, or so many that the marks stand apart.
double secondsApart(double all, double width) {
  for (const double step : {1.0, 2.0, 5.0, 10.0, 30.0, 60.0, 300.0, 600.0})
    if (width / all * step >= 36) return step;
  return 1800;
}

}  // namespace

RingBar::RingBar(QWidget* parent) : QWidget(parent) {
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  theme::setSpoken(*this, QAccessible::Indicator, tr("Ring"));
}

void RingBar::tell(const LiveState& state) {
  state_ = state;
  setAccessibleDescription(words());
  update();
}

QString RingBar::words() const {
  const RingState& ring = state_.ring;
  QString words = tr("The chain needs %1 s, the ring holds %2 s").arg(state_.reach.back, 0, 'f', 1).arg(ring.held, 0, 'f', 1);
  words += tr(" · %1 a second, %2 of %3").arg(megabytes(ring.bytesPerSecond), megabytes(ring.bytes), megabytes(ring.mayHold));
  if (ring.frames > 0 && state_.reach.back > ring.fits + 0.05)
    words += tr(" · %1 s fit: older moments show the oldest. Keep fewer frames, or smaller ones.").arg(ring.fits, 0, 'f', 1);
  else if (ring.frames > 0 && state_.reach.back > ring.wanted + 0.05)
    words += tr(" · older moments show the oldest. Let it hold more.");
  else if (ring.frames > 0 && ring.forMemory())
    words += tr(" · of the %1 s that it is to hold, %2 s fit").arg(ring.wanted, 0, 'f', 0).arg(ring.fits, 0, 'f', 1);
  return words;
}

void RingBar::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const double all = std::max({state_.ring.wanted, state_.reach.back, 1.0}), wide = width() - 1.0;
  const auto x = [&](double secondsAgo) { return 0.5 + wide * (1 - secondsAgo / all); };
  const bool tooLittle = state_.reach.back > std::min(state_.ring.fits, state_.ring.wanted) + 0.05 && state_.ring.frames > 0;
  painter.setFont(theme::words(12));
  painter.setPen(tooLittle ? theme::outside : theme::text);
  painter.drawText(QRectF(0, 0, width(), 18), Qt::AlignLeft | Qt::AlignVCenter, painter.fontMetrics().elidedText(words(), Qt::ElideRight, width()));
  const QRectF bar(0.5, barTop, wide, barHigh);
  painter.fillRect(bar, theme::ink);
  // From the past's colour to now's.
  QLinearGradient time(x(all), 0, x(0), 0);
  time.setColorAt(0, theme::past);
  time.setColorAt(1, theme::now);
  painter.fillRect(QRectF(x(std::min(all, state_.ring.held)), barTop, x(0) - x(std::min(all, state_.ring.held)), barHigh), time);
  if (tooLittle) theme::hatch(painter, QRectF(x(state_.reach.back), barTop, x(std::min(state_.ring.fits, state_.ring.wanted)) - x(state_.reach.back), barHigh));
  painter.setPen(theme::line);
  painter.setBrush(Qt::NoBrush);
  painter.drawRect(bar);
  if (state_.reach.back > 0) {
    painter.setPen(QPen(theme::text, 2));
    painter.drawLine(QPointF(x(state_.reach.back) + 1, barTop - 3), QPointF(x(state_.reach.back) + 1, barTop + barHigh + 3));
  }
  painter.setPen(theme::dim);
  painter.setFont(theme::words(10));
  const double step = secondsApart(all, wide);
  for (double ago = step; ago < all - step / 3; ago += step)
    painter.drawText(QRectF(x(ago) - 30, barTop + barHigh, 60, height() - barTop - barHigh), Qt::AlignHCenter | Qt::AlignTop, QString("−%1 s").arg(ago));
  painter.drawText(QRectF(x(0) - 60, barTop + barHigh, 60, height() - barTop - barHigh), Qt::AlignRight | Qt::AlignTop, tr("now"));
}

}  // namespace molten

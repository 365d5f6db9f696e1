// Sound lanes: how they are drawn.
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/sound/sound_lanes.h"
#include "app/theme/theme.h"
#include "core/sound/sound_mix.h"

namespace molten {
namespace {

QString decibels(double gain) {
  if (std::abs(gain) < 0.05) return QObject::tr("0 dB");
  return (gain < 0 ? QStringLiteral("−") : QStringLiteral("+")) + QString::number(std::abs(gain), 'f', std::round(gain) == gain ? 0 : 1) + QObject::tr(" dB");
}

}  // namespace

void SoundLanes::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme::ink);
  outlines_.resize(sight_.count());
  for (std::size_t lane = 0; lane < sight_.count(); ++lane) drawLane(painter, lane);
  const double x = std::floor(sight_.view.xOf(sight_.state.playhead)) + 0.5;
  painter.setRenderHint(QPainter::Antialiasing, false);
  painter.setPen(QPen(theme::now, 1));
  if (x >= sight_.view.area.left() - 1) painter.drawLine(QPointF(x, 0), QPointF(x, height()));
  if (hasFocus()) theme::frameFocus(painter, rect());
}

void SoundLanes::drawLane(QPainter& painter, std::size_t number) {
  const SoundLane& lane = sight_.state.lanes[number];
  const QRectF box = sight_.laneRect(number);
  const bool low = box.height() < 34;
  painter.setRenderHint(QPainter::Antialiasing, false);
  painter.setPen(theme::line);
  painter.drawLine(box.topLeft(), box.topRight());
  painter.setFont(theme::words(10));
  painter.setPen(lane.feed ? theme::dim : theme::outside);
  const QRectF column(8, low ? box.top() : box.top() + 3, sight_.view.area.left() - 14, low ? box.height() : 15);
  painter.drawText(column, Qt::AlignLeft | Qt::AlignVCenter,
                   lane.feed ? lane.gainMoves ? tr("moves") : decibels(lane.gain) : tr("not there"));
  painter.setFont(theme::words(10, true));
  for (const auto& [grip, letter, on] :
       {std::tuple{SoundGrip::Mute, tr("M"), lane.muted}, std::tuple{SoundGrip::Alone, tr("A"), lane.alone}}) {
    const QRectF button = sight_.buttonRect(number, grip);
    painter.setBrush(on ? theme::now : theme::raised);
    painter.setPen(Qt::NoPen);
    painter.drawRoundedRect(button, 3, 3);
    painter.setPen(on ? theme::ink : theme::dim);
    painter.drawText(button, Qt::AlignCenter, letter);
  }
  painter.save();
  painter.setClipRect(QRectF(sight_.view.area.left(), box.top(), width(), box.height()));
  const QRectF body = sight_.bodyRect(number);
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme::panel);
  if (lane.which) painter.drawRect(body);
  drawOutline(painter, number);
  // Onsets stand on the lower edge.
  painter.setPen(QPen(theme::text, 1));
  for (const double onset : lane.onsets) {
    const double x = std::floor(sight_.view.xOf(onset)) + 0.5;
    painter.drawLine(QPointF(x, body.bottom() - 6), QPointF(x, body.bottom()));
  }
  painter.setRenderHint(QPainter::Antialiasing);
  const bool chosen = sight_.isSelected(number);
  if (lane.which) {
    const QPointF in = sight_.fadePoint(number, false), out = sight_.fadePoint(number, true);
    painter.setPen(QPen(theme::dim, 1));
    painter.drawLine(body.bottomLeft(), in);
    painter.drawLine(out, body.bottomRight());
    painter.setBrush(theme::ink);
    painter.setPen(QPen(chosen ? theme::now : theme::dim, 1.2));
    for (const QPointF& corner : {in, out}) painter.drawRect(QRectF(corner.x() - 3, corner.y() - 1, 6, 6));
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(chosen ? theme::now : theme::line, 1));
    painter.drawRect(body);
  }
  if (chosen && !lane.gainMoves) {
    painter.setPen(QPen(theme::now, 1, Qt::DotLine));
    painter.drawLine(QPointF(std::max(body.left(), sight_.view.area.left()), sight_.gainY(number)),
                     QPointF(body.right(), sight_.gainY(number)));
  }
  // Its name stands in the lane: beside it there is room for a few letters.
  painter.setFont(theme::words(11));
  // Values that follow one name it by its number.
  const QString title = lane.which ? tr("%1 · %2").arg(*lane.which + 1).arg(lane.title) : lane.title;
  const QRectF name(sight_.view.area.left() + 4, box.top() + 2, painter.fontMetrics().horizontalAdvance(title) + 8, 15);
  painter.setPen(Qt::NoPen);
  QColor behind = theme::ink;
  behind.setAlpha(190);
  painter.setBrush(behind);
  painter.drawRect(name);
  painter.setPen(theme::text);
  painter.drawText(name, Qt::AlignCenter, title);
  painter.restore();
}

/// A line from the least to the greatest sample of each pixel along.
void SoundLanes::drawOutline(QPainter& painter, std::size_t number) {
  const SoundLane& lane = sight_.state.lanes[number];
  if (!lane.feed) return;
  const QRectF body = sight_.bodyRect(number);
  const int left = static_cast<int>(std::max(std::floor(body.left()), sight_.view.area.left()));
  const int right = static_cast<int>(std::min(std::ceil(body.right()), static_cast<double>(width())));
  if (left >= right) return;
  const double apart = (sight_.view.right - sight_.view.left) / sight_.view.area.width() * soundRate;
  const double first = sight_.view.timeAt(left) * soundRate;
  Outlined& known = outlines_[number];
  const std::int64_t samples = lane.feed->peaks()->samples();
  const Outlined wanted{sight_.view, lane.curve, lane.feed.get(), lane.laid.at, lane.laid.skipStart, samples, {}};
  const auto same = [&] {
    return known.view == wanted.view && known.curve == wanted.curve && known.feed == wanted.feed && known.at == wanted.at &&
           known.skip == wanted.skip && known.samples == samples && known.peaks.size() == static_cast<std::size_t>(right - left);
  };
  if (!same()) {
    known = wanted;
    known.peaks.resize(static_cast<std::size_t>(right - left));
    if (lane.curve)
      lane.feed->peaks()->lookAlong(*lane.curve, first, apart, known.peaks);
    else
      lane.feed->peaks()->look(first - (lane.laid.at - lane.laid.skipStart) * soundRate, apart, known.peaks);
  }
  const double middle = body.center().y(), half = body.height() / 2;
  const auto loud = static_cast<float>(factorOf(lane.gain));
  QVector<QLineF> lines;
  for (int x = left; x < right; ++x) {
    Peak peak = known.peaks[static_cast<std::size_t>(x - left)];
    if (peak.empty()) continue;
    const double seconds = sight_.view.timeAt(x + 0.5);
    double gain = static_cast<double>(lane.gainMoves ? 1 : loud);
    if (lane.laid.fadeIn > 0) gain *= std::clamp((seconds - lane.begin) / lane.laid.fadeIn, 0.0, 1.0);
    if (lane.laid.fadeOut > 0) gain *= std::clamp((lane.end - seconds) / lane.laid.fadeOut, 0.0, 1.0);
    const double top = std::min(1.0, peak.most * gain), bottom = std::max(-1.0, peak.least * gain);
    lines.append(QLineF(x + 0.5, middle - top * half, x + 0.5, middle - bottom * half + 0.6));
  }
  QColor colour = theme::dim;
  if (!lane.heard) colour.setAlpha(70);
  painter.setRenderHint(QPainter::Antialiasing, false);
  painter.setPen(QPen(colour, 1));
  painter.drawLines(lines);
}

}  // namespace molten

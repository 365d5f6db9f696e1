// The Time Chart: how it is drawn.
#include <QPainter>
#include <cmath>

#include "app/chart/chart_measures.h"
#include "app/chart/chart_plot.h"
#include "app/theme/theme.h"
#include "core/time/pace_text.h"

namespace molten {

using namespace chart;

namespace {

QString secondsLabel(double seconds, double step) {
  const int decimals = step >= 1 ? 0 : step >= 0.1 ? 1 : step >= 0.01 ? 2 : 3;
  return QString::number(seconds, 'f', decimals).replace('-', QChar(0x2212)) + " s";
}

/// Words over the drawing, with a ground that keeps them legible.
void drawWords(QPainter& painter, const QRectF& box, const QString& words, const QColor& colour, int flags) {
  painter.setPen(Qt::NoPen);
  QColor ground = theme::ink;
  ground.setAlpha(190);
  painter.setBrush(ground);
  const QRectF used = painter.boundingRect(box, flags, words).adjusted(-3, 0, 3, 0);
  painter.drawRoundedRect(used, 2, 2);
  painter.setPen(colour);
  painter.drawText(box, flags, words);
}

}  // namespace

void ChartPlot::paintEvent(QPaintEvent*) {
  const double ratio = devicePixelRatioF();
  if (drawn_.size() != size() * ratio) {
    drawn_ = QPixmap(size() * ratio);
    drawn_.setDevicePixelRatio(ratio);
    stale_ = true;
  }
  if (stale_) {
    QPainter painter(&drawn_);
    drawAll(painter);
    stale_ = false;
  }
  QPainter painter(this);
  painter.drawPixmap(0, 0, drawn_);
  if (state_.footage && state_.reads) drawPlayhead(painter);
  if (!saying_.isEmpty()) {
    painter.setFont(theme::words(12));
    QRectF box(sayingAt_.x() + 14, sayingAt_.y() - 30, 360, 18);
    const double right = painter.boundingRect(box, Qt::AlignLeft, saying_).right();
    if (right > width() - 8) box.moveLeft(box.left() - (right - width() + 8));
    box.moveTop(std::clamp(box.top(), 2.0, height() - 20.0));
    drawWords(painter, box, saying_, theme::now, Qt::AlignLeft | Qt::AlignVCenter);
  }
  if (hasFocus()) {
    painter.setPen(theme::line.lighter(150));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(QRectF(0.5, 0.5, width() - 1, height() - 1));
  }
}

void ChartPlot::drawAll(QPainter& painter) {
  painter.fillRect(rect(), theme::ink);
  remedyRect_ = {};
  if (!state_.footage || !state_.reads) return;
  drawPictures(painter);
  drawGrid(painter);
  painter.setClipRect(view_.area.adjusted(-markRadius - 1, -topMargin, 12, 1));
  painter.setRenderHint(QPainter::Antialiasing);
  if (up_ == ChartUp::Source)
    drawReads(painter);
  else
    drawSpeed(painter);
  if (state_.pace) drawPace(painter);
}

void ChartPlot::drawGrid(QPainter& painter) const {
  const QRectF& area = view_.area;
  painter.setFont(theme::numbers(10));
  const double across = timeStep((view_.right - view_.left) / area.width(), 64);
  for (double t = std::ceil(view_.left / across) * across; t <= view_.right + 1e-9; t += across) {
    const double x = std::floor(view_.xOf(t)) + 0.5;
    painter.setPen(theme::raised);
    painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
    painter.setPen(theme::dim);
    const double at = std::clamp(x, area.left() + 14, area.right() - 14);
    painter.drawText(QRectF(at - 40, area.bottom() + 3, 80, 14), Qt::AlignHCenter | Qt::AlignTop,
                     secondsLabel(t, across));
  }
  const double each = (view_.top - view_.bottom) / area.height();
  const double up = up_ == ChartUp::Source ? timeStep(each, 34) : gridStep(each, 28);
  const double most = up_ == ChartUp::Source ? sourceSeconds() : view_.top,
               least = up_ == ChartUp::Source ? 0 : view_.bottom;
  for (double s = std::ceil(std::max(view_.bottom, least) / up) * up; s <= std::min(view_.top, most) + 1e-9; s += up) {
    const double y = std::floor(view_.yOf(s)) + 0.5;
    painter.setPen(up_ == ChartUp::Speed && std::abs(s) < 1e-9 ? theme::dim.darker(150) : theme::raised);
    painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
    painter.setPen(theme::dim);
    painter.drawText(QRectF(0, y - 8, area.left() - 6, 16), Qt::AlignRight | Qt::AlignVCenter,
                     up_ == ChartUp::Source
                         ? secondsLabel(s, up)
                         : QString::number(s, 'f', up < 1 ? 1 : 0).replace('-', QChar(0x2212)) + " %");
  }
  painter.setPen(theme::line);
  painter.drawLine(QPointF(area.left() - 0.5, area.top()), QPointF(area.left() - 0.5, area.bottom()));
  painter.drawLine(QPointF(area.left(), area.bottom() + 0.5), QPointF(area.right(), area.bottom() + 0.5));
  // Where the output ends, and what of it is left out.
  QColor shade = theme::panel;
  shade.setAlpha(150);
  const double rate = state_.piece.rate.toDouble();
  const auto leaveOut = [&](double from, double to) {
    const double a = std::max(from, area.left()), b = std::min(to, area.right());
    if (b > a) painter.fillRect(QRectF(QPointF(a, area.top()), QPointF(b, area.bottom())), shade);
  };
  leaveOut(area.left(), view_.xOf(static_cast<double>(state_.span.first) / rate));
  leaveOut(view_.xOf(static_cast<double>(state_.span.last + 1) / rate), area.right());
}

/// By the footage's own clock: at a varying rate a position is no number of a frame.
std::optional<std::int32_t> ChartPlot::frameAt(double position) const {
  if (position < -0.5 || position > static_cast<double>(state_.reads->source().length) - 0.5) return std::nullopt;
  return state_.reads->clock().frameAt(position);
}

void ChartPlot::drawPictures(QPainter& painter) {
  if (up_ != ChartUp::Source || !state_.ofFootage) return;
  const double rate = state_.reads->source().rate.toDouble();
  for (double y = view_.area.bottom() - pictureHeight / 2 - 2; y > view_.area.top() + pictureHeight / 2 - 6;
       y -= pictureHeight + 4) {
    const auto frame = frameAt(view_.sourceAt(y) * rate);
    if (!frame) continue;
    const QRectF box(4, std::floor(y - pictureHeight / 2), pictureWidth, pictureHeight);
    painter.fillRect(box, theme::panel);
    if (pictures_)
      if (const auto known = pictures_->find(*frame); known != pictures_->end()) {
        const QImage& image = known->second;
        const double k = std::min(box.width() / image.width(), box.height() / image.height());
        const QSizeF shown(image.width() * k, image.height() * k);
        painter.setRenderHint(QPainter::SmoothPixmapTransform);
        painter.drawImage(QRectF(box.center() - QPointF(shown.width(), shown.height()) / 2, shown), image);
      }
    painter.setPen(theme::line);
    painter.drawLine(QPointF(box.right() + 1, std::floor(y) + 0.5), QPointF(box.right() + 4, std::floor(y) + 0.5));
  }
}

void ChartPlot::wantPictures() {
  if (!state_.footage || !state_.reads || up_ != ChartUp::Source || !state_.ofFootage) return;
  const double rate = state_.reads->source().rate.toDouble();
  std::vector<std::int32_t> frames;
  for (double y = view_.area.bottom() - pictureHeight / 2 - 2; y > view_.area.top() + pictureHeight / 2 - 6;
       y -= pictureHeight + 4) {
    if (const auto frame = frameAt(view_.sourceAt(y) * rate)) frames.push_back(*frame);
  }
  emit picturesWanted(frames);
}

/// The line of what an undisplaced pixel reads, about it the band of all that is read, beside it what is mixed in.
void ChartPlot::drawReads(QPainter& painter) {
  const QRectF& area = view_.area;
  const double rate = state_.piece.rate.toDouble(), source = state_.reads->source().rate.toDouble();
  const double end = state_.piece.seconds().toDouble();
  const bool steps = area.width() / (view_.right - view_.left) / rate >= stepWidth;
  QColor past = theme::past, ahead = theme::ahead;
  past.setAlpha(95), ahead.setAlpha(95);
  QPolygonF line;
  QVector<QPolygonF> lines;
  QVector<QPointF> taps;
  QVector<QRectF> runs, trimmedOff;
  std::optional<double> last;
  const double jump = (view_.top - view_.bottom) * 0.3;
  const int from = static_cast<int>(std::max(area.left(), std::floor(view_.xOf(0)))),
            to = static_cast<int>(std::min(area.right(), std::ceil(view_.xOf(end))));
  painter.setRenderHint(QPainter::Antialiasing, false);
  double lastPicture = -1;
  MomentReads reads;
  constexpr int column = 2;
  for (int x = from; x <= to; x += column) {
    double t = std::clamp(view_.timeAt(x + column / 2.0), 0.0, std::max(0.0, end - 1e-9));
    if (steps) t = std::floor(t * rate + 1e-9) / rate;
    if (!steps || t != lastPicture) reads = readsAt(t);
    lastPicture = t;
    const double now = reads.now / source;
    if (last && std::abs(now - *last) > jump) {
      lines.push_back(line);
      line.clear();
    }
    if (steps && last && *last != now && !line.isEmpty()) line << QPointF(x, view_.yOf(*last));
    last = now;
    line << QPointF(x + (steps ? 0 : column / 2.0), view_.yOf(now));
    const double y = view_.yOf(now), low = view_.yOf(reads.least / source), high = view_.yOf(reads.most / source);
    if (low > y + 0.5) painter.fillRect(QRectF(x, y, column, std::min(low, area.bottom() + 20) - y), past);
    if (high < y - 0.5)
      painter.fillRect(QRectF(x, std::max(high, area.top() - 20), column, y - std::max(high, area.top() - 20)), ahead);
    if (x % 4 == 0)
      for (const double tap : reads.taps) {
        // No closer than they can be told apart.
        const double tapY = view_.yOf(tap / source);
        if (taps.isEmpty() || taps.back().x() != x || std::abs(taps.back().y() - tapY) >= 4) taps << QPointF(x, tapY);
      }
    if (reads.before || reads.after) {
      // Before lies below the clip, after above it.
      const double edge = view_.yOf(reads.before ? 0 : sourceSeconds()),
                   far = reads.before ? edge + hatchHeight : edge - hatchHeight;
      const QRectF part(QPointF(x, std::min(edge, far)), QPointF(x + column, std::max(edge, far)));
      // What lies outside of in and out is neither played nor rendered.
      const auto picture = static_cast<std::int64_t>(std::floor(t * rate + 1e-9));
      QVector<QRectF>& some = picture < state_.span.first || picture > state_.span.last ? trimmedOff : runs;
      if (!some.isEmpty() && std::abs(some.back().right() - x) < 0.01 && some.back().top() == part.top())
        some.back().setRight(x + column);
      else
        some << part;
    }
  }
  lines.push_back(line);
  for (const QRectF& run : trimmedOff) theme::hatch(painter, run);
  drawOutside(painter, runs);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setBrush(Qt::NoBrush);
  // Where a Pace draws its own line, this one is shown only if it differs.
  if (!state_.pace || state_.heldToo || steps) {
    painter.setPen(
        QPen(state_.pace ? theme::dim : theme::now, state_.pace ? 1 : 1.5, Qt::SolidLine, Qt::FlatCap, Qt::BevelJoin));
    for (const QPolygonF& some : lines) painter.drawPolyline(some);
  }
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme::dim);
  for (const QPointF& tap : taps) painter.drawRect(QRectF(tap.x(), tap.y() - 1, 2, 2));
}

void ChartPlot::drawOutside(QPainter& painter, const QVector<QRectF>& runs) {
  if (runs.isEmpty()) return;
  const QRectF* widest = &runs[0];
  for (const QRectF& run : runs) {
    theme::hatch(painter, run);
    if (run.width() > widest->width()) widest = &run;
  }
  // Said once, at the widest; with what can be done about it.
  painter.setFont(theme::words(11));
  const bool below = widest->top() > view_.yOf(sourceSeconds() / 2);
  const QString words = below ? tr("reads before the clip") : tr("reads past the end of the clip");
  const QString remedy = tr("trim it off");
  const QFontMetricsF metrics(painter.font());
  const double length = metrics.horizontalAdvance(words + " · ");
  const double x = std::clamp(widest->left() + 2, view_.area.left() + 2,
                              std::max(view_.area.left() + 2, view_.area.right() - length - 70));
  const double y = below ? widest->bottom() + 1 : widest->top() - 16;
  drawWords(painter, QRectF(x, y, length + 10, 15), words + " · ", theme::outside, Qt::AlignLeft | Qt::AlignVCenter);
  remedyRect_ = QRectF(x + length, y, metrics.horizontalAdvance(remedy), 15);
  QFont underlined = painter.font();
  underlined.setUnderline(true);
  painter.setFont(underlined);
  drawWords(painter, remedyRect_.adjusted(0, 0, 4, 0), remedy, theme::outside, Qt::AlignLeft | Qt::AlignVCenter);
}

/// Speed: of the Pace if there is one, otherwise how fast the line of moments rises.
void ChartPlot::drawSpeed(QPainter& painter) const {
  const QRectF& area = view_.area;
  const double end = state_.piece.seconds().toDouble(), source = state_.reads->source().rate.toDouble();
  std::optional<PaceCurve> curve;
  if (state_.pace) curve = state_.pace->setting.curve();
  QPolygonF line;
  for (double x = area.left(); x <= area.right(); x += 1) {
    const double t = view_.timeAt(x);
    if (t < 0 || t > end) continue;
    const double step = 1 / state_.piece.rate.toDouble();
    const double speed = curve ? curve->speedAt(t) : (readsAt(t + step).now - readsAt(t).now) / source / step;
    line << QPointF(x, view_.yOf(speed * 100));
  }
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(theme::now, 1.5, Qt::SolidLine, Qt::FlatCap, Qt::BevelJoin));
  painter.drawPolyline(line);
  if (!state_.pace) return;
  // Below the slowest speed with real frames, frames repeat.
  const double clean = state_.pace->clean.toDouble() * 100;
  painter.setPen(QPen(theme::dim.darker(140), 1, Qt::DotLine));
  painter.setFont(theme::words(10));
  for (const double at : {clean, -clean}) {
    if (at < view_.bottom || at > view_.top) continue;
    painter.drawLine(QPointF(area.left(), view_.yOf(at)), QPointF(area.right(), view_.yOf(at)));
  }
  if (clean > view_.top) return;
  painter.setClipping(false);
  painter.setPen(theme::dim);
  painter.drawText(QRectF(4, view_.yOf(clean) - 8, 70, 16), Qt::AlignLeft | Qt::AlignVCenter,
                   tr("real %1").arg(QString::fromStdString(speedText(state_.pace->clean))));
  painter.setClipRect(area.adjusted(-markRadius - 1, -topMargin, 12, 1));
}

void ChartPlot::drawPace(QPainter& painter) const {
  const PaceSetting& setting = state_.pace->setting;
  const PaceCurve curve = setting.curve();
  if (up_ == ChartUp::Source) {
    // Span by span, each as it plays.
    for (std::size_t i = 0; i < setting.spans.size(); ++i) {
      const double begin = std::max(view_.left, curve.beginOf(i).toDouble()),
                   end = std::min(view_.right, curve.beginOf(i + 1).toDouble());
      if (end <= begin) continue;
      QPolygonF line;
      const int parts = std::clamp(static_cast<int>((view_.xOf(end) - view_.xOf(begin)) / 3), 1, 400);
      for (int k = 0; k <= parts; ++k) {
        const double t = begin + (end - begin) * k / parts;
        line << view_.at(t, curve.atSeconds(t));
      }
      const bool chosen = span_ == i;
      QPen pen(theme::now, chosen ? 3 : 2, Qt::SolidLine, Qt::FlatCap, Qt::RoundJoin);
      if (state_.pace->looks[i] == SpanLook::Repeats) pen.setDashPattern({5, 2});
      if (state_.pace->looks[i] == SpanLook::Skips) pen.setDashPattern({2, 2});
      painter.setPen(pen);
      painter.drawPolyline(line);
    }
  } else if (span_) {
    painter.setPen(QPen(theme::now, 3));
    const double y = spanPoint(*span_).y();
    painter.drawLine(QPointF(view_.xOf(curve.beginOf(*span_).toDouble()), y),
                     QPointF(view_.xOf(curve.beginOf(*span_ + 1).toDouble()), y));
  }
  drawSpanLabels(painter);
  const std::size_t none = setting.spans.size();
  const std::size_t shownMark = mark_ ? *mark_ : hover_.grip == Grip::Mark ? hover_.index : none;
  for (std::size_t mark = 0; mark + 1 < setting.spans.size(); ++mark) {
    const QPointF point = markPoint(mark);
    if (point.x() < view_.area.left() - 8 || point.x() > view_.area.right() + 8) continue;
    if (shownMark == mark) {
      painter.setPen(QPen(theme::dim, 1));
      painter.setBrush(theme::ink);
      for (const bool end : {false, true}) {
        const QPointF handle = glidePoint(mark, end);
        painter.drawRect(QRectF(handle.x() - 3, handle.y() - 3, 6, 6));
      }
      if (curve.glideAfter(mark).length > Rational(0)) {
        const QPointF bend = bendPoint(mark);
        painter.drawPolygon(QPolygonF(
            {{bend.x(), bend.y() - 4}, {bend.x() + 4, bend.y()}, {bend.x(), bend.y() + 4}, {bend.x() - 4, bend.y()}}));
      }
    }
    painter.setPen(QPen(theme::now, 1.5));
    painter.setBrush(mark_ == mark ? theme::now : theme::ink);
    painter.drawEllipse(point, markRadius, markRadius);
  }
}

void ChartPlot::drawSpanLabels(QPainter& painter) const {
  const PaceSetting& setting = state_.pace->setting;
  const PaceCurve curve = setting.curve();
  double free = -1e9;
  for (std::size_t i = 0; i < setting.spans.size(); ++i) {
    const double room = view_.xOf(curve.beginOf(i + 1).toDouble()) - view_.xOf(curve.beginOf(i).toDouble());
    const QString speed = QString::fromStdString(speedText(setting.spans[i].speed));
    const QString look = lookText(i);
    painter.setFont(theme::numbers(11));
    const double number = painter.fontMetrics().horizontalAdvance(speed);
    painter.setFont(theme::words(11));
    const double more = look.isEmpty() ? 0 : painter.fontMetrics().horizontalAdvance(" · " + look);
    const bool chosen = span_ == i || (hover_.grip == Grip::Span && hover_.index == i);
    const bool both = number + more + 8 < room || chosen;
    if (!chosen && number + 4 > room) continue;
    const QRectF box = labelRect(i);
    const double length = number + (both ? more : 0), x = box.center().x() - length / 2;
    if (x < free && !chosen) continue;
    free = x + length + 6;
    painter.setFont(theme::numbers(11));
    drawWords(painter, QRectF(x, box.top(), number + 1, 16), speed, chosen ? theme::now : theme::text,
              Qt::AlignLeft | Qt::AlignVCenter);
    if (!both || look.isEmpty()) continue;
    painter.setFont(theme::words(11));
    drawWords(painter, QRectF(x + number, box.top(), more + 1, 16), " · " + look, theme::dim,
              Qt::AlignLeft | Qt::AlignVCenter);
  }
}

void ChartPlot::drawPlayhead(QPainter& painter) const {
  const double x = std::floor(view_.xOf(static_cast<double>(state_.frame) / state_.piece.rate.toDouble())) + 0.5;
  if (x < view_.area.left() - 1 || x > view_.area.right() + 1) return;
  painter.setPen(QPen(theme::now, 1));
  painter.drawLine(QPointF(x, view_.area.top() - topMargin), QPointF(x, view_.area.bottom() + 4));
  if (up_ != ChartUp::Source) return;
  const QPointF point = playheadPoint();
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(theme::ink, 1));
  painter.setBrush(theme::now);
  if (point.y() > view_.area.top() - 4 && point.y() < view_.area.bottom() + 4)
    painter.drawRect(QRectF(point.x() - 3.5, point.y() - 3.5, 7, 7));
  if (!ring_) return;
  painter.setBrush(Qt::NoBrush);
  for (const auto& [colour, width] : {std::pair(QColor(0x13, 0x14, 0x16, 200), 4.0), {theme::now, 1.6}}) {
    painter.setPen(QPen(colour, width));
    painter.drawEllipse(QPointF(x, view_.yOf(*ring_)), 5, 5);
  }
}

}  // namespace molten

#include "app/chart/chart_drawing.h"

#include <QPainter>
#include <cmath>

#include "app/chart/chart_measures.h"
#include "app/theme/theme.h"
#include "core/time/pace_text.h"

namespace molten {

using namespace chart;

namespace {

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

/// True if glides leave less of a span than a picture.
bool isAllGlide(const PaceCurve& curve, std::size_t i, Rational rate) {
  Rational begin = curve.beginOf(i), end = curve.beginOf(i + 1);
  if (i > 0) begin = std::max(begin, curve.glideAfter(i - 1).begin + curve.glideAfter(i - 1).length);
  if (i + 1 < curve.spans().size() && curve.glideAfter(i).length > Rational(0))
    end = std::min(end, curve.glideAfter(i).begin);
  return end - begin < Rational(1) / rate;
}

}  // namespace

void ChartDrawing::draw(QPainter& painter, const QRectF& chart) {
  painter.fillRect(chart, theme::ink);
  remedy_ = {};
  if (!sight_.drawable()) return;
  drawPictures(painter);
  drawGrid(painter);
  painter.setClipRect(sight_.view.area.adjusted(-markRadius - 1, -topMargin, 12, 1));
  painter.setRenderHint(QPainter::Antialiasing);
  if (sight_.up == ChartUp::Source)
    drawReads(painter);
  else
    drawSpeed(painter);
  if (sight_.state.pace) drawPace(painter);
}

void ChartDrawing::drawGrid(QPainter& painter) const {
  const QRectF& area = sight_.view.area;
  painter.setFont(theme::words(10));
  const double across = timeStep((sight_.view.right - sight_.view.left) / area.width(), 64);
  for (double t = std::ceil(sight_.view.left / across) * across; t <= sight_.view.right + 1e-9; t += across) {
    const double x = std::floor(sight_.view.xOf(t)) + 0.5;
    painter.setPen(theme::raised);
    painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
  }
  const double each = (sight_.view.top - sight_.view.bottom) / area.height();
  const double up = sight_.up == ChartUp::Source ? timeStep(each, 34) : gridStep(each, 28);
  const double most = sight_.up == ChartUp::Source ? sight_.sourceSeconds() : sight_.view.top,
               least = sight_.up == ChartUp::Source ? 0 : sight_.view.bottom;
  for (double s = std::ceil(std::max(sight_.view.bottom, least) / up) * up; s <= std::min(sight_.view.top, most) + 1e-9;
       s += up) {
    const double y = std::floor(sight_.view.yOf(s)) + 0.5;
    painter.setPen(sight_.up == ChartUp::Speed && std::abs(s) < 1e-9 ? theme::dim.darker(150) : theme::raised);
    painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
    painter.setPen(theme::dim);
    painter.drawText(QRectF(0, y - 8, area.left() - 6, 16), Qt::AlignRight | Qt::AlignVCenter,
                     sight_.up == ChartUp::Source
                         ? secondsLabel(s, up)
                         : QString::number(s, 'f', up < 1 ? 1 : 0).replace('-', QChar(0x2212)) + " %");
  }
  painter.setPen(theme::line);
  painter.drawLine(QPointF(area.left() - 0.5, area.top()), QPointF(area.left() - 0.5, area.bottom()));
  painter.drawLine(QPointF(area.left(), area.bottom() + 0.5), QPointF(area.right(), area.bottom() + 0.5));
  // Where the output ends, and what of it is left out.
  QColor shade = theme::panel;
  shade.setAlpha(150);
  const double rate = sight_.state.piece.rate.toDouble();
  const auto leaveOut = [&](double from, double to) {
    const double a = std::max(from, area.left()), b = std::min(to, area.right());
    if (b > a) painter.fillRect(QRectF(QPointF(a, area.top()), QPointF(b, area.bottom())), shade);
  };
  leaveOut(area.left(), sight_.view.xOf(static_cast<double>(sight_.state.span.first) / rate));
  leaveOut(sight_.view.xOf(static_cast<double>(sight_.state.span.last + 1) / rate), area.right());
}

void ChartDrawing::drawPictures(QPainter& painter) const {
  for (const auto& [y, frame] : sight_.pictureRows()) {
    const QRectF box(4, std::floor(y - pictureHeight / 2), pictureWidth, pictureHeight);
    if (pictures_)
      if (const auto known = pictures_->find(frame); known != pictures_->end()) {
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

/// The line of what an undisplaced pixel reads, about it the band of all that is read, beside it what is mixed in.
void ChartDrawing::drawReads(QPainter& painter) {
  const QRectF& area = sight_.view.area;
  const double rate = sight_.state.piece.rate.toDouble(), source = sight_.state.reads->source().rate.toDouble();
  const double end = sight_.state.piece.seconds().toDouble();
  const bool steps = area.width() / (sight_.view.right - sight_.view.left) / rate >= stepWidth;
  QColor past = theme::past, ahead = theme::ahead;
  past.setAlpha(95), ahead.setAlpha(95);
  QPolygonF line;
  QVector<QPolygonF> lines;
  QVector<QPointF> taps;
  QVector<QRectF> runs, trimmedOff;
  std::optional<double> last;
  const double jump = (sight_.view.top - sight_.view.bottom) * 0.3;
  const int from = static_cast<int>(std::max(area.left(), std::floor(sight_.view.xOf(0)))),
            to = static_cast<int>(std::min(area.right(), std::ceil(sight_.view.xOf(end))));
  painter.setRenderHint(QPainter::Antialiasing, false);
  double lastPicture = -1;
  MomentReads reads;
  constexpr int column = 2;
  for (int x = from; x <= to; x += column) {
    double t = std::clamp(sight_.view.timeAt(x + column / 2.0), 0.0, std::max(0.0, end - 1e-9));
    if (steps) t = std::floor(t * rate + 1e-9) / rate;
    if (!steps || t != lastPicture) reads = sight_.readsAt(t);
    lastPicture = t;
    const double now = reads.now / source;
    if (last && std::abs(now - *last) > jump) {
      lines.push_back(line);
      line.clear();
    }
    if (steps && last && *last != now && !line.isEmpty()) line << QPointF(x, sight_.view.yOf(*last));
    last = now;
    line << QPointF(x + (steps ? 0 : column / 2.0), sight_.view.yOf(now));
    const double y = sight_.view.yOf(now), low = sight_.view.yOf(reads.least / source),
                 high = sight_.view.yOf(reads.most / source);
    if (low > y + 0.5) painter.fillRect(QRectF(x, y, column, std::min(low, area.bottom() + 20) - y), past);
    if (high < y - 0.5)
      painter.fillRect(QRectF(x, std::max(high, area.top() - 20), column, y - std::max(high, area.top() - 20)), ahead);
    if (x % 4 == 0)
      for (const double tap : reads.taps) {
        // No closer than they can be told apart.
        const double tapY = sight_.view.yOf(tap / source);
        if (taps.isEmpty() || taps.back().x() != x || std::abs(taps.back().y() - tapY) >= 4) taps << QPointF(x, tapY);
      }
    if (reads.beforeFirst || reads.pastLast) {
      // Before lies below the clip, after above it.
      const double edge = sight_.view.yOf(reads.beforeFirst ? 0 : sight_.sourceSeconds()),
                   far = reads.beforeFirst ? edge + hatchHeight : edge - hatchHeight;
      const QRectF part(QPointF(x, std::min(edge, far)), QPointF(x + column, std::max(edge, far)));
      // What lies outside of in and out is neither played nor rendered.
      const auto picture = static_cast<std::int64_t>(std::floor(t * rate + 1e-9));
      QVector<QRectF>& some = picture < sight_.state.span.first || picture > sight_.state.span.last ? trimmedOff : runs;
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
  if (!sight_.state.pace || sight_.state.heldToo || steps) {
    painter.setPen(QPen(sight_.state.pace ? theme::dim : theme::now, sight_.state.pace ? 1 : 1.5, Qt::SolidLine,
                        Qt::FlatCap, Qt::BevelJoin));
    for (const QPolygonF& some : lines) painter.drawPolyline(some);
  }
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme::dim);
  for (const QPointF& tap : taps) painter.drawRect(QRectF(tap.x(), tap.y() - 1, 2, 2));
}

void ChartDrawing::drawOutside(QPainter& painter, const QVector<QRectF>& runs) {
  if (runs.isEmpty()) return;
  const QRectF* widest = &runs[0];
  for (const QRectF& run : runs) {
    theme::hatch(painter, run);
    if (run.width() > widest->width()) widest = &run;
  }
  // Said once, at the widest; with what can be done about it.
  painter.setFont(theme::words(11));
  const bool below = widest->top() > sight_.view.yOf(sight_.sourceSeconds() / 2);
  const QString words = below ? tr("reads before the clip") : tr("reads past the end of the clip");
  const QString remedy = tr("trim it off");
  const QFontMetricsF metrics(painter.font());
  const double length = metrics.horizontalAdvance(words + " · ");
  const double x = std::clamp(widest->left() + 2, sight_.view.area.left() + 2,
                              std::max(sight_.view.area.left() + 2, sight_.view.area.right() - length - 70));
  // In a low chart the words stand over the hatching rather than out of sight.
  const double y = below ? std::min(widest->bottom() + 1, sight_.view.area.bottom() + bottomMargin - 18)
                         : std::max(widest->top() - 16, sight_.view.area.top() - topMargin);
  drawWords(painter, QRectF(x, y, length + 10, 15), words + " · ", theme::outside, Qt::AlignLeft | Qt::AlignVCenter);
  remedy_ = QRectF(x + length, y, metrics.horizontalAdvance(remedy), 15);
  QFont underlined = painter.font();
  underlined.setUnderline(true);
  painter.setFont(underlined);
  drawWords(painter, remedy_.adjusted(0, 0, 4, 0), remedy, theme::outside, Qt::AlignLeft | Qt::AlignVCenter);
}

/// Speed: of the Pace if there is one, otherwise how fast the line of moments rises.
void ChartDrawing::drawSpeed(QPainter& painter) const {
  const QRectF& area = sight_.view.area;
  const double end = sight_.state.piece.seconds().toDouble(), source = sight_.state.reads->source().rate.toDouble();
  std::optional<PaceCurve> curve;
  if (sight_.state.pace) curve = sight_.state.pace->setting.curve();
  QPolygonF line;
  for (double x = area.left(); x <= area.right(); x += 1) {
    const double t = sight_.view.timeAt(x);
    if (t < 0 || t > end) continue;
    const double step = 1 / sight_.state.piece.rate.toDouble();
    const double speed =
        curve ? curve->speedAt(t) : (sight_.readsAt(t + step).now - sight_.readsAt(t).now) / source / step;
    line << QPointF(x, sight_.view.yOf(speed * 100));
  }
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(theme::now, 1.5, Qt::SolidLine, Qt::FlatCap, Qt::BevelJoin));
  painter.drawPolyline(line);
  if (!sight_.state.pace) return;
  // Below the slowest speed with real frames, frames repeat.
  const double clean = sight_.state.pace->clean.toDouble() * 100;
  painter.setPen(QPen(theme::dim.darker(140), 1, Qt::DotLine));
  painter.setFont(theme::words(10));
  for (const double at : {clean, -clean}) {
    if (at < sight_.view.bottom || at > sight_.view.top) continue;
    painter.drawLine(QPointF(area.left(), sight_.view.yOf(at)), QPointF(area.right(), sight_.view.yOf(at)));
  }
  if (clean > sight_.view.top) return;
  painter.setClipping(false);
  painter.setPen(theme::dim);
  painter.drawText(QRectF(4, sight_.view.yOf(clean) - 8, 70, 16), Qt::AlignLeft | Qt::AlignVCenter,
                   tr("real %1").arg(QString::fromStdString(speedText(sight_.state.pace->clean))));
  painter.setClipRect(area.adjusted(-markRadius - 1, -topMargin, 12, 1));
}

void ChartDrawing::drawPace(QPainter& painter) const {
  const PaceSetting& setting = sight_.state.pace->setting;
  const PaceCurve curve = setting.curve();
  if (sight_.up == ChartUp::Source) {
    // Span by span, each as it plays.
    for (std::size_t i = 0; i < setting.spans.size(); ++i) {
      const double begin = std::max(sight_.view.left, curve.beginOf(i).toDouble()),
                   end = std::min(sight_.view.right, curve.beginOf(i + 1).toDouble());
      if (end <= begin) continue;
      QPolygonF line;
      const int parts = std::clamp(static_cast<int>((sight_.view.xOf(end) - sight_.view.xOf(begin)) / 3), 1, 400);
      for (int k = 0; k <= parts; ++k) {
        const double t = begin + (end - begin) * k / parts;
        line << sight_.view.at(t, curve.atSeconds(t));
      }
      const bool chosen = sight_.span == i;
      QPen pen(theme::now, chosen ? 3 : 2, Qt::SolidLine, Qt::FlatCap, Qt::RoundJoin);
      if (sight_.state.pace->looks[i] == SpanLook::Repeats) pen.setDashPattern({5, 2});
      if (sight_.state.pace->looks[i] == SpanLook::Skips) pen.setDashPattern({2, 2});
      painter.setPen(pen);
      painter.drawPolyline(line);
    }
  } else if (sight_.span) {
    painter.setPen(QPen(theme::now, 3));
    const double y = sight_.spanPoint(*sight_.span).y();
    painter.drawLine(QPointF(sight_.view.xOf(curve.beginOf(*sight_.span).toDouble()), y),
                     QPointF(sight_.view.xOf(curve.beginOf(*sight_.span + 1).toDouble()), y));
  }
  drawSpanLabels(painter);
  drawMarks(painter, curve);
}

/// The selected one, or the one that the hand is over, with the handles of its glide.
void ChartDrawing::drawMarks(QPainter& painter, const PaceCurve& curve) const {
  const PaceSetting& setting = sight_.state.pace->setting;
  const std::size_t none = setting.spans.size();
  const std::size_t shownMark = sight_.mark ? *sight_.mark : hover_.grip == ChartGrip::Mark ? hover_.index : none;
  for (std::size_t mark = 0; mark + 1 < setting.spans.size(); ++mark) {
    const QPointF point = sight_.markPoint(mark);
    if (point.x() < sight_.view.area.left() - 8 || point.x() > sight_.view.area.right() + 8) continue;
    if (shownMark == mark) {
      painter.setPen(QPen(theme::dim, 1));
      painter.setBrush(theme::ink);
      for (const bool end : {false, true}) {
        const QPointF handle = sight_.glidePoint(mark, end);
        painter.drawRect(QRectF(handle.x() - 3, handle.y() - 3, 6, 6));
      }
      if (curve.glideAfter(mark).length > Rational(0)) {
        const QPointF bend = sight_.bendPoint(mark);
        painter.drawPolygon(QPolygonF(
            {{bend.x(), bend.y() - 4}, {bend.x() + 4, bend.y()}, {bend.x(), bend.y() + 4}, {bend.x() - 4, bend.y()}}));
      }
    }
    painter.setPen(QPen(theme::now, 1.5));
    painter.setBrush(sight_.mark == mark ? theme::now : theme::ink);
    painter.drawEllipse(point, markRadius, markRadius);
  }
}

void ChartDrawing::drawSpanLabels(QPainter& painter) const {
  const PaceSetting& setting = sight_.state.pace->setting;
  const PaceCurve curve = setting.curve();
  double free = -1e9;
  for (std::size_t i = 0; i < setting.spans.size(); ++i) {
    const double room = sight_.view.xOf(curve.beginOf(i + 1).toDouble()) - sight_.view.xOf(curve.beginOf(i).toDouble());
    const QString speed = QString::fromStdString(speedText(setting.spans[i].speed));
    QString look = lookOf(*sight_.state.pace, i);
    // What eases all of its way stands still for no picture.
    if (sight_.state.pace->looks[i] == SpanLook::Freeze && isAllGlide(curve, i, sight_.state.piece.rate))
      look = tr("at rest");
    painter.setFont(theme::words(11));
    const double number = painter.fontMetrics().horizontalAdvance(speed);
    painter.setFont(theme::words(11));
    const double more = look.isEmpty() ? 0 : painter.fontMetrics().horizontalAdvance(" · " + look);
    const bool chosen = sight_.span == i || (hover_.grip == ChartGrip::Span && hover_.index == i);
    const bool both = number + more + 8 < room || chosen;
    if (!chosen && number + 4 > room) continue;
    const QRectF box = sight_.labelRect(i);
    const double length = number + (both ? more : 0), x = box.center().x() - length / 2;
    if (x < free && !chosen) continue;
    free = x + length + 6;
    painter.setFont(theme::words(11));
    drawWords(painter, QRectF(x, box.top(), number + 1, 16), speed, chosen ? theme::now : theme::text,
              Qt::AlignLeft | Qt::AlignVCenter);
    if (!both || look.isEmpty()) continue;
    painter.setFont(theme::words(11));
    drawWords(painter, QRectF(x + number, box.top(), more + 1, 16), " · " + look, theme::dim,
              Qt::AlignLeft | Qt::AlignVCenter);
  }
}

void ChartDrawing::drawPlayhead(QPainter& painter) const {
  const double x =
      std::floor(sight_.view.xOf(static_cast<double>(sight_.state.frame) / sight_.state.piece.rate.toDouble())) + 0.5;
  if (x < sight_.view.area.left() - 1 || x > sight_.view.area.right() + 1) return;
  painter.setPen(QPen(theme::now, 1));
  painter.drawLine(QPointF(x, 0), QPointF(x, sight_.view.area.bottom() + bottomMargin));
  if (sight_.up != ChartUp::Source) return;
  const QPointF point = sight_.playheadPoint();
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(theme::ink, 1));
  painter.setBrush(theme::now);
  if (point.y() > sight_.view.area.top() - 4 && point.y() < sight_.view.area.bottom() + 4)
    painter.drawRect(QRectF(point.x() - 3.5, point.y() - 3.5, 7, 7));
  if (!sight_.ring) return;
  painter.setBrush(Qt::NoBrush);
  for (const auto& [colour, width] : {std::pair(QColor(0x13, 0x14, 0x16, 200), 4.0), {theme::now, 1.6}}) {
    painter.setPen(QPen(colour, width));
    painter.drawEllipse(QPointF(x, sight_.view.yOf(*sight_.ring)), 5, 5);
  }
}

void ChartDrawing::drawSaying(QPainter& painter, const QString& words, const QPointF& at, const QRectF& chart) {
  painter.setFont(theme::words(12));
  QRectF box(at.x() + 14, at.y() - 30, 360, 18);
  const double right = painter.boundingRect(box, Qt::AlignLeft, words).right();
  if (right > chart.width() - 8) box.moveLeft(box.left() - (right - chart.width() + 8));
  box.moveTop(std::clamp(box.top(), 2.0, chart.height() - 20.0));
  drawWords(painter, box, words, theme::now, Qt::AlignLeft | Qt::AlignVCenter);
}

QString ChartDrawing::lookOf(const ChartPace& pace, std::size_t span) {
  switch (pace.looks[span]) {
    case SpanLook::Freeze:
      return tr("freeze");
    case SpanLook::Repeats:
      return pace.inBetween == InBetween::Whole ? tr("repeats") : tr("in-between");
    case SpanLook::Skips:
      return tr("skips");
    case SpanLook::Clean:
      break;
  }
  return {};
}

}  // namespace molten

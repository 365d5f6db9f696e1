#include "app/chart/chart_sight.h"

#include <QObject>
#include <QStringList>
#include <algorithm>
#include <cmath>

#include "app/chart/chart_measures.h"
#include "core/stages/parameter.h"

namespace molten {

using namespace chart;

void ChartSight::setSize(const QSizeF& size) {
  view.area = QRectF(gutterWidth, topMargin, std::max(40.0, size.width() - gutterWidth - 12),
                     std::max(30.0, size.height() - topMargin - bottomMargin));
}

QRectF ChartSight::gutter() const {
  return QRectF(0, topMargin, gutterWidth - 4, view.area.height());
}

void ChartSight::select(std::optional<std::size_t> oneSpan, std::optional<std::size_t> oneMark) {
  span = oneSpan, mark = oneMark;
}

bool ChartSight::showsSelected() const {
  return !state.pace || !mark || *mark + 1 >= state.pace->setting.spans.size() ||
         view.area.adjusted(-1, -1, 1, 1).contains(markPoint(*mark));
}

std::vector<ChartSight::PictureRow> ChartSight::pictureRows() const {
  std::vector<PictureRow> rows;
  if (!state.footage || !state.reads || up != ChartUp::Source || !state.ofFootage) return rows;
  // In a low deck there is no room for pictures beside the moments' labels.
  if (view.area.height() < leastForPictures) return rows;
  const VideoDescription& source = state.reads->source();
  const double rate = source.rate.toDouble();
  for (double y = view.area.bottom() - pictureHeight / 2 - 2; y > view.area.top() + pictureHeight / 2 - 6;
       y -= pictureHeight + 4) {
    const double position = view.sourceAt(y) * rate;
    if (position < -0.5 || position > static_cast<double>(source.length) - 0.5) continue;
    // By the footage's own clock: at a varying rate a position is no number of a frame.
    rows.push_back({y, state.reads->clock().frameAt(position)});
  }
  return rows;
}

void ChartSight::fit() {
  view.left = 0;
  view.right = std::max(1e-3, state.piece.seconds().toDouble());
  if (up == ChartUp::Source) {
    // Room for what is said about reads outside of the clip.
    const double margin = std::min(0.3, edgeRoom / view.area.height());
    view.bottom = -sourceSeconds() * margin / (1 - 2 * margin);
    view.top = sourceSeconds() * (1 - margin) / (1 - 2 * margin);
  } else {
    double least = 0, most = 100;
    if (state.pace)
      for (const PaceSpan& one : state.pace->setting.spans) {
        least = std::min(least, one.speed.toDouble() * 100);
        most = std::max(most, one.speed.toDouble() * 100);
      }
    view.bottom = least - (most - least) * 0.14;
    view.top = most + (most - least) * 0.2;
  }
}

double ChartSight::sourceSeconds() const {
  return state.reads ? state.reads->source().seconds().toDouble() : 1;
}

MomentReads ChartSight::readsAt(double t) const {
  const Piece& piece = state.piece;
  double position = t * piece.chainRate.toDouble();
  const auto length = static_cast<double>(piece.chainLength);
  // Up to the last picture: what begins after it is no more.
  position = piece.chainEndless ? std::fmod(position, length) : std::min(position, length - 1);
  return state.reads->at(position);
}

QString ChartSight::words() const {
  if (!drawable()) return {};
  const double seconds = static_cast<double>(state.frame) / state.piece.rate.toDouble(), rate = state.reads->source().rate.toDouble();
  const MomentReads reads = readsAt(seconds);
  const auto text = [](double value) { return QString::fromStdString(secondsText(value)); };
  QStringList said{QObject::tr("Frame %1 of %2 reads %3").arg(state.frame).arg(state.piece.length).arg(text(reads.now / rate))};
  if (reads.least != reads.now || reads.most != reads.now) said << QObject::tr("its pixels %1 to %2").arg(text(reads.least / rate), text(reads.most / rate));
  if (span) said << QObject::tr("span %1 of %2 in hand").arg(*span + 1).arg(state.pace->setting.spans.size());
  if (mark) said << QObject::tr("mark %1 in hand").arg(*mark + 1);
  return said.join(", ");
}

QPointF ChartSight::markPoint(std::size_t which) const {
  const PaceCurve curve = state.pace->setting.curve();
  const double t = curve.beginOf(which + 1).toDouble();
  return view.at(t, up == ChartUp::Source ? curve.at(curve.beginOf(which + 1)).seconds() : curve.speedAt(t) * 100);
}

QPointF ChartSight::glidePoint(std::size_t which, bool end) const {
  const PaceCurve curve = state.pace->setting.curve();
  const PaceCurve::Glide& glide = curve.glideAfter(which);
  const double t = (end ? glide.begin + glide.length : glide.begin).toDouble();
  QPointF point = view.at(
      t, up == ChartUp::Source ? curve.atSeconds(t) : curve.spans()[which + (end ? 1 : 0)].speed.toDouble() * 100);
  const double x = markPoint(which).x();
  if (end && point.x() < x + leastOffset) point = {x + leastOffset, markPoint(which).y()};
  if (!end && point.x() > x - leastOffset) point = {x - leastOffset, markPoint(which).y()};
  return point;
}

QPointF ChartSight::bendPoint(std::size_t which) const {
  const QPointF point = markPoint(which);
  const double down = point.y() + 22 < view.area.bottom() - 4 ? 22 : -22;
  return {point.x() - state.pace->setting.spans[which].bend.toDouble() * 30, point.y() + down};
}

QPointF ChartSight::spanPoint(std::size_t which) const {
  const PaceCurve curve = state.pace->setting.curve();
  const double t = (curve.beginOf(which) + curve.spans()[which].length / 2).toDouble();
  return view.at(t, up == ChartUp::Source ? curve.atSeconds(t) : curve.spans()[which].speed.toDouble() * 100);
}

QPointF ChartSight::playheadPoint() const {
  const double t = static_cast<double>(state.frame) / state.piece.rate.toDouble();
  return view.at(t, readsAt(t).now / state.reads->source().rate.toDouble());
}

QRectF ChartSight::labelRect(std::size_t which) const {
  const QPointF middle = spanPoint(which);
  QRectF box(middle.x() - 60, middle.y() - 24, 120, 16);
  const bool under = box.top() < view.area.top() + 1;
  if (under) box.moveTop(middle.y() + 8);
  if (up != ChartUp::Source) return box;
  // Where the line is steep, beside it rather than across it.
  constexpr double usualHalf = 40, gap = 8;  // of the words; between their box and the middle
  const double step = 8 / (view.xOf(1) - view.xOf(0));
  const PaceCurve curve = state.pace->setting.curve();
  const double t = view.timeAt(middle.x());
  const double rise = (view.yOf(curve.atSeconds(t - step)) - view.yOf(curve.atSeconds(t + step))) / 16;
  const double shift = std::clamp(usualHalf - gap / std::max(0.01, std::abs(rise)), 0.0, usualHalf);
  box.translate((rise > 0) == under ? shift : -shift, 0);
  return box;
}

std::optional<double> ChartSight::onsetNear(double seconds) const {
  if (!state.follows || onsets.empty()) return std::nullopt;
  const auto after = std::lower_bound(onsets.begin(), onsets.end(), seconds);
  if (after == onsets.begin()) return *after;
  if (after == onsets.end() || seconds - *(after - 1) < *after - seconds) return *(after - 1);
  return *after;
}

}  // namespace molten

#include "app/chart/chart_plot.h"

#include <cmath>

#include "app/chart/chart_measures.h"

namespace molten {

using namespace chart;

ChartPlot::ChartPlot(QWidget* parent) : QWidget(parent) {
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  setMinimumHeight(110);
  setAccessibleName(tr("Time Chart"));
}

QRectF ChartPlot::plotArea() const {
  return QRectF(gutterWidth, topMargin, std::max(40.0, width() - gutterWidth - 12),
                std::max(30.0, height() - topMargin - rulerHeight));
}

QRectF ChartPlot::gutter() const {
  return QRectF(0, topMargin, gutterWidth - 4, plotArea().height());
}

double ChartPlot::sourceSeconds() const {
  return state_.reads ? state_.reads->source().seconds().toDouble() : 1;
}

void ChartPlot::fit() {
  fitted_ = true;
  view_.area = plotArea();
  view_.left = 0;
  view_.right = std::max(1e-3, state_.piece.seconds().toDouble());
  if (up_ == ChartUp::Source) {
    // Room for what is said about reads outside of the clip.
    const double margin = std::min(0.3, edgeRoom / view_.area.height());
    view_.bottom = -sourceSeconds() * margin / (1 - 2 * margin);
    view_.top = sourceSeconds() * (1 - margin) / (1 - 2 * margin);
  } else {
    double least = 0, most = 100;
    if (state_.pace)
      for (const PaceSpan& span : state_.pace->setting.spans) {
        least = std::min(least, span.speed.toDouble() * 100);
        most = std::max(most, span.speed.toDouble() * 100);
      }
    view_.bottom = least - (most - least) * 0.14;
    view_.top = most + (most - least) * 0.2;
  }
  redraw();
  wantPictures();
}

void ChartPlot::redraw() {
  stale_ = true;
  update();
  emit viewChanged();
}

void ChartPlot::setState(const ChartState& state) {
  const bool other = !state_.reads || !state.reads || state.footage != state_.footage ||
                     state.reads->source().length != state_.reads->source().length;
  const bool longer = state.piece.seconds() != state_.piece.seconds();
  state_ = state;
  const std::size_t spans = state_.pace ? state_.pace->setting.spans.size() : 0;
  if (span_ && *span_ >= spans) span_.reset();
  if (mark_ && *mark_ + 1 >= spans) mark_.reset();
  // While a hand holds something, the ground stays still under it.
  if (other || (fitted_ && hold_.grip == Grip::None && longer))
    fit();
  else if (fitted_ && hold_.grip == Grip::None && up_ == ChartUp::Speed)
    fit();
  redraw();
  wantPictures();
}

void ChartPlot::setFrame(std::int64_t frame) {
  if (frame == state_.frame) return;
  state_.frame = frame;
  // What is farther on comes into sight while it plays.
  const double t = static_cast<double>(frame) / state_.piece.rate.toDouble();
  if (!fitted_ && hold_.grip == Grip::None && (t < view_.left || t > view_.right)) {
    const double width = view_.right - view_.left;
    view_.left = std::max(0.0, t - width * 0.1);
    view_.right = view_.left + width;
    stale_ = true;
  }
  update();
}

void ChartPlot::setRing(std::optional<double> seconds) {
  if (seconds == ring_) return;
  ring_ = seconds;
  update();
}

void ChartPlot::setPictures(const SmallPictures* pictures) {
  pictures_ = pictures;
  redraw();
}

void ChartPlot::picturesChanged() {
  redraw();
}

void ChartPlot::setUp(ChartUp up) {
  up_ = up;
  fit();
}

void ChartPlot::resizeEvent(QResizeEvent*) {
  if (fitted_)
    fit();
  else
    view_.area = plotArea();
  redraw();
  wantPictures();
}

void ChartPlot::selectSpan(std::optional<std::size_t> span) {
  span_ = span;
  mark_.reset();
  redraw();
  emit selectionChanged();
}

void ChartPlot::selectMark(std::optional<std::size_t> mark) {
  mark_ = mark;
  span_.reset();
  redraw();
  emit selectionChanged();
}

MomentReads ChartPlot::readsAt(double t) const {
  const Piece& piece = state_.piece;
  double position = t * piece.chainRate.toDouble();
  const auto length = static_cast<double>(piece.chainLength);
  // Up to the last picture: what begins after it is no more.
  position = piece.chainEndless ? std::fmod(position, length) : std::min(position, length - 1);
  return state_.reads->at(position);
}

QPointF ChartPlot::markPoint(std::size_t mark) const {
  const PaceCurve curve = state_.pace->setting.curve();
  const double t = curve.beginOf(mark + 1).toDouble();
  return view_.at(t, up_ == ChartUp::Source ? curve.at(curve.beginOf(mark + 1)).seconds() : curve.speedAt(t) * 100);
}

QPointF ChartPlot::glidePoint(std::size_t mark, bool end) const {
  const PaceCurve curve = state_.pace->setting.curve();
  const PaceCurve::Glide& glide = curve.glideAfter(mark);
  const double t = (end ? glide.begin + glide.length : glide.begin).toDouble();
  QPointF point = view_.at(
      t, up_ == ChartUp::Source ? curve.atSeconds(t) : curve.spans()[mark + (end ? 1 : 0)].speed.toDouble() * 100);
  const double x = markPoint(mark).x();
  if (end && point.x() < x + leastOffset) point = {x + leastOffset, markPoint(mark).y()};
  if (!end && point.x() > x - leastOffset) point = {x - leastOffset, markPoint(mark).y()};
  return point;
}

QPointF ChartPlot::bendPoint(std::size_t mark) const {
  const QPointF point = markPoint(mark);
  const double down = point.y() + 22 < view_.area.bottom() - 4 ? 22 : -22;
  return {point.x() - state_.pace->setting.spans[mark].bend.toDouble() * 30, point.y() + down};
}

QPointF ChartPlot::spanPoint(std::size_t span) const {
  const PaceCurve curve = state_.pace->setting.curve();
  const double t = (curve.beginOf(span) + curve.spans()[span].length / 2).toDouble();
  return view_.at(t, up_ == ChartUp::Source ? curve.atSeconds(t) : curve.spans()[span].speed.toDouble() * 100);
}

QPointF ChartPlot::playheadPoint() const {
  const double t = static_cast<double>(state_.frame) / state_.piece.rate.toDouble();
  return view_.at(t, readsAt(t).now / state_.reads->source().rate.toDouble());
}

QString ChartPlot::lookText(std::size_t span) const {
  switch (state_.pace->looks[span]) {
    case SpanLook::Freeze:
      return tr("freeze");
    case SpanLook::Repeats:
      return state_.pace->inBetween == InBetween::Whole ? tr("repeats") : tr("in-between");
    case SpanLook::Skips:
      return tr("skips");
    case SpanLook::Clean:
      break;
  }
  return {};
}

QRectF ChartPlot::labelRect(std::size_t span) const {
  const QPointF middle = spanPoint(span);
  QRectF box(middle.x() - 60, middle.y() - 24, 120, 16);
  if (box.top() < view_.area.top() + 1) box.moveTop(middle.y() + 8);
  // Within sight, where the span's middle is not.
  return box;
}

}  // namespace molten

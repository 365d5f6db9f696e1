#include "app/chart/chart_hand.h"

#include <cmath>

#include "core/time/pace_text.h"

namespace molten {
namespace {

constexpr double reachOfHand = 7;  ///< screen pixels

double distance(const QPointF& a, const QPointF& b) {
  return std::hypot(a.x() - b.x(), a.y() - b.y());
}

QString secondsShown(Rational seconds) {
  return QString::fromStdString(secondsText(seconds.toDouble()));
}

}  // namespace

void ChartHand::take(const ChartHold& hold, const QPointF& point) {
  hold_ = hold;
  pressed_ = point;
  if (sight_.state.pace) atPress_ = sight_.state.pace->setting;
}

Qt::CursorShape ChartHand::cursorOver(ChartGrip grip) const {
  switch (grip) {
    case ChartGrip::Mark:
      return along_ == Along::Output || sight_.up == ChartUp::Speed ? Qt::SizeHorCursor : Qt::SizeVerCursor;
    case ChartGrip::GlideBegin:
    case ChartGrip::GlideEnd:
    case ChartGrip::Bend:
      return Qt::SizeHorCursor;
    case ChartGrip::Span:
    case ChartGrip::Slip:
    case ChartGrip::LineUp:
      return Qt::SizeVerCursor;
    case ChartGrip::Remedy:
      return Qt::PointingHandCursor;
    case ChartGrip::None:
    case ChartGrip::Scrub:
    case ChartGrip::Pan:
      break;
  }
  return Qt::ArrowCursor;
}

QString ChartHand::helpFor(ChartGrip grip) {
  switch (grip) {
    case ChartGrip::Mark:
      return tr("Drag to slide the mark; double-click to type its moment; Delete joins the spans");
    case ChartGrip::GlideBegin:
    case ChartGrip::GlideEnd:
      return tr("Drag to make the glide wider; [ and ] do the same");
    case ChartGrip::Bend:
      return tr("Drag to let the speed change earlier or later within the glide");
    case ChartGrip::Span:
      return tr("Drag up or down for the speed (Ctrl: freely); ↑ ↓ by 5 %, with Shift 1 %; double-click to type it");
    case ChartGrip::Slip:
      return tr("Drag to slip the footage under the marks; the wheel zooms the source");
    case ChartGrip::LineUp:
      return tr("Drag to line up another source frame with the playhead");
    case ChartGrip::Scrub:
      return tr("Drag to scrub; wheel zooms, with Ctrl the source, with Shift it moves along");
    case ChartGrip::None:
    case ChartGrip::Remedy:
    case ChartGrip::Pan:
      break;
  }
  return {};
}

ChartHold ChartHand::at(const QPointF& point) const {
  if (!sight_.drawable()) return {};
  if (!sight_.state.pace) return {sight_.gutter().contains(point) ? ChartGrip::None : ChartGrip::Scrub, 0};
  const auto near = [&](const QPointF& at) { return distance(point, at) <= reachOfHand; };
  const std::size_t marks = sight_.state.pace->setting.spans.size() - 1;
  // The nearest of those marks that are in reach.
  ChartHold best;
  double nearest = reachOfHand;
  for (std::size_t i = 0; i < marks; ++i)
    if (const double off = distance(point, sight_.markPoint(i)); off <= nearest)
      nearest = off, best = {ChartGrip::Mark, i};
  if (best.grip == ChartGrip::Mark && nearest < 5) return best;
  if (sight_.mark) {
    if (near(sight_.glidePoint(*sight_.mark, false))) return {ChartGrip::GlideBegin, *sight_.mark};
    if (near(sight_.glidePoint(*sight_.mark, true))) return {ChartGrip::GlideEnd, *sight_.mark};
    if (near(sight_.bendPoint(*sight_.mark)) &&
        sight_.state.pace->setting.curve().glideAfter(*sight_.mark).length > Rational(0))
      return {ChartGrip::Bend, *sight_.mark};
  }
  if (best.grip == ChartGrip::Mark) return best;
  if (sight_.up == ChartUp::Source && near(sight_.playheadPoint())) return {ChartGrip::LineUp, 0};
  if (sight_.gutter().contains(point)) return {sight_.up == ChartUp::Source ? ChartGrip::Slip : ChartGrip::None, 0};
  if (point.y() > sight_.view.area.bottom()) return {ChartGrip::Scrub, 0};
  const PaceCurve curve = sight_.state.pace->setting.curve();
  const double t = sight_.view.timeAt(point.x());
  if (t >= 0 && t <= curve.length().toDouble()) {
    const double value = sight_.up == ChartUp::Source ? curve.atSeconds(t) : curve.speedAt(t) * 100;
    const double steep = std::abs(sight_.view.yOf(value) - point.y());
    const std::size_t span = curve.spanAt(Rational::near(std::max(0.0, t)));
    if (steep <= reachOfHand) return {ChartGrip::Span, span};
    // Steep lines are met from the side.
    const double aside =
        sight_.up == ChartUp::Source
            ? curve.atSeconds(t + reachOfHand / 2 * (sight_.view.right - sight_.view.left) / sight_.view.area.width())
            : value;
    if (std::abs(sight_.view.yOf(aside) - sight_.view.yOf(value)) > steep &&
        std::abs(sight_.view.yOf(aside) - point.y()) < 40 &&
        (sight_.view.yOf(aside) - point.y()) * (sight_.view.yOf(value) - point.y()) < 0)
      return {ChartGrip::Span, span};
  }
  for (std::size_t i = 0; i <= marks; ++i)
    if (sight_.labelRect(i).adjusted(25, 0, -25, 0).contains(point)) return {ChartGrip::Span, i};
  return {ChartGrip::Scrub, 0};
}

/// On a frame of the output; on the playhead, a mark or an onset where one is near.
double ChartHand::snappedTime(double t, std::optional<std::size_t> except) const {
  const double rate = sight_.state.piece.rate.toDouble();
  const double reach = reachOfHand * (sight_.view.right - sight_.view.left) / sight_.view.area.width();
  const double playhead = static_cast<double>(sight_.state.frame) / rate;
  if (std::abs(playhead - t) <= reach) return playhead;
  const PaceCurve curve = atPress_.curve();
  for (std::size_t i = 1; i < atPress_.spans.size(); ++i)
    if (!(except && *except + 1 == i) && std::abs(curve.beginOf(i).toDouble() - t) <= reach)
      return curve.beginOf(i).toDouble();
  if (const auto onset = sight_.onsetNear(t); onset && std::abs(*onset - t) <= reach) return *onset;
  return std::round(t * rate) / rate;
}

double ChartHand::snappedSource(double s) const {
  const double rate = sight_.state.reads->source().rate.toDouble();
  return std::round(s * rate) / rate;
}

QString ChartHand::effect(const PaceSetting& after) const {
  const Rational was = atPress_.curve().length(), is = after.curve().length();
  if (after == atPress_) return tr("nothing changes");
  QString words = was == is ? tr("stays %1 long").arg(secondsShown(is))
                            : tr("%1 → %2 long").arg(secondsShown(was), secondsShown(is));
  // A glide that finds less room than it asks for, unless it stood as narrow between the same spans before.
  const PaceCurve curve = after.curve(), known = atPress_.curve();
  const auto wasNarrow = [&](std::size_t i) {
    for (std::size_t k = 0; k + 1 < known.spans().size(); ++k)
      if (known.isNarrowed(k) && known.spans()[k] == curve.spans()[i] && known.spans()[k + 1] == curve.spans()[i + 1])
        return true;
    return false;
  };
  for (std::size_t i = 0; i + 1 < curve.spans().size(); ++i)
    if (curve.isNarrowed(i) && !wasNarrow(i))
      words += tr(" · glide %1 finds room for %2 only").arg(i + 1).arg(secondsShown(curve.glideAfter(i).length));
  return words;
}

std::optional<PaceEdit> ChartHand::dragged(const QPointF& point, bool free) const {
  const std::size_t i = hold_.index;
  const auto number = [](std::size_t n) { return QString::number(n + 1); };
  switch (hold_.grip) {
    case ChartGrip::Mark:
      return draggedMark(point, free);
    case ChartGrip::GlideBegin:
    case ChartGrip::GlideEnd:
      return draggedGlide(point, free);
    case ChartGrip::Bend: {
      const double bend = atPress_.spans[i].bend.toDouble() - (point.x() - pressed_.x()) / 30;
      const PaceSetting after = setBend(atPress_, i, Rational(std::lround(std::clamp(bend, -1.0, 1.0) * 20), 20));
      return PaceEdit{after,
                      tr("Glide %1 bent by %2").arg(number(i), QString::fromStdString(speedText(after.spans[i].bend))),
                      "bend" + QString::number(i)};
    }
    case ChartGrip::Span:
      return draggedSpan(point, free);
    case ChartGrip::Slip: {
      const double by = sight_.view.sourceAt(pressed_.y()) - sight_.view.sourceAt(point.y());
      const PaceSetting after = slip(atPress_, Rational::near(free ? by : snappedSource(by)));
      return PaceEdit{after, tr("Slip by %1").arg(secondsShown(after.from - atPress_.from)), "slip"};
    }
    case ChartGrip::LineUp: {
      const Rational t = Rational(sight_.state.frame) / sight_.state.piece.rate;
      const double s = sight_.view.sourceAt(point.y());
      const PaceSetting after = lineUp(atPress_, Rational::near(free ? s : snappedSource(s)), t);
      return PaceEdit{after,
                      tr("Source %1 lined up at %2")
                          .arg(secondsShown(Rational::near(free ? s : snappedSource(s))), secondsShown(t)),
                      "slip"};
    }
    default:
      return std::nullopt;
  }
}

/// By how far the hand has gone: a glide leads past its mark, and the circle stands on the glide.
PaceEdit ChartHand::draggedMark(const QPointF& point, bool free) const {
  const std::size_t i = hold_.index;
  const PaceCurve was = atPress_.curve();
  if (along_ == Along::Output || sight_.up == ChartUp::Speed) {
    const double t = was.beginOf(i + 1).toDouble() + sight_.view.timeAt(point.x()) - sight_.view.timeAt(pressed_.x());
    const PaceSetting after = slideMark(atPress_, i, Along::Output, Rational::near(free ? t : snappedTime(t, i)));
    return {after, tr("Mark %1 at %2").arg(QString::number(i + 1), secondsShown(after.curve().beginOf(i + 1))),
            "mark" + QString::number(i)};
  }
  const double s =
      was.sourceAt(i + 1).toDouble() + sight_.view.sourceAt(point.y()) - sight_.view.sourceAt(pressed_.y());
  const PaceSetting after = slideMark(atPress_, i, Along::Footage, Rational::near(free ? s : snappedSource(s)));
  return {after, tr("Mark %1 on source %2").arg(QString::number(i + 1), secondsShown(after.curve().sourceAt(i + 1))),
          "mark" + QString::number(i)};
}

/// From where the hand took hold: the handle stands beside the mark also where the glide has no length.
PaceEdit ChartHand::draggedGlide(const QPointF& point, bool free) const {
  const std::size_t i = hold_.index;
  const int side = hold_.grip == ChartGrip::GlideEnd ? 1 : -1;
  const double mark = atPress_.curve().beginOf(i + 1).toDouble();
  const double share = 0.5 + side * atPress_.spans[i].bend.toDouble() / 10;  // of the glide, on this side of the mark
  const double aside = side * (sight_.view.timeAt(point.x()) - mark);
  const double grip =
      std::abs(sight_.view.timeAt(pressed_.x()) - mark) - atPress_.curve().glideAfter(i).length.toDouble() * share;
  const double length = std::max(0.0, aside - grip) / share;
  const double step = free ? 0.001 : 0.02;
  return glideEdit(setGlide(atPress_, i, Rational::near(std::round(length / step) * step)), i);
}

/// With speed upward the line follows the hand. With source upward a slope would do so far too coarsely: there each
/// pixel is a percent, and more of them from a thumb's width on.
PaceEdit ChartHand::draggedSpan(const QPointF& point, bool free) const {
  const std::size_t i = hold_.index;
  double more = sight_.view.sourceAt(point.y()) - sight_.view.sourceAt(pressed_.y());
  if (sight_.up == ChartUp::Source) {
    constexpr double even = 60, growth = 20;
    const double pixels = pressed_.y() - point.y(), far = std::max(0.0, std::abs(pixels) - even);
    more = std::copysign(std::abs(pixels) + far * far / growth, pixels);
  }
  const double speed = atPress_.spans[i].speed.toDouble() + more / 100;
  Rational to(std::lround(std::clamp(speed, -100.0, 100.0) * 1000), 1000);
  if (!free) to = snappedSpeed(to, sight_.state.pace->clean, Rational(2, 100));
  const PaceSetting after = setSpeed(atPress_, i, to, keeping_);
  return spanEdit(after, i);
}

PaceEdit ChartHand::spanEdit(const PaceSetting& after, std::size_t i) const {
  return {after, tr("Span %1 at %2").arg(i + 1).arg(QString::fromStdString(speedText(after.spans[i].speed))),
          "span" + QString::number(i)};
}

PaceEdit ChartHand::glideEdit(const PaceSetting& after, std::size_t i) const {
  return {after, tr("Glide %1 of %2").arg(i + 1).arg(secondsShown(after.spans[i].glide)), "glide" + QString::number(i)};
}

std::optional<PaceEdit> ChartHand::keyed(int key, bool fine) {
  if (!sight_.state.pace) return std::nullopt;
  const PaceSetting pace = atPress_ = sight_.state.pace->setting;
  const auto span = sight_.span, mark = sight_.mark;
  switch (key) {
    case Qt::Key_Up:
    case Qt::Key_Down: {
      if (!span) return std::nullopt;
      const Rational by((key == Qt::Key_Up ? 1 : -1) * (fine ? 1 : 5), 100);
      return spanEdit(setSpeed(pace, *span, pace.spans[*span].speed + by, keeping_), *span);
    }
    case Qt::Key_BracketLeft:
    case Qt::Key_BracketRight:
      if (!mark) return std::nullopt;
      return glideEdit(
          setGlide(pace, *mark, pace.spans[*mark].glide + Rational(key == Qt::Key_BracketRight ? 1 : -1, 10)), *mark);
    case Qt::Key_Backspace:
      if (!mark) return std::nullopt;
      [[fallthrough]];
    case Qt::Key_Delete:
      if (mark) return PaceEdit{removeMark(pace, *mark), tr("Remove mark %1").arg(*mark + 1), {}};
      if (span) return PaceEdit{removeSpan(pace, *span), tr("Remove span %1").arg(*span + 1), {}};
      return std::nullopt;
    default:
      return std::nullopt;
  }
}

}  // namespace molten

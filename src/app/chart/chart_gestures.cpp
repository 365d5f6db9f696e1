// The Time Chart: what hands do on it.
#include <QContextMenuEvent>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMouseEvent>
#include <QToolTip>
#include <QWheelEvent>
#include <cmath>

#include "app/chart/chart_plot.h"
#include "app/chart/chart_prompt.h"
#include "core/time/pace_text.h"

namespace molten {
namespace {

constexpr double reachOfHand = 7;  ///< screen pixels
constexpr double mostZoom = 0.02;  ///< seconds in sight, at least

double distance(const QPointF& a, const QPointF& b) {
  return std::hypot(a.x() - b.x(), a.y() - b.y());
}

QString secondsShown(Rational seconds) {
  return QString::fromStdString(secondsText(seconds.toDouble()));
}

}  // namespace

ChartPlot::Hold ChartPlot::holdAt(const QPointF& point) const {
  if (!state_.footage || !state_.reads) return {};
  if (remedyRect_.adjusted(-3, -2, 3, 2).contains(point)) return {Grip::Remedy, 0};
  if (!state_.pace) return {gutter().contains(point) ? Grip::None : Grip::Scrub, 0};
  const auto near = [&](const QPointF& at) { return distance(point, at) <= reachOfHand; };
  const std::size_t marks = state_.pace->setting.spans.size() - 1;
  // The nearest of those marks that are in reach.
  Hold best;
  double nearest = reachOfHand;
  for (std::size_t i = 0; i < marks; ++i)
    if (const double off = distance(point, markPoint(i)); off <= nearest) nearest = off, best = {Grip::Mark, i};
  if (best.grip == Grip::Mark && nearest < 5) return best;
  if (mark_) {
    if (near(glidePoint(*mark_, false))) return {Grip::GlideBegin, *mark_};
    if (near(glidePoint(*mark_, true))) return {Grip::GlideEnd, *mark_};
    if (near(bendPoint(*mark_)) && state_.pace->setting.curve().glideAfter(*mark_).length > Rational(0))
      return {Grip::Bend, *mark_};
  }
  if (best.grip == Grip::Mark) return best;
  if (up_ == ChartUp::Source && near(playheadPoint())) return {Grip::LineUp, 0};
  if (gutter().contains(point)) return {up_ == ChartUp::Source ? Grip::Slip : Grip::None, 0};
  if (point.y() > view_.area.bottom()) return {Grip::Scrub, 0};
  const PaceCurve curve = state_.pace->setting.curve();
  const double t = view_.timeAt(point.x());
  if (t >= 0 && t <= curve.length().toDouble()) {
    const double value = up_ == ChartUp::Source ? curve.atSeconds(t) : curve.speedAt(t) * 100;
    const double steep = std::abs(view_.yOf(value) - point.y());
    const std::size_t span = curve.spanAt(Rational::near(std::max(0.0, t)));
    if (steep <= reachOfHand) return {Grip::Span, span};
    // Steep lines are met from the side.
    const double aside = up_ == ChartUp::Source
                             ? curve.atSeconds(t + reachOfHand / 2 * (view_.right - view_.left) / view_.area.width())
                             : value;
    if (std::abs(view_.yOf(aside) - view_.yOf(value)) > steep && std::abs(view_.yOf(aside) - point.y()) < 40 &&
        (view_.yOf(aside) - point.y()) * (view_.yOf(value) - point.y()) < 0)
      return {Grip::Span, span};
  }
  for (std::size_t i = 0; i <= marks; ++i)
    if (labelRect(i).adjusted(25, 0, -25, 0).contains(point)) return {Grip::Span, i};
  return {Grip::Scrub, 0};
}

/// On a frame of the output; on a mark or the playhead where one is near.
double ChartPlot::snappedTime(double t, std::optional<std::size_t> except) const {
  const double rate = state_.piece.rate.toDouble();
  const double reach = reachOfHand * (view_.right - view_.left) / view_.area.width();
  const double playhead = static_cast<double>(state_.frame) / rate;
  if (std::abs(playhead - t) <= reach) return playhead;
  const PaceCurve curve = before_.curve();
  for (std::size_t i = 1; i < before_.spans.size(); ++i)
    if (!(except && *except + 1 == i) && std::abs(curve.beginOf(i).toDouble() - t) <= reach)
      return curve.beginOf(i).toDouble();
  return std::round(t * rate) / rate;
}

double ChartPlot::snappedSource(double s) const {
  const double rate = state_.reads->source().rate.toDouble();
  return std::round(s * rate) / rate;
}

QString ChartPlot::effect(const PaceSetting& after) const {
  const Rational was = before_.curve().length(), is = after.curve().length();
  if (after == before_) return tr("nothing changes");
  QString words = was == is ? tr("stays %1 long").arg(secondsShown(is))
                            : tr("%1 → %2 long").arg(secondsShown(was), secondsShown(is));
  // A glide that finds less room than it asks for, unless it stood as narrow between the same spans before.
  const PaceCurve curve = after.curve(), known = before_.curve();
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

void ChartPlot::change(const PaceSetting& pace, const QString& name, const QString& key) {
  saying_ = name + " · " + effect(pace);
  emit said(saying_);
  emit paceChanged(pace, name, key);
  update();
}

void ChartPlot::mousePressEvent(QMouseEvent* event) {
  pressed_ = event->position();
  sayingAt_ = pressed_;
  viewBefore_ = view_;
  if (event->button() == Qt::MiddleButton ||
      (event->button() == Qt::LeftButton && event->modifiers() & Qt::ShiftModifier &&
       holdAt(pressed_).grip == Grip::Scrub)) {
    hold_ = {Grip::Pan, 0};
    return;
  }
  const Hold hold = holdAt(pressed_);
  if (event->button() == Qt::RightButton) {
    if (hold.grip == Grip::Span) selectSpan(hold.index);
    if (hold.grip == Grip::Mark) selectMark(hold.index);
    return;
  }
  if (event->button() != Qt::LeftButton) return;
  hold_ = hold;
  if (state_.pace) before_ = state_.pace->setting;
  switch (hold.grip) {
    case Grip::Mark:
      selectMark(hold.index);
      break;
    case Grip::Span:
      selectSpan(hold.index);
      break;
    case Grip::Scrub:
      drag(pressed_, event->modifiers());
      break;
    case Grip::Remedy:
      emit remedyChosen();
      break;
    default:
      break;
  }
}

void ChartPlot::mouseMoveEvent(QMouseEvent* event) {
  const QPointF point = event->position();
  if (hold_.grip != Grip::None) {
    sayingAt_ = point;
    // A click that trembles is no drag.
    if (hold_.grip != Grip::Scrub && distance(point, pressed_) < 3 && saying_.isEmpty() && hold_.grip != Grip::Pan)
      return;
    drag(point, event->modifiers());
    return;
  }
  const Hold over = holdAt(point);
  if (over.grip != hover_.grip || over.index != hover_.index) {
    hover_ = over;
    redraw();
    switch (over.grip) {
      case Grip::Mark:
        setCursor(along_ == Along::Output || up_ == ChartUp::Speed ? Qt::SizeHorCursor : Qt::SizeVerCursor);
        break;
      case Grip::GlideBegin:
      case Grip::GlideEnd:
      case Grip::Bend:
        setCursor(Qt::SizeHorCursor);
        break;
      case Grip::Span:
      case Grip::Slip:
      case Grip::LineUp:
        setCursor(Qt::SizeVerCursor);
        break;
      case Grip::Remedy:
        setCursor(Qt::PointingHandCursor);
        break;
      default:
        setCursor(Qt::ArrowCursor);
    }
  }
}

void ChartPlot::drag(const QPointF& point, Qt::KeyboardModifiers keys) {
  const bool free = keys & Qt::ControlModifier;
  const std::size_t i = hold_.index;
  const auto number = [](std::size_t n) { return QString::number(n + 1); };
  switch (hold_.grip) {
    case Grip::Scrub: {
      const auto frame =
          static_cast<std::int64_t>(std::floor(view_.timeAt(point.x()) * state_.piece.rate.toDouble() + 0.5));
      if (state_.follows) emit scrubbed(std::clamp<std::int64_t>(frame, 0, state_.piece.length - 1));
      return;
    }
    case Grip::Mark: {
      // By how far the hand has gone: a glide leads past its mark, and the circle stands on the glide.
      const PaceCurve was = before_.curve();
      if (along_ == Along::Output || up_ == ChartUp::Speed) {
        const double t = was.beginOf(i + 1).toDouble() + view_.timeAt(point.x()) - view_.timeAt(pressed_.x());
        const PaceSetting after = slideMark(before_, i, Along::Output, Rational::near(free ? t : snappedTime(t, i)));
        return change(after, tr("Mark %1 at %2").arg(number(i), secondsShown(after.curve().beginOf(i + 1))),
                      "mark" + number(i));
      }
      const double s = was.sourceAt(i + 1).toDouble() + view_.sourceAt(point.y()) - view_.sourceAt(pressed_.y());
      const PaceSetting after = slideMark(before_, i, Along::Footage, Rational::near(free ? s : snappedSource(s)));
      return change(after, tr("Mark %1 on source %2").arg(number(i), secondsShown(after.curve().sourceAt(i + 1))),
                    "mark" + number(i));
    }
    case Grip::GlideBegin:
    case Grip::GlideEnd: {
      const double mark = before_.curve().beginOf(i + 1).toDouble();
      const double bend = before_.spans[i].bend.toDouble() / 10;
      const double aside = (hold_.grip == Grip::GlideEnd ? 1 : -1) * (view_.timeAt(point.x()) - mark);
      // From where the hand took hold.
      const double grip =
          std::abs(view_.timeAt(pressed_.x()) - mark) -
          before_.curve().glideAfter(i).length.toDouble() * (0.5 + (hold_.grip == Grip::GlideEnd ? bend : -bend));
      const double length = std::max(0.0, aside - grip) / (0.5 + (hold_.grip == Grip::GlideEnd ? bend : -bend));
      const double step = free ? 0.001 : 0.02;
      const PaceSetting after = setGlide(before_, i, Rational::near(std::round(length / step) * step));
      return change(after, tr("Glide %1 of %2").arg(number(i), secondsShown(after.spans[i].glide)),
                    "glide" + number(i));
    }
    case Grip::Bend: {
      const double bend = before_.spans[i].bend.toDouble() - (point.x() - pressed_.x()) / 30;
      const PaceSetting after = setBend(before_, i, Rational(std::lround(std::clamp(bend, -1.0, 1.0) * 20), 20));
      return change(after,
                    tr("Glide %1 bent by %2").arg(number(i), QString::fromStdString(speedText(after.spans[i].bend))),
                    "bend" + number(i));
    }
    case Grip::Span:
      return dragSpan(point, free);
    case Grip::Slip: {
      const double by = view_.sourceAt(pressed_.y()) - view_.sourceAt(point.y());
      const PaceSetting after = slip(before_, Rational::near(free ? by : snappedSource(by)));
      return change(after, tr("Slip by %1").arg(secondsShown(after.from - before_.from)), "slip");
    }
    case Grip::LineUp: {
      const Rational t = Rational(state_.frame) / state_.piece.rate;
      const double s = view_.sourceAt(point.y());
      const PaceSetting after = lineUp(before_, Rational::near(free ? s : snappedSource(s)), t);
      return change(after,
                    tr("Source %1 lined up at %2")
                        .arg(secondsShown(Rational::near(free ? s : snappedSource(s))), secondsShown(t)),
                    "slip");
    }
    case Grip::Pan: {
      fitted_ = false;
      view_ = viewBefore_;
      const double along = viewBefore_.timeAt(pressed_.x()) - viewBefore_.timeAt(point.x()),
                   up = viewBefore_.sourceAt(pressed_.y()) - viewBefore_.sourceAt(point.y());
      view_.left += along, view_.right += along, view_.bottom += up, view_.top += up;
      redraw();
      return wantPictures();
    }
    default:
      return;
  }
}

/// With speed upward the line follows the hand. With source upward a slope would do so far too coarsely: there each
/// pixel is a percent, and more of them from a thumb's width on.
void ChartPlot::dragSpan(const QPointF& point, bool free) {
  const std::size_t i = hold_.index;
  double more = view_.sourceAt(point.y()) - view_.sourceAt(pressed_.y());
  if (up_ == ChartUp::Source) {
    constexpr double even = 60, growth = 20;
    const double pixels = pressed_.y() - point.y(), far = std::max(0.0, std::abs(pixels) - even);
    more = std::copysign(std::abs(pixels) + far * far / growth, pixels);
  }
  const double speed = before_.spans[i].speed.toDouble() + more / 100;
  Rational to(std::lround(std::clamp(speed, -100.0, 100.0) * 1000), 1000);
  if (!free) to = snappedSpeed(to, state_.pace->clean, Rational(2, 100));
  const PaceSetting after = setSpeed(before_, i, to, keeping_);
  change(after, tr("Span %1 at %2").arg(i + 1).arg(QString::fromStdString(speedText(after.spans[i].speed))),
         "span" + QString::number(i));
}

void ChartPlot::mouseReleaseEvent(QMouseEvent* event) {
  const bool held = hold_.grip != Grip::None && hold_.grip != Grip::Scrub && hold_.grip != Grip::Pan;
  hold_ = {};
  saying_.clear();
  emit said({});
  if (held) emit gestureEnded();
  if (fitted_) fit();
  hover_ = holdAt(event->position());
  redraw();
}

void ChartPlot::mouseDoubleClickEvent(QMouseEvent* event) {
  if (event->button() == Qt::LeftButton) typeFor(holdAt(event->position()));
}

/// The number of whatever is there, to be typed.
void ChartPlot::typeFor(const Hold& hold) {
  hold_ = {};
  if (!state_.pace) return;
  if (hold.grip == Grip::Span)
    selectSpan(hold.index);
  else if (hold.grip != Grip::LineUp && hold.grip != Grip::Scrub && hold.grip != Grip::Slip)
    selectMark(hold.index);
  const PaceSetting& pace = state_.pace->setting;
  const std::size_t i = hold.index;
  const Rational rate = state_.piece.rate;
  const auto seconds = [rate](const QString& text) { return parseSeconds(text.trimmed().toStdString(), rate); };
  switch (hold.grip) {
    case Grip::Span:
      return prompt(keeping_ == Keeping::Footage ? tr("Speed, keeping its footage") : tr("Speed, keeping its length"),
                    QString::fromStdString(rationalText(pace.spans[i].speed * 100)) + "%", tr("Span %1 at").arg(i + 1),
                    [=, this](const QString& text) -> std::optional<PaceSetting> {
                      QString plain = text;
                      const auto speed = parseSpeed(plain.remove(' ').replace(QChar(0x2212), '-').toStdString());
                      return speed ? std::optional(setSpeed(pace, i, *speed, keeping_)) : std::nullopt;
                    });
    case Grip::Mark:
      return prompt(tr("Mark %1 at").arg(i + 1),
                    QString::fromStdString(rationalText(pace.curve().beginOf(i + 1))) + "s",
                    tr("Mark %1 at").arg(i + 1), [=](const QString& text) -> std::optional<PaceSetting> {
                      const auto t = seconds(text);
                      return t ? std::optional(slideMark(pace, i, Along::Output, *t)) : std::nullopt;
                    });
    case Grip::GlideBegin:
    case Grip::GlideEnd:
      return prompt(tr("Glide of"), QString::fromStdString(rationalText(pace.spans[i].glide)) + "s",
                    tr("Glide %1 of").arg(i + 1), [=](const QString& text) -> std::optional<PaceSetting> {
                      const auto length = seconds(text);
                      return length && *length >= Rational(0) ? std::optional(setGlide(pace, i, *length))
                                                              : std::nullopt;
                    });
    case Grip::Bend:
      return prompt(tr("Bent by"), QString::fromStdString(rationalText(pace.spans[i].bend * 100)) + "%",
                    tr("Glide %1 bent by").arg(i + 1), [=](const QString& text) -> std::optional<PaceSetting> {
                      const auto bend = parseSpeed(text.trimmed().toStdString());
                      return bend && *bend >= Rational(-1) && *bend <= Rational(1)
                                 ? std::optional(setBend(pace, i, *bend))
                                 : std::nullopt;
                    });
    case Grip::LineUp:
      return emit lineUpRequested();
    default:
      return;
  }
}

void ChartPlot::prompt(const QString& question, const QString& text, const QString& name, TypedEdit edit) {
  if (!state_.pace) return;
  delete prompt_;
  before_ = state_.pace->setting;
  prompt_ = new ChartPrompt(
      question, text,
      [this, edit](const QString& typed) -> std::optional<QString> {
        const auto after = edit(typed);
        return after ? std::optional(effect(*after)) : std::nullopt;
      },
      this);
  QPointF at(view_.area.center().x() - 120, view_.area.top() + 10);
  if (mark_) at = markPoint(*mark_) + QPointF(14, 10);
  if (span_) at = spanPoint(*span_) + QPointF(14, 10);
  at.setX(std::clamp(at.x(), 4.0, std::max(4.0, width() - prompt_->sizeHint().width() - 4.0)));
  at.setY(std::clamp(at.y(), 4.0, std::max(4.0, height() - prompt_->sizeHint().height() - 4.0)));
  prompt_->move(at.toPoint());
  const auto close = [this] {
    prompt_->hide();
    prompt_->deleteLater();
    prompt_ = nullptr;
    setFocus();
  };
  connect(prompt_, &ChartPrompt::dismissed, this, close);
  connect(prompt_, &ChartPrompt::answered, this, [this, close, edit, name](const QString& typed) {
    const auto after = edit(typed);
    close();
    if (!after) return;
    emit paceChanged(*after, name + " " + typed.trimmed(), {});
    emit gestureEnded();
  });
  prompt_->show();
  prompt_->field()->setFocus();
}

void ChartPlot::wheelEvent(QWheelEvent* event) {
  if (!state_.footage) return;
  fitted_ = false;
  const double turns = (event->angleDelta().y() + event->angleDelta().x()) / 120.0, by = std::pow(1.25, turns);
  if (event->modifiers() & Qt::ShiftModifier) {
    const double move = -turns * 0.15 * (view_.right - view_.left);
    view_.left += move, view_.right += move;
  } else if (event->modifiers() & Qt::ControlModifier || gutter().contains(event->position())) {
    const double least = up_ == ChartUp::Source ? mostZoom : 1;
    if (by < 1 || view_.top - view_.bottom > least) view_.zoomUp(by, view_.sourceAt(event->position().y()));
  } else if (by < 1 || view_.right - view_.left > mostZoom) {
    view_.zoomAcross(by, view_.timeAt(event->position().x()));
  }
  event->accept();
  redraw();
  wantPictures();
}

void ChartPlot::keyPressEvent(QKeyEvent* event) {
  if (!state_.pace) return QWidget::keyPressEvent(event);
  const PaceSetting& pace = state_.pace->setting;
  before_ = pace;
  const int steps = event->modifiers() & Qt::ShiftModifier ? 1 : 5;
  const auto done = [this] {
    saying_.clear();
    emit gestureEnded();
  };
  if ((event->key() == Qt::Key_Up || event->key() == Qt::Key_Down) && span_) {
    const Rational by(event->key() == Qt::Key_Up ? steps : -steps, 100);
    const PaceSetting after = setSpeed(pace, *span_, pace.spans[*span_].speed + by, keeping_);
    change(after, tr("Span %1 at %2").arg(*span_ + 1).arg(QString::fromStdString(speedText(after.spans[*span_].speed))),
           "span" + QString::number(*span_));
    return done();
  }
  if ((event->key() == Qt::Key_BracketLeft || event->key() == Qt::Key_BracketRight) && mark_) {
    const Rational by(event->key() == Qt::Key_BracketRight ? 1 : -1, 10);
    const PaceSetting after = setGlide(pace, *mark_, pace.spans[*mark_].glide + by);
    change(after, tr("Glide %1 of %2").arg(*mark_ + 1).arg(secondsShown(after.spans[*mark_].glide)),
           "glide" + QString::number(*mark_));
    return done();
  }
  if (event->key() == Qt::Key_Return && (span_ || mark_))
    return typeFor(span_ ? Hold{Grip::Span, *span_} : Hold{Grip::Mark, *mark_});
  if ((event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) && mark_) {
    const PaceSetting after = removeMark(pace, *mark_);
    emit paceChanged(after, tr("Remove mark %1").arg(*mark_ + 1), {});
    return done();
  }
  if (event->key() == Qt::Key_Delete && span_) {
    const PaceSetting after = removeSpan(pace, *span_);
    emit paceChanged(after, tr("Remove span %1").arg(*span_ + 1), {});
    return done();
  }
  QWidget::keyPressEvent(event);
}

bool ChartPlot::event(QEvent* event) {
  // With a mark or a span in hand, Delete is about that, not about the stage.
  if (event->type() == QEvent::ShortcutOverride && (mark_ || span_) &&
      static_cast<QKeyEvent*>(event)->key() == Qt::Key_Delete) {
    event->accept();
    return true;
  }
  if (event->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(event);
    QString words;
    switch (holdAt(help->pos()).grip) {
      case Grip::Mark:
        words = tr("Drag to slide the mark; double-click to type its moment; Delete joins the spans");
        break;
      case Grip::GlideBegin:
      case Grip::GlideEnd:
        words = tr("Drag to make the glide wider; [ and ] do the same");
        break;
      case Grip::Bend:
        words = tr("Drag to let the speed change earlier or later within the glide");
        break;
      case Grip::Span:
        words = tr("Drag up or down for the speed (Ctrl: freely); ↑ ↓ by 5 %, with Shift 1 %; double-click to type it");
        break;
      case Grip::Slip:
        words = tr("Drag to slip the footage under the marks; the wheel zooms the source");
        break;
      case Grip::LineUp:
        words = tr("Drag to line up another source frame with the playhead");
        break;
      case Grip::Scrub:
        words = tr("Drag to scrub; wheel zooms, with Ctrl the source, with Shift it moves along");
        break;
      default:
        break;
    }
    QToolTip::showText(help->globalPos(), words, this);
    return true;
  }
  return QWidget::event(event);
}

void ChartPlot::contextMenuEvent(QContextMenuEvent* event) {
  emit menuRequested(event->globalPos());
}

void ChartPlot::leaveEvent(QEvent*) {
  if (hover_.grip == Grip::None) return;
  hover_ = {};
  redraw();
}

}  // namespace molten

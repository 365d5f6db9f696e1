#include "app/chart/chart_plot.h"

#include <QContextMenuEvent>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <QWheelEvent>
#include <cmath>

#include "app/chart/chart_prompt.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr double mostZoom = 0.02;  ///< seconds in sight, at least
constexpr double tremble = 3;      ///< screen pixels: less is a click

}  // namespace

ChartPlot::ChartPlot(QWidget* parent) : QWidget(parent) {
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  setMinimumHeight(48);
  theme::setSpoken(*this, QAccessible::Chart, tr("Time Chart"));
}

// ---- what is shown

void ChartPlot::fit() {
  fitted_ = true;
  sight_.setSize(size());
  sight_.fit();
  redraw();
  wantPictures();
}

void ChartPlot::redraw() {
  stale_ = true;
  update();
  emit viewChanged();
}

void ChartPlot::wantPictures() {
  if (!sight_.drawable() || sight_.up != ChartUp::Source || !sight_.state.ofFootage) return;
  std::vector<std::int32_t> frames;
  for (const auto& row : sight_.pictureRows()) frames.push_back(row.frame);
  emit picturesWanted(frames);
}

void ChartPlot::setState(const ChartState& state) {
  const ChartState& shown = sight_.state;
  const bool other = !shown.reads || !state.reads || state.footage != shown.footage ||
                     state.reads->source().length != shown.reads->source().length;
  const bool longer = state.piece.seconds() != shown.piece.seconds();
  sight_.state = state;
  const std::size_t spans = state.pace ? state.pace->setting.spans.size() : 0;
  if (sight_.span && *sight_.span >= spans) sight_.span.reset();
  if (sight_.mark && *sight_.mark + 1 >= spans) sight_.mark.reset();
  // While a hand holds something, the ground stays still under it.
  const bool follows = fitted_ && hand_.held().grip == ChartGrip::None;
  if (other || (follows && (longer || sight_.up == ChartUp::Speed))) fit();
  redraw();
  wantPictures();
}

void ChartPlot::setFrame(std::int64_t frame) {
  if (frame == sight_.state.frame) return;
  sight_.state.frame = frame;
  theme::tellState(*this);
  // What is farther on comes into sight while it plays.
  ChartView& view = sight_.view;
  const double t = static_cast<double>(frame) / sight_.state.piece.rate.toDouble();
  if (!fitted_ && hand_.held().grip == ChartGrip::None && (t < view.left || t > view.right)) {
    const double width = view.right - view.left;
    view.left = std::max(0.0, t - width * 0.1);
    view.right = view.left + width;
    stale_ = true;
  }
  update();
}

void ChartPlot::setRing(std::optional<double> seconds) {
  if (seconds == sight_.ring) return;
  sight_.ring = seconds;
  update();
}

void ChartPlot::setPictures(const SmallPictures* pictures) {
  drawing_.setPictures(pictures);
  redraw();
}

void ChartPlot::setUp(ChartUp up) {
  sight_.up = up;
  fit();
}

void ChartPlot::resizeEvent(QResizeEvent*) {
  if (fitted_)
    fit();
  else
    sight_.setSize(size());
  redraw();
  wantPictures();
}

void ChartPlot::selectSpan(std::optional<std::size_t> span) {
  sight_.select(span, std::nullopt);
  theme::tellState(*this);
  emit selectionChanged();
  redraw();
}

void ChartPlot::selectMark(std::optional<std::size_t> mark) {
  sight_.select(std::nullopt, mark);
  theme::tellState(*this);
  emit selectionChanged();
  redraw();
}

void ChartPlot::paintEvent(QPaintEvent*) {
  const double ratio = devicePixelRatioF();
  if (drawn_.size() != size() * ratio) {
    drawn_ = QPixmap(size() * ratio);
    drawn_.setDevicePixelRatio(ratio);
    stale_ = true;
  }
  if (stale_) {
    QPainter painter(&drawn_);
    drawing_.draw(painter, rect());
    stale_ = false;
  }
  QPainter painter(this);
  painter.drawPixmap(0, 0, drawn_);
  if (sight_.drawable()) drawing_.drawPlayhead(painter);
  if (!saying_.isEmpty()) ChartDrawing::drawSaying(painter, saying_, sayingAt_, rect());
  if (hasFocus()) theme::frameFocus(painter, rect());
}

// ---- hands

ChartHold ChartPlot::holdAt(const QPointF& point) const {
  if (sight_.drawable() && drawing_.remedy().adjusted(-3, -2, 3, 2).contains(point)) return {ChartGrip::Remedy, 0};
  return hand_.at(point);
}

void ChartPlot::select(const ChartHold& hold) {
  if (hold.grip == ChartGrip::Span) selectSpan(hold.index);
  if (hold.grip == ChartGrip::Mark) selectMark(hold.index);
}

void ChartPlot::setHover(const ChartHold& hold) {
  hover_ = hold;
  drawing_.setHover(hold);
  redraw();
}

void ChartPlot::change(const PaceEdit& edit) {
  saying_ = edit.name + " · " + hand_.effect(edit.pace);
  emit said(saying_);
  emit paceChanged(edit.pace, edit.name, edit.mergeKey);
  update();
}

void ChartPlot::mousePressEvent(QMouseEvent* event) {
  const QPointF point = sayingAt_ = event->position();
  viewAtPress_ = sight_.view;
  const ChartHold hold = holdAt(point);
  const bool shiftedGround =
      event->button() == Qt::LeftButton && event->modifiers() & Qt::ShiftModifier && hold.grip == ChartGrip::Scrub;
  if (event->button() == Qt::MiddleButton || shiftedGround) return hand_.take({ChartGrip::Pan, 0}, point);
  if (event->button() == Qt::RightButton) return select(hold);
  if (event->button() != Qt::LeftButton) return;
  hand_.take(hold, point);
  select(hold);
  if (hold.grip == ChartGrip::Scrub) drag(point, event->modifiers());
  if (hold.grip == ChartGrip::Remedy) emit remedyChosen();
}

void ChartPlot::mouseMoveEvent(QMouseEvent* event) {
  const QPointF point = event->position();
  const ChartGrip held = hand_.held().grip;
  if (held == ChartGrip::None) {
    const ChartHold over = holdAt(point);
    if (over == hover_) return;
    setHover(over);
    setCursor(hand_.cursorOver(over.grip));
    return;
  }
  sayingAt_ = point;
  const QPointF way = point - hand_.pressed();
  const bool asksForMore = held != ChartGrip::Scrub && held != ChartGrip::Pan && saying_.isEmpty();
  if (asksForMore && std::hypot(way.x(), way.y()) < tremble) return;
  drag(point, event->modifiers());
}

void ChartPlot::drag(const QPointF& point, Qt::KeyboardModifiers keys) {
  switch (hand_.held().grip) {
    case ChartGrip::Scrub: {
      const Piece& piece = sight_.state.piece;
      const auto frame =
          static_cast<std::int64_t>(std::floor(sight_.view.timeAt(point.x()) * piece.rate.toDouble() + 0.5));
      if (sight_.state.follows) emit scrubbed(std::clamp<std::int64_t>(frame, 0, piece.length - 1));
      return;
    }
    case ChartGrip::Pan:
      return pan(point);
    default:
      if (const auto edit = hand_.dragged(point, keys & Qt::ControlModifier)) change(*edit);
  }
}

void ChartPlot::pan(const QPointF& point) {
  fitted_ = false;
  ChartView& view = sight_.view = viewAtPress_;
  const double along = view.timeAt(hand_.pressed().x()) - view.timeAt(point.x()),
               up = view.sourceAt(hand_.pressed().y()) - view.sourceAt(point.y());
  view.left += along, view.right += along, view.bottom += up, view.top += up;
  redraw();
  wantPictures();
}

void ChartPlot::mouseReleaseEvent(QMouseEvent* event) {
  const ChartGrip held = hand_.held().grip;
  hand_.letGo();
  saying_.clear();
  emit said({});
  if (held != ChartGrip::None && held != ChartGrip::Scrub && held != ChartGrip::Pan) emit gestureEnded();
  // What was dragged out of sight is brought back into it.
  if (fitted_ || !sight_.showsSelected()) fit();
  setHover(holdAt(event->position()));
}

void ChartPlot::mouseDoubleClickEvent(QMouseEvent* event) {
  if (event->button() == Qt::LeftButton) typeFor(holdAt(event->position()));
}

void ChartPlot::wheelEvent(QWheelEvent* event) {
  if (!sight_.state.footage) return;
  fitted_ = false;
  ChartView& view = sight_.view;
  const double turns = (event->angleDelta().y() + event->angleDelta().x()) / 120.0, by = std::pow(1.25, turns);
  if (event->modifiers() & Qt::ShiftModifier) {
    const double move = -turns * 0.15 * (view.right - view.left);
    view.left += move, view.right += move;
  } else if (event->modifiers() & Qt::ControlModifier || sight_.gutter().contains(event->position())) {
    const double least = sight_.up == ChartUp::Source ? mostZoom : 1;
    if (by < 1 || view.top - view.bottom > least) view.zoomUp(by, view.sourceAt(event->position().y()));
  } else if (by < 1 || view.right - view.left > mostZoom) {
    view.zoomAcross(by, view.timeAt(event->position().x()));
  }
  event->accept();
  redraw();
  wantPictures();
}

void ChartPlot::keyPressEvent(QKeyEvent* event) {
  if (const auto edit = hand_.keyed(event->key(), event->modifiers() & Qt::ShiftModifier)) {
    change(*edit);
    saying_.clear();
    emit gestureEnded();
  } else if (event->key() == Qt::Key_Return && (sight_.span || sight_.mark)) {
    typeFor(sight_.span ? ChartHold{ChartGrip::Span, *sight_.span} : ChartHold{ChartGrip::Mark, *sight_.mark});
  } else {
    QWidget::keyPressEvent(event);
  }
}

bool ChartPlot::event(QEvent* event) {
  // With a mark or a span in hand, Delete is about that, not about the stage.
  if (event->type() == QEvent::ShortcutOverride && (sight_.mark || sight_.span) &&
      static_cast<QKeyEvent*>(event)->key() == Qt::Key_Delete) {
    event->accept();
    return true;
  }
  if (event->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(event);
    QToolTip::showText(help->globalPos(), ChartHand::helpFor(holdAt(help->pos()).grip), this);
    return true;
  }
  return QWidget::event(event);
}

void ChartPlot::contextMenuEvent(QContextMenuEvent* event) {
  emit menuRequested(event->globalPos());
}

void ChartPlot::leaveEvent(QEvent*) {
  if (hover_.grip != ChartGrip::None) setHover({});
}

// ---- numbers that are typed

/// Of whatever is there.
void ChartPlot::typeFor(const ChartHold& hold) {
  hand_.letGo();
  if (!sight_.state.pace) return;
  const PaceSetting& pace = sight_.state.pace->setting;
  const Rational rate = sight_.state.piece.rate;
  switch (hold.grip) {
    case ChartGrip::Span:
      selectSpan(hold.index);
      return prompt(typedSpeed(pace, hold.index, hand_.keeping()));
    case ChartGrip::Mark:
      selectMark(hold.index);
      return prompt(typedMark(pace, hold.index, rate));
    case ChartGrip::GlideBegin:
    case ChartGrip::GlideEnd:
      return prompt(typedGlide(pace, hold.index, rate));
    case ChartGrip::Bend:
      return prompt(typedBend(pace, hold.index));
    case ChartGrip::LineUp:
      return emit lineUpRequested();
    default:
      return;
  }
}

void ChartPlot::prompt(const TypedPace& number) {
  if (!sight_.state.pace) return;
  delete prompt_;
  hand_.take({}, {});
  prompt_ = new ChartPrompt(
      number.question, number.text, number.wanted,
      [this, edit = number.edit, understood = number.understood](const QString& typed) -> std::optional<QString> {
        const auto after = edit(typed);
        if (!after) return std::nullopt;
        return (understood ? understood(typed) + " · " : QString()) + hand_.effect(*after);
      },
      this);
  QPointF at(sight_.view.area.center().x() - 120, sight_.view.area.top() + 10);
  if (sight_.mark) at = sight_.markPoint(*sight_.mark) + QPointF(14, 10);
  if (sight_.span) at = sight_.spanPoint(*sight_.span) + QPointF(14, 10);
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
  connect(prompt_, &ChartPrompt::answered, this,
          [this, close, edit = number.edit, name = number.name](const QString& typed) {
            const auto after = edit(typed);
            close();
            if (!after) return;
            emit paceChanged(*after, name + " " + typed.trimmed(), {});
            emit gestureEnded();
          });
  prompt_->show();
  prompt_->field()->setFocus();
}

}  // namespace molten

#include "app/dials/spans_editor.h"

#include <QButtonGroup>
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollBar>
#include <QVBoxLayout>
#include <QWheelEvent>
#include <algorithm>

#include "app/chart/typed_pace.h"
#include "app/dials/dial_kinds.h"
#include "app/theme/parts.h"
#include "app/theme/theme.h"
#include "core/stages/parameter.h"
#include "core/time/pace_text.h"

namespace molten {

using theme::shown;
namespace {

const char* const columnIds[] = {"from", "lasts", "speed", "glide"};

/// In seconds, with a blank before the unit, in as many decimals as there is need of.
QString secondsShown(Rational seconds) {
  return QString::number(seconds.toDouble(), 'f', 3).replace('-', QChar(0x2212)) + " s";
}

QString sideWords(GlideSide side) {
  return side == GlideSide::Before ? SpansEditor::tr("before")
         : side == GlideSide::After ? SpansEditor::tr("after")
                                    : SpansEditor::tr("around");
}

}  // namespace

SpansEditor::SpansEditor(QWidget* parent) : QWidget(parent) {
  auto* mark = new QPushButton(tr("+ mark at the playhead   M"));
  mark->setObjectName("chartMark");
  mark->setFocusPolicy(Qt::TabFocus);
  mark->setToolTip(tr("Splits the span there, so that both sides can have a speed of their own"));
  connect(mark, &QPushButton::clicked, this, &SpansEditor::markWanted);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(6);
  column->addWidget(table());
  column->addWidget(rowOf({mark, nullptr}));
  column->addWidget(how(tr("A change of speed keeps"), "speedKeeps", tr("the footage"), tr("the length"), keeps_));
  column->addWidget(how(tr("Marks slide along"), "marksSlide", tr("the output"), tr("the footage"), slides_));
  keeps_[0]->setToolTip(tr("A changed speed keeps the span's footage: its length changes, what follows moves"));
  keeps_[1]->setToolTip(tr("A changed speed keeps the span's length: it shows other footage"));
  slides_[0]->setToolTip(tr("A mark slides to another moment; later marks stay on their moments"));
  slides_[1]->setToolTip(tr("A mark slides to another frame; later marks stay on their footage"));
}

QWidget* SpansEditor::table() {
  auto* table = new QWidget;
  auto* grid = new QGridLayout(table);
  grid->setContentsMargins(0, 0, 0, 0);
  grid->setHorizontalSpacing(0);
  grid->setVerticalSpacing(0);
  const QString heads[] = {tr("from"), tr("lasts"), tr("speed"), tr("glide in")};
  const QString helps[] = {tr("The source's moment at the span's beginning"), tr("How long it lasts in the output"),
                           tr("100 % as filmed, 0 % a freeze, below 0 backwards"),
                           tr("How long the speed takes to become this one, and on which side of the mark: 0.5s, "
                              "0.5s before, 0.5s after")};
  for (int c = 0; c < columns; ++c) {
    helps_[c] = helps[c];
    heads_[c] = heads[c];
    auto* head = theme::note(heads[c]);
    head->setFont(theme::words(11));
    head->setContentsMargins(6, 0, 0, 0);
    head->setToolTip(helps[c]);
    grid->addWidget(head, 0, c + 1);
    grid->setColumnStretch(c + 1, c == Glide ? 5 : 4);
  }
  bar_ = new QScrollBar(Qt::Vertical);
  bar_->setPageStep(rows);
  connect(bar_, &QScrollBar::valueChanged, this, [this](int first) {
    first_ = static_cast<std::size_t>(first);
    showRows();
  });
  for (int r = 0; r < rows; ++r) {
    numbers_[r] = theme::note();
    numbers_[r]->setFont(theme::words(11));
    numbers_[r]->setFixedWidth(18);
    grid->addWidget(numbers_[r], r + 1, 0);
    for (int c = 0; c < columns; ++c) grid->addWidget(cells_[r][c] = makeCell(r, c), r + 1, c + 1);
  }
  grid->addWidget(bar_, 1, columns + 1, rows, 1);
  // As high as it ever is.
  for (int r = 0; r < rows; ++r) grid->setRowMinimumHeight(r + 1, cells_[r][0]->sizeHint().height());
  return table;
}

ValueField* SpansEditor::makeCell(int row, int column) {
  auto* cell = new ValueField([this, row, column](const QString& typed) -> Taken {
    const QString refused = take(spanOf(row), column, typed);
    return {refused.isEmpty(), refused};
  });
  cell->setObjectName(QString("span %1 %2").arg(row).arg(columnIds[column]));
  cell->setProperty("cell", true);
  cell->setMinimumWidth(30);
  cell->setToolTip(helps_[column]);
  cell->installEventFilter(this);
  connect(cell, &ValueField::stepped, this,
          [this, row, column](int steps) { step(spanOf(row), column, steps); });
  return cell;
}

/// A question and its two answers.
QWidget* SpansEditor::how(const QString& words, const char* name, const QString& first, const QString& second,
                          QPushButton* (&buttons)[2]) {
  auto* label = theme::note(words);
  label->setWordWrap(false);
  label->setFont(theme::words(11));
  auto* row = rowOf({label, nullptr});
  auto* group = new QButtonGroup(this);
  const QString answers[] = {first, second};
  for (int i = 0; i < 2; ++i) {
    buttons[i] = new QPushButton(answers[i]);
    buttons[i]->setCheckable(true);
    buttons[i]->setProperty("segment", true);
    buttons[i]->setFocusPolicy(Qt::TabFocus);
    buttons[i]->setObjectName(QString("%1=%2").arg(name, answers[i].section(' ', -1)));
    buttons[i]->setFixedWidth(82);
    group->addButton(buttons[i]);
    row->layout()->addWidget(buttons[i]);
    connect(buttons[i], &QPushButton::clicked, this, [this] {
      emit howChosen(keeps_[1]->isChecked() ? Keeping::Length : Keeping::Footage,
                     slides_[1]->isChecked() ? Along::Footage : Along::Output);
    });
  }
  return row;
}

// ---- what is shown

void SpansEditor::setPace(const PaceSetting& pace, Rational rate) {
  pace_ = pace;
  rate_ = rate;
  const auto count = static_cast<int>(pace.spans.size());
  bar_->setRange(0, std::max(0, count - rows));
  bar_->setVisible(count > rows);
  first_ = static_cast<std::size_t>(bar_->value());
  showRows();
}

void SpansEditor::setHow(Keeping keeping, Along along) {
  keeping_ = keeping, along_ = along;
  keeps_[keeping == Keeping::Length]->setChecked(true);
  slides_[along == Along::Footage]->setChecked(true);
}

void SpansEditor::setSelected(std::optional<std::size_t> span) {
  if (span == selected_) return;
  selected_ = span;
  if (span && (*span < first_ || *span >= first_ + rows)) bar_->setValue(static_cast<int>(*span));
  showRows();
}

void SpansEditor::showRows() {
  for (int r = 0; r < rows; ++r) {
    const std::size_t span = spanOf(r);
    const bool there = span < pace_.spans.size(), chosen = there && span == selected_;
    numbers_[r]->setText(there ? QString::number(span + 1) : QString());
    for (int c = 0; c < columns; ++c) {
      cells_[r][c]->setVisible(there);
      if (!there) continue;
      cells_[r][c]->setValueText(text(span, c));
      cells_[r][c]->setAccessibleName(tr("Span %1, %2").arg(span + 1).arg(heads_[c]));
      cells_[r][c]->setEnabled(c != Glide || span > 0);
      if (cells_[r][c]->property("chosen").toBool() == chosen) continue;
      cells_[r][c]->setProperty("chosen", chosen);
      cells_[r][c]->setStyleSheet(chosen ? QString("background: %1").arg(theme::line.name()) : QString());
    }
  }
}

QString SpansEditor::text(std::size_t span, int column) const {
  const PaceSpan& one = pace_.spans[span];
  if (column == From) return secondsShown(pace_.curve().sourceAt(span));
  if (column == Lasts) return secondsShown(one.length);
  if (column == Speed) return shown(speedText(one.speed));
  if (span == 0) return "—";
  const PaceSpan& before = pace_.spans[span - 1];
  if (before.glide == Rational(0)) return tr("none");
  return QString("%1 s %2").arg(before.glide.toDouble(), 0, 'g', 4).arg(sideWords(before.side));
}

// ---- what is typed

void SpansEditor::change(const PaceSetting& after, const QString& name, const QString& mergeKey) {
  if (!(after == pace_)) emit paceChanged(after, name, mergeKey);
}

QString SpansEditor::take(std::size_t span, int column, const QString& typed) {
  if (span >= pace_.spans.size()) return {};
  if (column == From) return takeFrom(span, typed);
  if (column == Glide) return takeGlide(span, typed);
  const TypedPace number =
      column == Speed ? typedSpeed(pace_, span, keeping_)
                      : typedLength({}, pace_.spans[span].length, tr("Span %1 lasts").arg(span + 1), rate_,
                                    [this, span](Rational length) { return setLength(pace_, span, length); });
  const auto after = number.edit(typed);
  if (!after) return number.wanted;
  change(*after, number.name + " " + typed.trimmed());
  return {};
}

/// Of the first span: where the source begins. Of another one: the mark before it comes to stand on that frame.
QString SpansEditor::takeFrom(std::size_t span, const QString& typed) {
  const auto seconds = typedSeconds(typed, rate_);
  if (!seconds) return tr("A moment of the source: 1.5s, 36f or 1/12s.");
  PaceSetting after = pace_;
  if (span == 0) {
    after.from = *seconds;
  } else {
    after = slideMark(pace_, span - 1, Along::Footage, *seconds);
    if (after == pace_ && !(pace_.curve().sourceAt(span) == *seconds))
      return tr("The span before stands still: it never comes to that moment.");
  }
  change(after, tr("Span %1 from %2").arg(span + 1).arg(typed.trimmed()));
  return {};
}

QString SpansEditor::takeGlide(std::size_t span, const QString& typed) {
  if (span == 0) return {};
  QString words = typed.trimmed().toLower();
  std::optional<GlideSide> side;
  for (const GlideSide one : {GlideSide::Before, GlideSide::Around, GlideSide::After})
    if (words.endsWith(sideWords(one))) side = one, words.chop(sideWords(one).size());
  if (words.trimmed() == tr("none") || words.trimmed() == "—") words = "0";
  // The side alone is enough, too.
  const auto length = side && words.trimmed().isEmpty() ? std::optional(pace_.spans[span - 1].glide)
                                                        : typedSeconds(words, rate_);
  if (!length || *length < Rational(0)) return tr("A length and a side: 0.5s, 0.5s before, 12f after; or none.");
  PaceSetting after = setGlide(pace_, span - 1, *length);
  if (side) after = setGlideSide(after, span - 1, *side);
  change(after, tr("Glide %1 of %2").arg(span).arg(typed.trimmed()));
  return {};
}

void SpansEditor::step(std::size_t span, int column, int steps) {
  if (span >= pace_.spans.size()) return;
  const PaceSpan& one = pace_.spans[span];
  const Rational tenth(steps, 10);
  const auto above = [](Rational value, Rational least) { return std::max(value, least); };
  if (column == Speed)
    change(setSpeed(pace_, span, one.speed + Rational(steps, 20), keeping_), tr("Span %1: speed").arg(span + 1),
           "table speed");
  else if (column == Lasts)
    change(setLength(pace_, span, above(one.length + tenth, Rational(1, 10))), tr("Span %1: length").arg(span + 1),
           "table length");
  else if (column == Glide && span > 0)
    change(setGlide(pace_, span - 1, above(pace_.spans[span - 1].glide + tenth, 0)), tr("Glide %1: length").arg(span),
           "table glide");
  else if (column == From && span == 0)
    change({pace_.from + tenth, pace_.spans}, tr("Source begins elsewhere"), "table from");
}

void SpansEditor::wheelEvent(QWheelEvent* event) {
  if (!bar_->isVisible()) return event->ignore();
  bar_->setValue(bar_->value() - (event->angleDelta().y() > 0 ? 1 : -1));
  event->accept();
}

bool SpansEditor::eventFilter(QObject* object, QEvent* event) {
  if (event->type() == QEvent::FocusIn)
    for (int r = 0; r < rows; ++r)
      for (ValueField* const cell : cells_[r])
        if (cell == object) emit spanChosen(spanOf(r));
  return false;
}

}  // namespace molten

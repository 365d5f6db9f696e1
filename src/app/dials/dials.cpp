#include "app/dials/dials.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QSettings>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>

#include "app/dials/brightness_gauge.h"
#include "app/dials/dial_card.h"
#include "app/dials/movement_button.h"
#include "app/dials/movement_panel.h"
#include "app/dials/order_editor.h"
#include "app/dials/paint_dials.h"
#include "app/dials/spans_editor.h"
#include "app/theme/parts.h"
#include "app/theme/theme.h"
#include "core/stages/cards.h"
#include "core/stages/pace.h"

namespace molten {

using theme::shown;
namespace {

/// The column of names: as wide as the longest that stands before a value, within reason.
int namesWidth(const StageDescription& described) {
  const QFontMetrics metrics(theme::words());
  int widest = 60;
  for (const ParameterDescription& parameter : described.parameters)
    if (std::holds_alternative<NumberDescription>(parameter.kind) ||
        std::holds_alternative<PlaceDescription>(parameter.kind))
      widest = std::max(widest, metrics.horizontalAdvance(shown(parameter.label)) + 4);
  return std::min(widest, 112);
}

/// What is most telling of what moves a value.
MovementButton::State stateOf(const Stage& stage, std::size_t parameter, Rational at) {
  using State = MovementButton::State;
  if (const auto track = stage.keys.find(parameter); track != stage.keys.end() && keyAt(track->second, at))
    return State::KeyHere;
  const auto drives = stage.drives.find(parameter);
  const auto has = [&](std::size_t kind) {
    return drives != stage.drives.end() && std::any_of(drives->second.begin(), drives->second.end(),
                                                       [&](const Drive& drive) { return drive.index() == kind; });
  };
  if (has(Drive(Jitter{}).index())) return State::Jagged;
  if (has(Drive(Wave{}).index())) return State::Wavy;
  return stage.varies(parameter) ? State::Moves : State::Steady;
}

QString openKey(const StageKind& kind, const std::string& card) {
  return "cards/" + shown(kind.description().id) + "/" + shown(card);
}

}  // namespace

Dials::Dials(QWidget* parent) : QWidget(parent) {
  title_ = new QLabel;
  title_->setFont(theme::words(13, true));
  help_ = new theme::OneLine;
  help_->setProperty("dim", true);
  help_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  words_ = theme::note();
  auto* heading = new QHBoxLayout;
  heading->setSpacing(12);
  heading->addWidget(title_);
  heading->addWidget(help_, 1);
  manual_ = new QToolButton;
  manual_->setObjectName("manual");
  manual_->setText("?");
  manual_->setAutoRaise(true);
  // No higher than the words beside it: the cards below need the room.
  manual_->setStyleSheet("QToolButton { padding: 0; min-height: 0; }");
  manual_->setFixedSize(22, QFontMetrics(title_->font()).height());
  manual_->setToolTip(tr("Its page in the manual (F1)"));
  manual_->setAccessibleName(tr("Its page in the manual"));
  heading->addWidget(manual_);
  connect(manual_, &QToolButton::clicked, this, &Dials::manualWanted);
  cards_ = new QVBoxLayout;
  cards_->setSpacing(2);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 8, 12, 0);
  column->setSpacing(6);
  column->addLayout(heading);
  column->addWidget(words_);
  column->addLayout(cards_);
  column->addStretch(1);
  paint_ = new PaintDials(this);
  paint_->hide();
}

void Dials::clear() {
  kind_ = nullptr;
  closeMovement();
  setters_.clear();
  rows_.clear();
  movements_.clear();
  // It is kept through all stages; the cards are not.
  paint_->setParent(this);
  paint_->hide();
  notes_.clear();
  findings_.clear();
  brightness_ = nullptr;
  cardsByTitle_.clear();
  switches_.clear();
  order_ = nullptr;
  spans_ = nullptr;
  while (QLayoutItem* item = cards_->takeAt(0)) {
    if (QWidget* widget = item->widget()) {
      widget->hide();
      widget->deleteLater();
    }
    delete item;
  }
}

void Dials::showWords(const QString& title, const QString& content) {
  clear();
  title_->setText(title);
  help_->clear();
  words_->setText(content);
  words_->show();
}

void Dials::setTitle(const QString& title) {
  title_->setText(title);
}

void Dials::showMoment(const Stage& stage, Rational at, const Followed* followed) {
  if (kind_ != stage.kind) return;
  // What a hand sets is what drives start from.
  const StageValues values = stage.keyedAt(at.toDouble());
  for (auto& [parameter, button] : movements_) {
    if (stage.keys.contains(parameter)) setters_[parameter](values[parameter]);
    button->setState(stateOf(stage, parameter, at));
  }
  if (!panel_) return;
  const Movement movement = movementOf(stage, moved_);
  panel_->setMovement(movement, stage.valuesAt(at.toDouble(), followed)[moved_], keyAt(movement.keys, at).has_value());
}

void Dials::showStage(const Stage& stage, const std::optional<VideoDescription>& video, Rational outputRate,
                      Rational at, const Followed* followed) {
  const Rational rate = video ? video->rate : rate_;
  if (kind_ != stage.kind || !(rate_ == rate)) {
    rate_ = rate;
    build(stage);
  }
  const StageDescription& described = kind_->description();
  // A name of the user's own says which one it is; the kind's what it is.
  title_->setText(stage.name.empty() ? shown(described.label) : shown(stage.name + " · " + described.label));
  frames_ = video ? video->length : 1;
  for (std::size_t i = 0; i < setters_.size(); ++i) setters_[i](stage.values[i]);
  if (spans_ && video && kind_->paceHandles()) {
    const PaceCurve curve = paceCurve(stage.values, *video);
    spans_->setPace({curve.from(), curve.spans()}, outputRate);
  }
  if (panel_ && !isInUse(described, stage.values, moved_)) closeMovement();
  showMoment(stage, at, followed);
  bool painted = false;
  // A card of which nothing counts is no card, and a row of switches likewise.
  std::map<std::string, bool> counts;
  for (std::size_t i = 0; i < rows_.size(); ++i) {
    const ParameterDescription& parameter = described.parameters[i];
    const bool used = isInUse(described, stage.values, i);
    rows_[i]->setVisible(used);
    counts[parameter.card] |= used;
    painted = painted || (used && rows_[i] == paint_);
  }
  for (auto& [card, widgets] : switches_)
    for (QWidget* const widget : widgets) {
      QWidget* const row = widget->parentWidget();
      row->setVisible(std::any_of(widgets.begin(), widgets.end(), [&](QWidget* const one) {
        return one->parentWidget() == row && one->isVisibleTo(row);
      }));
    }
  for (auto& [title, card] : cardsByTitle_) {
    card->setVisible(counts[title]);
    card->setWords(shown(cardWords(described, stage.values, title)));
  }
  if (!painted) paint_->setTool(PaintDials::Tool::None);
  showNotes(stage, video, outputRate);
}

void Dials::showNotes(const Stage& stage, const std::optional<VideoDescription>& video, Rational outputRate) {
  std::map<std::string, QString> words;
  if (video)
    for (const StageNote& note : stage.kind->notes(stage.widestValues(), *video, outputRate)) {
      QString& all = words[note.card];
      all += (all.isEmpty() ? "" : " ") + shown(note.text);
    }
  for (auto& [card, label] : notes_) {
    label->setText(words[card]);
    label->setToolTip(words[card]);
    label->setVisible(!label->text().isEmpty());
  }
}

void Dials::setFinding(Figure figure, const QString& sentence, const QString& remedy) {
  const auto at = findings_.find(figure);
  if (at == findings_.end()) return;
  QString content = sentence.toHtmlEscaped().replace('\n', "<br>");
  // On an amber ground what mends it is amber as well.
  const char* const colour = figure == Figure::Outside ? "#ffd24a" : "#f3efe6";
  if (!remedy.isEmpty())
    content += QString(" <a href=\"remedy\" style=\"color:%1\">%2</a>").arg(colour, remedy.toHtmlEscaped());
  at->second->setText(content);
  at->second->setToolTip(sentence);
  at->second->setVisible(!sentence.isEmpty());
}

void Dials::setBrightness(const std::optional<Brightness>& before, const std::optional<Brightness>& after) {
  if (brightness_) brightness_->setBrightness(before, after);
}

void Dials::setBrightnessOld() {
  if (brightness_) brightness_->setOld();
}

void Dials::setPictures(std::function<QImage(std::int32_t)> pictures) {
  pictures_ = std::move(pictures);
}

void Dials::picturesChanged() {
  if (order_) order_->update();
}

// ---- building

void Dials::build(const Stage& stage) {
  clear();
  words_->hide();
  kind_ = stage.kind;
  const StageDescription& described = kind_->description();
  help_->setText(shown(described.help));
  help_->setToolTip(shown(described.help));
  for (std::size_t i = 0; i < described.parameters.size(); ++i) addDial(i);
  addActions();
  addSwitches();
  for (auto& [title, card] : cardsByTitle_) addSaid(title, *card);
  emit built();
}

DialCard* Dials::cardFor(const std::string& title) {
  DialCard*& card = cardsByTitle_[title];
  if (card) return card;
  const CardDescription& described = cardOf(kind_->description(), title);
  card = new DialCard(shown(title), described.seldom, described.lines);
  cards_->addWidget(card);
  if (described.brightness) card->addRow(brightness_ = new BrightnessGauge);
  if (!described.seldom) return card;
  // Opened once, it is open the next time.
  const QString key = openKey(*kind_, title);
  card->setOpen(QSettings().value(key, false).toBool());
  connect(card, &DialCard::opened, this, [key](bool on) { QSettings().setValue(key, on); });
  return card;
}

void Dials::addDial(std::size_t index) {
  const ParameterDescription& parameter = kind_->description().parameters[index];
  DialCard* const card = cardFor(parameter.card);
  if (std::holds_alternative<PaintingDescription>(parameter.kind)) {
    setters_.push_back([](const ParameterValue&) {});
    // One set of tools: for the first painting that a stage has.
    rows_.push_back(paint_->parentWidget() == this ? static_cast<QWidget*>(paint_) : new QWidget);
    return card->addRow(rows_.back());
  }
  const DialHand hand{
      [this, index](const ParameterValue& value, bool gesture) { emit valueChanged(index, value, gesture); },
      [this] { emit gestureEnded(); }, rate_, namesWidth(kind_->description())};
  const Dial dial = dialFor(parameter, hand);
  setters_.push_back(dial.show);
  const bool valued = std::holds_alternative<NumberDescription>(parameter.kind) ||
                      std::holds_alternative<PlaceDescription>(parameter.kind) || parameter.animatable;
  rows_.push_back(valued ? withMovement(index, dial.widget) : dial.widget);
  if (std::holds_alternative<SpansDescription>(parameter.kind)) {
    addSpans(index, dial.widget);
  } else if (!std::holds_alternative<ToggleDescription>(parameter.kind)) {
    card->addRow(rows_.back());
  } else {
    switches_[parameter.card].push_back(dial.widget);
  }
  if (std::holds_alternative<OrderDescription>(parameter.kind)) card->addRow(orderEditor(index));
}

void Dials::addActions() {
  for (const StageAction& action : kind_->description().actions) {
    auto* button = new QPushButton(shown(action.label));
    button->setObjectName(shown(action.id));
    button->setToolTip(shown(action.help));
    button->setFocusPolicy(Qt::TabFocus);
    connect(button, &QPushButton::clicked, this, [this, id = shown(action.id)] { emit actionChosen(id); });
    switches_[action.card].push_back(button);
  }
}

/// At the end of a card, as many beside each other as find room in the narrowest window.
void Dials::addSwitches() {
  constexpr int room = 308, gap = 6;
  for (auto& [title, widgets] : switches_) {
    QWidget* row = nullptr;
    int used = 0;
    for (QWidget* const widget : widgets) {
      widget->ensurePolished();
      const int width = widget->sizeHint().width() + gap;
      if (!row || used + width > room + gap) {
        cardFor(title)->addRow(row = rowOf({}, gap));
        used = 0;
      }
      row->layout()->addWidget(widget);
      used += width;
    }
  }
}

/// Places for the stage's notes and for what is measured about a card's parameters.
void Dials::addSaid(const std::string& title, DialCard& card) {
  notes_[title] = theme::note();
  card.addSaid(notes_[title]);
  for (const ParameterDescription& parameter : kind_->description().parameters) {
    if (parameter.card != title || !parameter.figure || findings_.contains(*parameter.figure)) continue;
    const Figure figure = *parameter.figure;
    auto* label = findings_[figure] = theme::note();
    label->setTextFormat(Qt::RichText);
    label->setFocusPolicy(Qt::TabFocus);
    label->setTextInteractionFlags(Qt::LinksAccessibleByKeyboard | Qt::LinksAccessibleByMouse);
    label->setObjectName(figure == Figure::Outside ? "outside" : shown("finding " + title));
    if (figure == Figure::Outside) {
      label->setProperty("dim", false);
      label->setProperty("notice", true);
    }
    label->hide();
    connect(label, &QLabel::linkActivated, this, [this, figure] { emit remedyChosen(figure); });
    card.addSaid(label);
  }
}

/// Beside the order's text, which has its own setter: the two show one value.
QWidget* Dials::orderEditor(std::size_t index) {
  order_ = new OrderEditor;
  order_->setPictures([this](std::int32_t frame) { return pictures_ ? pictures_(frame) : QImage(); });
  const auto show = setters_.back();
  setters_.back() = [this, show](const ParameterValue& value) {
    show(value);
    order_->setOrder(std::get<FrameOrder>(value), frames_, rate_);
  };
  connect(order_, &OrderEditor::changed, this,
          [this, index](const FrameOrder& order) { emit valueChanged(index, order, false); });
  connect(order_, &OrderEditor::picturesWanted, this, &Dials::picturesWanted);
  return order_;
}

/// A table of them, and folded below it their text.
void Dials::addSpans(std::size_t index, QWidget* text) {
  const ParameterDescription& parameter = kind_->description().parameters[index];
  spans_ = new SpansEditor;
  rows_.back() = spans_;
  cardFor(parameter.card)->addRow(spans_);
  auto* written = new DialCard(tr("%1 as text").arg(shown(parameter.label)), true, 0);
  written->addRow(text);
  cards_->addWidget(written);
  const auto show = setters_.back();
  setters_.back() = [written, parameter, show](const ParameterValue& value) {
    show(value);
    written->setWords(shown(valueLabel(parameter, value)));
  };
}

/// A dial with what lets its value move right of it; where it cannot, as much room, so that values stand in one line.
QWidget* Dials::withMovement(std::size_t index, QWidget* dial) {
  const ParameterDescription& parameter = kind_->description().parameters[index];
  auto* row = rowOf({dial}, 5);
  auto* layout = static_cast<QHBoxLayout*>(row->layout());
  if (!parameter.animatable) {
    layout->addSpacing(MovementButton::side + 5);
    return row;
  }
  auto* movement = new MovementButton(shown(parameter.label));
  movement->setObjectName(shown("movement " + parameter.id));
  movements_[index] = movement;
  layout->addWidget(movement);
  connect(movement, &MovementButton::flipped, this, [this, index] { emit keyToggled(index); });
  connect(movement, &MovementButton::opened, this, [this, index] {
    const bool another = !panel_ || moved_ != index;
    closeMovement();
    if (another) openMovement(index);
  });
  return row;
}

void Dials::openMovement(std::size_t index) {
  moved_ = index;
  panel_ = new MovementPanel(kind_->description().parameters[index], rate_, this);
  connect(panel_, &MovementPanel::keyToggled, this, [this] { emit keyToggled(moved_); });
  connect(panel_, &MovementPanel::keysRemoved, this, [this] { emit keysRemoved(moved_); });
  connect(panel_, &MovementPanel::drivesChanged, this, [this](const Drives& drives, const QString& name, bool gesture) {
    emit drivesChanged(moved_, drives, name, gesture);
  });
  connect(panel_, &MovementPanel::gestureEnded, this, &Dials::gestureEnded);
  connect(panel_, &MovementPanel::closed, this, &Dials::closeMovement);
  connect(panel_, &MovementPanel::grown, this, &Dials::placeMovement);
  emit movementOpened();
  panel_->show();
  placeMovement();
  setTabOrder(movements_.at(index), panel_);
  panel_->setFocus();
}

void Dials::closeMovement() {
  if (!panel_) return;
  // A button of it may be what closes it.
  panel_->hide();
  panel_->deleteLater();
  panel_ = nullptr;
  setMinimumHeight(0);
}

/// Below its value, as wide as the cards; the column becomes longer where it would end in it.
void Dials::placeMovement() {
  if (!panel_) return;
  const QWidget* const row = rows_[moved_];
  const int top = row->mapTo(this, QPoint(0, row->height())).y() + 3, height = panel_->layout()->totalSizeHint().height();
  panel_->setGeometry(6, top, width() - 12, height);
  setMinimumHeight(std::max(layout()->minimumSize().height(), top + height + 8));
  panel_->raise();
  // Once the column is as long as it has to be.
  QTimer::singleShot(0, panel_, [this] {
    for (QWidget* around = parentWidget(); panel_ && around; around = around->parentWidget())
      if (auto* const area = qobject_cast<QScrollArea*>(around))
        area->ensureVisible(0, panel_->geometry().bottom(), 0, 8);
  });
}

void Dials::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  placeMovement();
}

}  // namespace molten

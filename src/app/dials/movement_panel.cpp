#include "app/dials/movement_panel.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/dials/dial_kinds.h"
#include "app/theme/parts.h"
#include "app/theme/theme.h"
#include "core/stages/drive_words.h"

namespace molten {

using theme::shown;
namespace {

/// Of the column of names, in pixels.
constexpr int namesWide = 78;

QPushButton* button(const QString& words, const QString& name, const QString& tip) {
  auto* made = new QPushButton(words);
  made->setObjectName(name);
  made->setToolTip(tip);
  made->setFocusPolicy(Qt::TabFocus);
  return made;
}

}  // namespace

MovementPanel::MovementPanel(const ParameterDescription& parameter, Rational rate, QWidget* parent)
    : QFrame(parent), parameter_(parameter), rate_(rate) {
  setObjectName("movement panel");
  setFocusPolicy(Qt::StrongFocus);
  setProperty("overlay", true);
  here_ = new theme::OneLine;
  auto* close = new QToolButton;
  close->setText("×");
  close->setObjectName("close movement");
  close->setToolTip(tr("Close (Esc)"));
  close->setProperty("small", true);
  connect(close, &QToolButton::clicked, this, &MovementPanel::closed);
  key_ = button({}, "key here", tr("A key holds the value at the playhead; from key to key it goes by itself."));
  connect(key_, &QPushButton::clicked, this, &MovementPanel::keyToggled);
  noKeys_ = button(tr("No keys"), "remove keys", tr("Takes all keys of %1 away.").arg(shown(parameter.label)));
  connect(noKeys_, &QPushButton::clicked, this, &MovementPanel::keysRemoved);
  auto* keys = rowOf({key_, noKeys_, nullptr}, 6);
  drives_ = new QVBoxLayout;
  drives_->setSpacing(3);
  auto* add = rowOf({}, 6);
  for (std::size_t kind = 0; kind < driveKinds().size(); ++kind) {
    auto* one = button("+ " + shown(driveKinds()[kind].label), "add " + shown(driveKinds()[kind].id),
                       shown(driveKinds()[kind].help));
    add->layout()->addWidget(one);
    connect(one, &QPushButton::clicked, this, [this, kind] {
      Drives more = movement_.drives;
      more.push_back(newDrive(kind, parameter_));
      change(more, tr("%1 of %2").arg(shown(driveKinds()[kind].label), shown(parameter_.label)));
    });
  }
  static_cast<QHBoxLayout*>(add->layout())->addStretch(1);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(10, 6, 10, 8);
  column->setSpacing(6);
  column->addWidget(rowOf({here_, close}, 6));
  column->addWidget(keys);
  column->addLayout(drives_);
  column->addWidget(add);
}

void MovementPanel::setMovement(const Movement& movement, const ParameterValue& here, bool keyHere) {
  movement_ = movement;
  here_->setText(tr("%1 is %2 here").arg(shown(parameter_.label), shown(valueLabel(parameter_, here))));
  key_->setText(keyHere ? tr("Remove the key here") : tr("Set a key here"));
  noKeys_->setEnabled(!movement.keys.empty());
  std::vector<std::size_t> kinds;
  for (const Drive& drive : movement.drives) kinds.push_back(drive.index());
  if (kinds != shown_) {
    shown_ = kinds;
    build();
  }
  for (std::size_t d = 0; d < setters_.size(); ++d) {
    const StageValues values = driveValues(movement_.drives[d], parameter_);
    for (std::size_t i = 0; i < values.size(); ++i) setters_[d][i](values[i]);
  }
  showUsed();
}

/// What does not count, as the other values are, is not there.
void MovementPanel::showUsed() {
  bool other = false;
  for (std::size_t d = 0; d < rows_.size(); ++d) {
    const StageDescription own{.id = {}, .label = {}, .help = {}, .parameters = driveParameters(shown_[d], parameter_), .actions = {}};
    const StageValues values = driveValues(movement_.drives[d], parameter_);
    for (std::size_t i = 0; i < rows_[d].size(); ++i) {
      const bool used = isInUse(own, values, i);
      other |= rows_[d][i]->isHidden() == used;
      rows_[d][i]->setVisible(used);
    }
  }
  if (!other) return;
  layout()->activate();
  emit grown();
}

void MovementPanel::build() {
  setters_.clear();
  rows_.clear();
  while (QLayoutItem* item = drives_->takeAt(0)) {
    // It may be what has just been clicked.
    item->widget()->hide();
    item->widget()->deleteLater();
    delete item;
  }
  for (std::size_t d = 0; d < shown_.size(); ++d) addDrive(d);
  // What is new counts at once.
  for (int i = 0; i < drives_->count(); ++i) drives_->itemAt(i)->widget()->setVisible(true);
  layout()->activate();
  emit grown();
}

void MovementPanel::addDrive(std::size_t number) {
  const DriveDescription& kind = driveKinds()[shown_[number]];
  auto* title = new QLabel(shown(kind.label));
  title->setFont(theme::words(12, true));
  title->setToolTip(shown(kind.help));
  auto* remove = button(tr("Remove"), "remove " + QString::number(number), tr("It moves so no more."));
  connect(remove, &QPushButton::clicked, this, [this, number, label = shown(kind.label)] {
    Drives fewer = movement_.drives;
    fewer.erase(fewer.begin() + static_cast<std::ptrdiff_t>(number));
    change(fewer, tr("Remove %1 of %2").arg(label.toLower(), shown(parameter_.label)));
  });
  drives_->addWidget(theme::rule());
  drives_->addWidget(rowOf({title, nullptr, remove}, 6));
  auto& setters = setters_.emplace_back();
  auto& rows = rows_.emplace_back();
  const auto parameters = driveParameters(shown_[number], parameter_);
  for (std::size_t i = 0; i < parameters.size(); ++i) {
    ParameterDescription own = parameters[i];
    own.id = "drive " + std::to_string(number) + " " + own.id;
    const DialHand hand{[this, number, i, own](const ParameterValue& value, bool gesture) {
                          Drives other = movement_.drives;
                          StageValues values = driveValues(other[number], parameter_);
                          values[i] = withinRange(own, value);
                          other[number] = driveOf(other[number].index(), values);
                          change(other,
                                 tr("%1 of %2").arg(shown(driveLabel(other[number], parameter_)), shown(parameter_.label)),
                                 gesture);
                        },
                        [this] { emit gestureEnded(); }, rate_, namesWide};
    const Dial dial = dialFor(own, hand);
    drives_->addWidget(dial.widget);
    setters.push_back(dial.show);
    rows.push_back(dial.widget);
  }
}

void MovementPanel::change(const Drives& drives, const QString& name, bool gesture) {
  emit drivesChanged(drives, name, gesture);
}

void MovementPanel::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape) return emit closed();
  QFrame::keyPressEvent(event);
}

}  // namespace molten

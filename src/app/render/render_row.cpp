#include "app/render/render_row.h"

#include <QApplication>
#include <QFileInfo>
#include <QPointer>
#include <QProgressBar>
#include <cmath>

#include "app/theme/parts.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

using State = RenderEntry::State;

/// After what it is added to.
QString timeLeft(std::optional<double> seconds) {
  if (!seconds) return {};
  const auto s = static_cast<int>(std::ceil(*seconds));
  if (s < 60) return QObject::tr(" · %1 s left").arg(s);
  return QObject::tr(" · %1 min %2 s left").arg(s / 60).arg(s % 60);
}

QString stateOf(const RenderEntry& entry) {
  const QString name = QFileInfo(entry.path()).fileName();
  const bool keeps = !entry.keeps.isEmpty();
  switch (entry.state) {
    case State::Waiting:
      return QObject::tr("%1 waits").arg(name);
    case State::Running:
      return (keeps ? QObject::tr("Keeping the result of %1") : QObject::tr("Rendering %1")).arg(name);
    case State::Paused:
      return QObject::tr("%1 is paused").arg(name);
    case State::Cancelling:
      return QObject::tr("Cancelling %1").arg(name);
    case State::Written:
      return (keeps ? QObject::tr("The result of %1 is kept") : QObject::tr("%1 is written")).arg(name);
    case State::Cancelled:
      return QObject::tr("%1: cancelled, nothing was written").arg(name);
    case State::Failed:
      return (keeps ? QObject::tr("The result of %1 was not kept") : QObject::tr("%1 was not rendered")).arg(name);
  }
  return name;
}

QString detailOf(const RenderEntry& entry) {
  const RenderProgress& progress = entry.progress;
  switch (entry.state) {
    case State::Running:
      if (progress.total == 0) return QObject::tr("getting ready");
      if (progress.finishing) return QObject::tr("finishing the file · %1 %").arg(std::lround(100 * *progress.finishing)) + timeLeft(progress.secondsLeft);
      if (progress.done == progress.total) return QObject::tr("finishing the file");
      return QObject::tr("picture %1 of %2").arg(progress.done).arg(progress.total) + timeLeft(progress.secondsLeft);
    case State::Paused:
      return progress.done > 0 ? QObject::tr("%1 of %2 pictures are rendered").arg(progress.done).arg(progress.total) : QString();
    case State::Written: {
      const QString folder = QFileInfo(entry.path()).absolutePath();
      return entry.sentence.isEmpty() ? folder : entry.sentence + '\n' + folder;
    }
    case State::Cancelled:
      return progress.done > 0 ? QObject::tr("%1 of %2 pictures are rendered, and kept until this is removed").arg(progress.done).arg(progress.total) : QString();
    default:
      return entry.sentence;
  }
}

QPushButton* button(const QString& words, const char* name) {
  auto* made = new QPushButton(words);
  made->setObjectName(name);
  made->setAutoDefault(false);
  return made;
}

}  // namespace

RenderRow::RenderRow(QWidget* parent) : QWidget(parent) {
  state_ = new theme::OneLine;
  state_->setObjectName("state");
  state_->setFont(theme::words(13, true));
  summary_ = new theme::OneLine;
  summary_->setProperty("dim", true);
  bar_ = new QProgressBar;
  bar_->setTextVisible(false);
  bar_->setFixedHeight(8);
  detail_ = theme::note();
  detail_->setObjectName("detail");
  cancel_ = button(tr("Cancel"), "cancel");
  pause_ = button(tr("Pause"), "pause");
  // One button for both, as wide as the longer word: it does not move under the hand.
  const int width = pause_->sizeHint().width();
  pause_->setText(tr("Go on"));
  pause_->setFixedWidth(std::max(width, pause_->sizeHint().width()));
  earlier_ = button(tr("Earlier"), "earlier");
  later_ = button(tr("Later"), "later");
  open_ = button(tr("Open"), "open");
  open_->setToolTip(tr("With the program that the desktop opens such files with"));
  openFolder_ = button(tr("Folder"), "openFolder");
  openFolder_->setToolTip(tr("Opens the folder that it is in"));
  openAsFootage_ = button(tr("Use as footage"), "openAsFootage");
  openAsFootage_->setToolTip(tr("Begins a new project with what was written"));
  again_ = button(tr("Again…"), "again");
  again_->setToolTip(tr("Back to the settings of this render; the chain is as it was when it was asked for"));
  remove_ = button(tr("Remove"), "remove");
  remove_->setToolTip(tr("From this list, with what is rendered of it so far; a file that is written stays"));
  // What steers a render and what is done with its result stand in lines of their own, so that no button takes another's place.
  const auto line = [](QWidget* words, std::initializer_list<QPushButton*> buttons) {
    auto* across = new QHBoxLayout;
    across->setSpacing(8);
    across->addWidget(words, 1);
    for (auto* each : buttons) across->addWidget(each);
    return across;
  };
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 8, 0, 10);
  column->setSpacing(6);
  // Both keep their room while they are hidden, so that nothing beneath them moves.
  for (auto* const one : {pause_, cancel_}) {
    QSizePolicy policy = one->sizePolicy();
    policy.setRetainSizeWhenHidden(true);
    one->setSizePolicy(policy);
  }
  column->addLayout(line(state_, {earlier_, later_, pause_, cancel_}));
  column->addLayout(line(summary_, {again_, open_, openFolder_, openAsFootage_, remove_}));
  column->addWidget(bar_);
  column->addWidget(detail_);
  connect(cancel_, &QPushButton::clicked, this, &RenderRow::cancelAsked);
  connect(pause_, &QPushButton::clicked, this, [this] { goesOn_ ? emit resumeAsked() : emit pauseAsked(); });
  connect(remove_, &QPushButton::clicked, this, &RenderRow::removeAsked);
  connect(earlier_, &QPushButton::clicked, this, [this] { emit moveAsked(-1); });
  connect(later_, &QPushButton::clicked, this, [this] { emit moveAsked(1); });
  connect(open_, &QPushButton::clicked, this, &RenderRow::openAsked);
  connect(openFolder_, &QPushButton::clicked, this, &RenderRow::folderAsked);
  connect(openAsFootage_, &QPushButton::clicked, this, &RenderRow::footageAsked);
  connect(again_, &QPushButton::clicked, this, &RenderRow::againAsked);
}

void RenderRow::tell(const RenderEntry& entry) {
  QPointer<QWidget> held = QApplication::focusWidget();
  if (!held || !isAncestorOf(held)) held = nullptr;
  state_->setWords(stateOf(entry));
  summary_->setWords(entry.summary);
  detail_->setText(detailOf(entry));
  detail_->setVisible(!detail_->text().isEmpty());
  bar_->setVisible(!entry.over());
  bar_->setMaximum(std::max(1, static_cast<int>(entry.progress.total)));
  bar_->setValue(static_cast<int>(entry.progress.done));
  cancel_->setVisible(!entry.over());
  goesOn_ = entry.state == State::Paused || entry.state == State::Cancelled || entry.state == State::Failed;
  pause_->setText(goesOn_ ? tr("Go on") : tr("Pause"));
  pause_->setToolTip(goesOn_ ? tr("From what is rendered so far") : tr("What is rendered so far is kept, and the next one begins"));
  pause_->setVisible(entry.state != State::Written);
  pause_->setEnabled(entry.state != State::Cancelling);
  for (auto* const one : {earlier_, later_}) one->setVisible(entry.state == State::Waiting || entry.state == State::Paused);
  open_->setVisible(entry.state == State::Written && !entry.path().contains('%') && entry.keeps.isEmpty());
  openFolder_->setVisible(entry.state == State::Written);
  // A time map is a field's picture, not footage.
  openAsFootage_->setVisible(entry.state == State::Written && !entry.job.timeMap && entry.keeps.isEmpty() && canBeFootage(entry.path().toStdString()));
  again_->setVisible((entry.state == State::Cancelled || entry.state == State::Failed) && entry.keeps.isEmpty());
  remove_->setVisible(entry.over());
  keepFocus(held);
}

void RenderRow::keepFocus(QWidget* held) {
  if (!held || (held->isVisibleTo(this) && held->isEnabled())) return;
  // A button that does no harm, in the same row: what the toolkit would choose is another row's, or Remove.
  for (QPushButton* const next : {pause_, open_, openFolder_})
    if (next->isVisibleTo(this) && next->isEnabled()) return next->setFocus();
}

}  // namespace molten

#include "app/render/render_row.h"

#include <QFileInfo>
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
  pause_->setToolTip(tr("What is rendered so far is kept, and the next one begins"));
  resume_ = button(tr("Go on"), "resume");
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
  auto* across = new QHBoxLayout;
  across->setSpacing(8);
  across->addWidget(state_, 1);
  for (auto* each : {again_, open_, openFolder_, openAsFootage_, earlier_, later_, resume_, pause_, cancel_}) across->addWidget(each);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 8, 0, 10);
  column->setSpacing(6);
  column->addLayout(across);
  column->addWidget(summary_);
  column->addWidget(bar_);
  column->addWidget(detail_);
  connect(cancel_, &QPushButton::clicked, this, &RenderRow::cancelAsked);
  connect(pause_, &QPushButton::clicked, this, &RenderRow::pauseAsked);
  connect(resume_, &QPushButton::clicked, this, &RenderRow::resumeAsked);
  connect(earlier_, &QPushButton::clicked, this, [this] { emit moveAsked(-1); });
  connect(later_, &QPushButton::clicked, this, [this] { emit moveAsked(1); });
  connect(open_, &QPushButton::clicked, this, &RenderRow::openAsked);
  connect(openFolder_, &QPushButton::clicked, this, &RenderRow::folderAsked);
  connect(openAsFootage_, &QPushButton::clicked, this, &RenderRow::footageAsked);
  connect(again_, &QPushButton::clicked, this, &RenderRow::againAsked);
}

void RenderRow::tell(const RenderEntry& entry) {
  state_->setWords(stateOf(entry));
  summary_->setWords(entry.summary);
  detail_->setText(detailOf(entry));
  detail_->setVisible(!detail_->text().isEmpty());
  bar_->setVisible(!entry.over());
  bar_->setMaximum(std::max(1, static_cast<int>(entry.progress.total)));
  bar_->setValue(static_cast<int>(entry.progress.done));
  cancel_->setVisible(!entry.over());
  cancel_->setEnabled(entry.state != State::Cancelling);
  pause_->setVisible(entry.state == State::Running || entry.state == State::Waiting);
  resume_->setVisible(entry.state == State::Paused);
  for (auto* const one : {earlier_, later_}) one->setVisible(entry.state == State::Waiting || entry.state == State::Paused);
  open_->setVisible(entry.state == State::Written && !entry.path().contains('%') && entry.keeps.isEmpty());
  openFolder_->setVisible(entry.state == State::Written);
  // A time map is a field's picture, not footage.
  openAsFootage_->setVisible(entry.state == State::Written && !entry.job.timeMap && entry.keeps.isEmpty() && canBeFootage(entry.path().toStdString()));
  again_->setVisible((entry.state == State::Cancelled || entry.state == State::Failed) && entry.keeps.isEmpty());
}

}  // namespace molten

#include "app/playback/transport.h"

#include <QHBoxLayout>
#include <QIcon>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>

#include "app/sound/level_meter.h"
#include "app/theme/theme.h"

namespace molten {

Transport::Transport(QWidget* parent) : QWidget(parent) {
  setFixedHeight(42);
  setAutoFillBackground(true);
  start_ = tool("to-start", tr("To the start"), tr("To in, or to the first frame (Home)"));
  back_ = tool("step-back", tr("One frame back"), tr("One frame back (←, with Shift ten)"));
  play_ = tool("play", tr("Play"), tr("Play and stop (Space; J K L shuttle)"));
  play_->setText(tr("Play"));
  play_->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  play_->setFixedWidth(78);
  on_ = tool("step-on", tr("One frame on"), tr("One frame on (→, with Shift ten)"));
  end_ = tool("to-end", tr("To the end"), tr("To out, or to the last frame (End)"));
  timecode_ = new QLabel;
  timecode_->setFont(theme::words(18));
  timecode_->setMinimumWidth(112);
  frames_ = new QLabel;
  frames_->setProperty("dim", true);
  frames_->setMinimumWidth(130);
  bypass_ = new QPushButton(tr("Before / After"));
  bypass_->setToolTip(tr("Hold to see the footage without the chain (B)"));
  loop_ = new QPushButton(tr("Repeat"));
  loop_->setCheckable(true);
  loop_->setToolTip(tr("Playing goes round from out to in"));
  rendering_ = new QPushButton;
  rendering_->setObjectName("rendering");
  rendering_->setToolTip(tr("How the render goes on, and what waits (Ctrl+Shift+R)"));
  rendering_->setVisible(false);
  meter_ = new LevelMeter(this);
  meter_->hide();
  measure_ = new QLabel;
  measure_->setProperty("dim", true);
  measure_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  render_ = new QPushButton(tr("Render…"));
  render_->setProperty("primary", true);
  measure_->setToolTip(
      tr("Frames, flows and prepared pictures that are held, of the budget that Project, Memory budget sets"));
  render_->setToolTip(tr("Write the result to a file (Ctrl+R)"));
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(12, 4, 12, 6);
  row->setSpacing(8);
  for (QWidget* widget : {static_cast<QWidget*>(start_), static_cast<QWidget*>(back_), static_cast<QWidget*>(play_),
                          static_cast<QWidget*>(on_), static_cast<QWidget*>(end_)})
    row->addWidget(widget);
  row->addSpacing(6);
  row->addWidget(timecode_);
  row->addWidget(frames_);
  row->addWidget(bypass_);
  row->addWidget(loop_);
  row->addWidget(rendering_);
  row->addStretch(1);
  row->addWidget(meter_);
  row->addWidget(measure_);
  row->addSpacing(6);
  row->addWidget(render_);
  connect(start_, &QToolButton::clicked, this, &Transport::toStart);
  connect(back_, &QToolButton::clicked, this, [this] { emit stepped(-1); });
  connect(play_, &QToolButton::clicked, this, &Transport::playToggled);
  connect(on_, &QToolButton::clicked, this, [this] { emit stepped(1); });
  connect(end_, &QToolButton::clicked, this, &Transport::toEnd);
  connect(bypass_, &QPushButton::pressed, this, [this] { emit bypassed(true); });
  connect(bypass_, &QPushButton::released, this, [this] { emit bypassed(false); });
  connect(loop_, &QPushButton::clicked, this, &Transport::loopToggled);
  connect(render_, &QPushButton::clicked, this, &Transport::renderRequested);
  connect(rendering_, &QPushButton::clicked, this, &Transport::renderQueueRequested);
  // Space and arrows belong to the picture, not to whichever button was clicked last.
  for (auto* button : findChildren<QAbstractButton*>()) button->setFocusPolicy(Qt::TabFocus);
}

QToolButton* Transport::tool(const char* icon, const QString& name, const QString& help) {
  auto* button = new QToolButton;
  button->setIcon(QIcon(QString(":/icons/%1.svg").arg(icon)));
  button->setIconSize({14, 14});
  button->setAccessibleName(name);
  button->setToolTip(help);
  button->setFixedHeight(28);
  return button;
}

void Transport::setState(const TransportState& state) {
  for (QWidget* widget : {static_cast<QWidget*>(start_), static_cast<QWidget*>(back_), static_cast<QWidget*>(play_),
                          static_cast<QWidget*>(on_), static_cast<QWidget*>(end_), static_cast<QWidget*>(bypass_),
                          static_cast<QWidget*>(loop_), static_cast<QWidget*>(render_)})
    widget->setEnabled(state.footage);
  if (playing_ != state.playing) {
    playing_ = state.playing;
    play_->setIcon(QIcon(playing_ ? ":/icons/pause.svg" : ":/icons/play.svg"));
    play_->setText(playing_ ? tr("Stop") : tr("Play"));
  }
  loop_->setChecked(state.loop && state.footage);
  timecode_->setText(state.timecode);
  frames_->setText(state.frames);
  measure_->setText(state.measure);
}

void Transport::setRendering(const QString& words) {
  rendering_->setText(words);
  rendering_->setVisible(!words.isEmpty());
}

void Transport::setHears(bool on) {
  meter_->setVisible(on);
  shareRoom();
}

/// In a narrow window what is heard comes before what is held.
void Transport::shareRoom() {
  constexpr int roomForBoth = 1000;
  measure_->setVisible(width() >= roomForBoth || meter_->isHidden());
}

}  // namespace molten

#include "app/sound/level_meter.h"

#include <QPainter>
#include <cmath>

#include "app/theme/spoken.h"
#include "app/theme/theme.h"
#include "core/sound/sound_mix.h"

namespace molten {
namespace {

constexpr int looksEvery = 40;      ///< milliseconds
constexpr qint64 heldFor = 1500;    ///< likewise
constexpr double softest = -48;     ///< decibels, at the left end; full scale is at the right one
constexpr int barWidth = 54, barHeight = 4;

/// 0 at the left end, 1 at full scale.
double placeOf(float level) {
  return level > 0 ? std::clamp(1 - decibelsOf(level) / softest, 0.0, 1.0) : 0;
}

}  // namespace

LevelMeter::LevelMeter(QWidget* parent) : QWidget(parent) {
  setFixedSize(barWidth, 24);
  theme::setSpoken(*this, QAccessible::Indicator, tr("Level"));
  setToolTip(tr("How loud it is, from −48 dB to full scale; the line is the loudest of late. Over: by so many dB it went over full scale; a click forgets that"));
  timer_.setInterval(looksEvery);
  timer_.callOnTimeout([this] { look(); });
}

void LevelMeter::look() {
  const SoundLevels levels = levels_ ? levels_().value_or(SoundLevels()) : SoundLevels();
  const float most = std::max(levels.left, levels.right);
  const SoundLevels before = now_;
  const float heldBefore = held_;
  now_ = levels;
  loudest_ = std::max(loudest_, most);
  if (most >= held_ || !sinceHeld_.isValid() || sinceHeld_.elapsed() > heldFor) {
    held_ = most;
    sinceHeld_.start();
  }
  if (before.left != now_.left || before.right != now_.right || heldBefore != held_) update();
}

QString LevelMeter::overText() const {
  return loudest_ > 1 ? tr("over %1").arg(decibelsOf(loudest_), 0, 'f', 1) : QString();
}

void LevelMeter::mousePressEvent(QMouseEvent*) {
  loudest_ = held_ = 0;
  update();
}

void LevelMeter::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setPen(Qt::NoPen);
  // What went over is said below the bars.
  const QString over = overText();
  const int first = over.isEmpty() ? 6 : 0, second = first + barHeight + 3;
  for (const auto& [level, top] : {std::pair{now_.left, first}, std::pair{now_.right, second}}) {
    painter.fillRect(0, top, barWidth, barHeight, theme::raised);
    painter.fillRect(QRectF(0, top, placeOf(level) * barWidth, barHeight), theme::dim);
  }
  if (held_ > 0) painter.fillRect(QRectF(std::max(0.0, placeOf(held_) * barWidth - 1.5), first, 1.5, second + barHeight - first), theme::text);
  painter.setFont(theme::words(10));
  painter.setPen(theme::text);
  painter.drawText(QRect(0, second + barHeight, width(), height() - second - barHeight), Qt::AlignCenter, over);
}

}  // namespace molten

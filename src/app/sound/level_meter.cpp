#include "app/sound/level_meter.h"

#include <QPainter>
#include <cmath>

#include "app/theme/theme.h"
#include "core/sound/sound_mix.h"

namespace molten {
namespace {

constexpr int looksEvery = 40;      ///< milliseconds
constexpr qint64 heldFor = 1500;    ///< likewise
constexpr double softest = -48;     ///< decibels, at the left end; full scale is at the right one
constexpr int barWidth = 76, overWidth = 66, barHeight = 4;

/// 0 at the left end, 1 at full scale.
double placeOf(float level) {
  return level > 0 ? std::clamp(1 - decibelsOf(level) / softest, 0.0, 1.0) : 0;
}

}  // namespace

LevelMeter::LevelMeter(QWidget* parent) : QWidget(parent) {
  setFixedSize(barWidth + overWidth, 22);
  setAccessibleName(tr("Level"));
  setToolTip(tr("How loud it is, from −48 dB to full scale; the line is the loudest of late. Click to forget what went over"));
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
  return loudest_ > 1 ? tr("over %1 dB").arg(decibelsOf(loudest_), 0, 'f', 1) : QString();
}

void LevelMeter::mousePressEvent(QMouseEvent*) {
  loudest_ = held_ = 0;
  update();
}

void LevelMeter::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setPen(Qt::NoPen);
  for (const auto& [level, top] : {std::pair{now_.left, 5}, std::pair{now_.right, 12}}) {
    painter.fillRect(0, top, barWidth, barHeight, theme::raised);
    painter.fillRect(QRectF(0, top, placeOf(level) * barWidth, barHeight), theme::dim);
  }
  if (held_ > 0) painter.fillRect(QRectF(std::max(0.0, placeOf(held_) * barWidth - 1.5), 4, 1.5, 13), theme::text);
  painter.setFont(theme::words(10));
  painter.setPen(theme::text);
  painter.drawText(QRect(barWidth + 6, 0, overWidth - 6, height()), Qt::AlignVCenter | Qt::AlignLeft, overText());
}

}  // namespace molten

#pragma once
// How loud it is now, in the transport.

#include <QElapsedTimer>
#include <QTimer>
#include <QWidget>
#include <functional>
#include <optional>

#include "app/sound/sounding.h"

namespace molten {

/// A bar for each channel, the loudest of the last while as a line, and by how much it went over full scale, until it is
/// clicked.
class LevelMeter : public QWidget {
  Q_OBJECT

 public:
  using Levels = std::function<std::optional<SoundLevels>()>;
  explicit LevelMeter(QWidget* parent = nullptr);
  /// Who says how loud it is; nothing while nothing is heard.
  void setLevels(Levels levels) { levels_ = std::move(levels); }
  /// What it says now: `over 1.2`: by so many decibels; or nothing.
  QString overText() const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void showEvent(QShowEvent*) override { timer_.start(); }
  void hideEvent(QHideEvent*) override { timer_.stop(); }

 private:
  void look();

  Levels levels_;
  QTimer timer_;
  QElapsedTimer sinceHeld_;
  SoundLevels now_;
  float held_ = 0, loudest_ = 0;
};

}  // namespace molten

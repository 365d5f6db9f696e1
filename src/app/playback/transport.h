#pragma once
// The Transport: play, step, before, loop, where the playhead stands, and how well it goes.

#include <QWidget>

class QLabel;
class QPushButton;
class QToolButton;

namespace molten {

class LevelMeter;

struct TransportState {
  bool footage = false;
  bool playing = false;
  bool loop = true;
  QString timecode, frames;  ///< `00:00:04:12`, `frame 132 of 252`
  QString measure;           ///< `60 of 60 shown · memory 0.4 of 2.0 GB`
};

class Transport : public QWidget {
  Q_OBJECT

 public:
  explicit Transport(QWidget* parent = nullptr);
  void setState(const TransportState& state);
  /// How the render queue stands; empty: nothing is rendered.
  void setRendering(const QString& words);
  LevelMeter* meter() { return meter_; }
  /// Whether there is anything to hear.
  void setHears(bool on);

 signals:
  void toStart();
  void stepped(int frames);
  void playToggled();
  void toEnd();
  void bypassed(bool on);
  void loopToggled(bool on);
  void renderRequested();
  void renderQueueRequested();

 protected:
  void resizeEvent(QResizeEvent*) override { shareRoom(); }

 private:
  void shareRoom();
  QToolButton* tool(const char* icon, const QString& name, const QString& help);
  QToolButton *start_, *back_, *play_, *on_, *end_;
  QPushButton *bypass_, *loop_, *rendering_, *render_;
  QLabel *timecode_, *frames_, *measure_;
  LevelMeter* meter_;  ///< hidden where there is nothing to hear
  bool playing_ = false;
};

}  // namespace molten

#pragma once
// What moves one value: keys, jitter, waves, following.

#include <QFrame>
#include <functional>
#include <vector>

#include "core/stages/stage.h"

class QLabel;
class QPushButton;
class QVBoxLayout;

namespace molten {

/// Laid over the Dials below the value that it is about, so that nothing else moves. Gone with Esc, its cross, or another
/// stage.
class MovementPanel : public QFrame {
  Q_OBJECT

 public:
  /// `rate`: of frames that are typed.
  MovementPanel(const ParameterDescription& parameter, Rational rate, QWidget* parent);
  /// `here`: the value at the playhead, as it is shown; `keyHere`: whether a key stands there.
  void setMovement(const Movement& movement, const ParameterValue& here, bool keyHere);

 signals:
  void keyToggled();
  void keysRemoved();
  /// `name`: of the step. `gesture`: more of the same may follow.
  void drivesChanged(const Drives& drives, const QString& name, bool gesture);
  void gestureEnded();
  void closed();
  void grown();  ///< it is taller, or less tall, than before

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void build();
  void showUsed();
  void addDrive(std::size_t number);
  void change(const Drives& drives, const QString& name, bool gesture = false);

  ParameterDescription parameter_;
  Rational rate_;
  Movement movement_;
  QLabel* here_;
  QPushButton *key_, *noKeys_;
  QVBoxLayout* drives_;
  std::vector<std::size_t> shown_;  ///< kinds of the drives that there are dials for
  std::vector<std::vector<std::function<void(const ParameterValue&)>>> setters_;
  std::vector<std::vector<QWidget*>> rows_;  ///< likewise
};

}  // namespace molten

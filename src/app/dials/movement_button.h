#pragma once
// The small graph right of a value that lets it move by itself.

#include <QAbstractButton>

namespace molten {

/// A level line: the value is steady. A bead on the line: a key here. A bent line: the value moves from key to key, or
/// follows something. Wavy, jagged: it goes in waves, or by lot. A click opens what moves it; with Shift it sets a key or
/// takes it away.
class MovementButton : public QAbstractButton {
  Q_OBJECT

 public:
  enum class State { Steady, Moves, KeyHere, Wavy, Jagged };
  static constexpr int side = 22;  ///< in pixels
  explicit MovementButton(const QString& what, QWidget* parent = nullptr);
  void setState(State state);
  State state() const { return state_; }
  QSize sizeHint() const override { return {side, side}; }

 signals:
  void opened();
  void flipped();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mouseReleaseEvent(QMouseEvent* event) override;

 private:
  QString what_;
  State state_ = State::Moves;
  bool shift_ = false;  ///< with the click that is being made
};

}  // namespace molten

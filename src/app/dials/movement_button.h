#pragma once
// The small graph right of a value that lets it move by itself.

#include <QAbstractButton>

namespace molten {

/// A level line: the value is steady. A bead on the line: a key here. A bent line: the value moves, and has no key
/// here. A click sets a key or takes it away; the menu takes all away.
class MovementButton : public QAbstractButton {
  Q_OBJECT

 public:
  enum class State { Steady, Moves, KeyHere };
  static constexpr int side = 22;  ///< in pixels
  explicit MovementButton(const QString& what, QWidget* parent = nullptr);
  void setState(State state);
  State state() const { return state_; }
  QSize sizeHint() const override { return {side, side}; }

 signals:
  void flipped();
  void cleared();

 protected:
  void paintEvent(QPaintEvent*) override;
  void contextMenuEvent(QContextMenuEvent* event) override;

 private:
  QString what_;
  State state_ = State::Moves;
};

}  // namespace molten

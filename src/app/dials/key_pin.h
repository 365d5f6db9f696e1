#pragma once
// The small round pin beside a dial that turns keys on.

#include <QAbstractButton>

namespace molten {

/// Hollow: no keys. Ringed: keys, none of them here. Full: a key here. A click sets a key or takes it away; the menu
/// takes all away.
class KeyPin : public QAbstractButton {
  Q_OBJECT

 public:
  enum class State { None, Elsewhere, Here };
  explicit KeyPin(const QString& what, QWidget* parent = nullptr);
  void setState(State state);
  State state() const { return state_; }
  QSize sizeHint() const override { return {13, 20}; }

 signals:
  void flipped();
  void cleared();

 protected:
  void paintEvent(QPaintEvent*) override;
  void contextMenuEvent(QContextMenuEvent* event) override;

 private:
  QString what_;
  State state_ = State::Elsewhere;
};

}  // namespace molten

#pragma once
// A field for a value. A first click takes all of it, Enter and leaving set it, Escape brings the old one back; what
// cannot stand there is left in place, marked, with a sentence that says what can.

#include <QLineEdit>
#include <QPointer>
#include <functional>

class QLabel;

namespace molten {

/// What has come of a text that was typed.
struct Taken {
  bool stands = true;
  QString said = {};  ///< why it does not stand, or what was made of it; empty: nothing
};

class ValueField : public QLineEdit {
  Q_OBJECT

 public:
  /// `take`: sets the value that a text means.
  explicit ValueField(std::function<Taken(const QString&)> take, QWidget* parent = nullptr);
  ~ValueField() override;
  /// The value; shown unless another one is being typed.
  void setValueText(const QString& words);
  /// Sets what has been typed. False: it cannot stand.
  bool commit();
  bool refused() const { return refused_; }

 signals:
  void left();              ///< the focus, with what can stand there
  void stepped(int steps);  ///< by arrows, or by the wheel while it has the focus; with Shift ten

 protected:
  void focusInEvent(QFocusEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void hideEvent(QHideEvent* event) override;

 private:
  void mark(bool refused);
  void say(const QString& sentence);
  void restore();

  std::function<Taken(const QString&)> take_;
  QString value_;
  bool entered_ = false;  ///< by a press that has not been let go yet
  bool refused_ = false;
  QPointer<QLabel> sentence_;
};

}  // namespace molten

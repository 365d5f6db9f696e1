#pragma once
// A number: its name, a slider, and a field to type into. Dragged, typed with its unit, stepped by wheel and arrows;
// a double click on the name returns it to its default.

#include <QLineEdit>
#include <QWidget>

#include "core/stages/parameter.h"

class QLabel;

namespace molten {

/// The slider: a thin line, filled from nothing to the value.
class DialSlider : public QWidget {
  Q_OBJECT

 public:
  explicit DialSlider(QWidget* parent = nullptr);
  /// 0…1; over 1 the knob stands at the end.
  void setShare(double share);

 signals:
  void moved(double share);
  void released();
  void stepped(int steps);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  double share_ = 0;
};

class NumberDial : public QWidget {
  Q_OBJECT

 public:
  /// `tone`: of the number's text.
  NumberDial(const ParameterDescription& parameter, const QColor& tone, QWidget* parent = nullptr);
  void setValue(double value);
  /// Frames that are typed (`36f`) are frames of this rate.
  void setRate(Rational rate) { rate_ = rate; }

 signals:
  void changed(double value, bool gesture);  ///< gesture: more of the same may follow
  void released();
  void refused(const QString& sentence);

 protected:
  bool eventFilter(QObject* object, QEvent* event) override;

 private:
  void step(int steps);
  void typed();
  bool takeKey(const QKeyEvent& key);

  ParameterDescription parameter_;
  NumberDescription number_;
  Rational rate_ = 25;
  double value_ = 0;
  bool entered_ = false;  ///< by a press that has not been let go yet
  QLabel* label_;
  DialSlider* slider_;
  QLineEdit* field_;
};

}  // namespace molten

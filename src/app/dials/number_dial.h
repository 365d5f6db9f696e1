#pragma once
// A number: its name, a slider, and a field to type into. Dragged, typed with its unit, stepped by arrows and, while it
// has the focus, by the wheel; a double click on the name returns it to its default.

#include <QWidget>

#include "app/theme/spoken.h"
#include "app/theme/value_field.h"
#include "core/stages/parameter.h"

class QLabel;

namespace molten {

/// The slider: a thin line, filled from nothing to the value.
class DialSlider : public QWidget, public theme::SpokenNumber {
  Q_OBJECT

 public:
  explicit DialSlider(QWidget* parent = nullptr);
  /// 0…1; over 1 the knob stands at the end.
  void setShare(double share);
  double spoken() const override { return share_; }
  double leastSpoken() const override { return 0; }
  double mostSpoken() const override { return 1; }
  void takeSpoken(double share) override;

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
  /// `tone`: of the number's text; `names`: how wide its name is, in pixels.
  NumberDial(const ParameterDescription& parameter, const QColor& tone, int names, QWidget* parent = nullptr);
  void setValue(double value);
  /// Frames that are typed (`36f`) are frames of this rate.
  void setRate(Rational rate) { rate_ = rate; }

 signals:
  void changed(double value, bool gesture);  ///< gesture: more of the same may follow
  void released();

 protected:
  bool eventFilter(QObject* object, QEvent* event) override;

 private:
  void step(int steps);

  ParameterDescription parameter_;
  NumberDescription number_;
  Rational rate_ = 25;
  double value_ = 0;
  QLabel* label_;
  DialSlider* slider_;
  ValueField* field_;
};

}  // namespace molten

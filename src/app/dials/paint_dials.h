#pragma once
// The tools of a painting: brush, lasso, gradient; size, softness and level.

#include <QWidget>

class QButtonGroup;

namespace molten {

class DialSlider;
class ValueField;

class PaintDials : public QWidget {
  Q_OBJECT

 public:
  enum class Tool { None, Brush, Fill, Gradient };
  explicit PaintDials(QWidget* parent = nullptr);

  Tool tool() const { return tool_; }
  double radius() const { return values_[0]; }  ///< in picture heights
  double softness() const { return values_[1]; }
  double level() const { return values_[2]; }  ///< 0 the start, 1 the end
  /// What a gradient begins with: the other end.
  double levelFrom() const { return 1 - values_[2]; }
  void setTool(Tool tool);

 signals:
  void toolChosen();
  void fillRequested(double level);

 private:
  void set(int which, double value);
  void showValue(int which);

  Tool tool_ = Tool::None;
  double values_[3] = {0.08, 0.6, 1};
  DialSlider* sliders_[3];
  ValueField* fields_[3];
  QButtonGroup* tools_;
};

}  // namespace molten

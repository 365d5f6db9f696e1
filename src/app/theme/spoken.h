#pragma once
// What a reader of the screen is told of controls of our own drawing.

#include <QAccessible>
#include <QString>

class QWidget;

namespace molten::theme {

/// What a control is called, and of what kind it is: to Qt it would be a mere area.
void setSpoken(QWidget& widget, QAccessible::Role role, const QString& name);

/// A control of our own that says how it stands: a base of it beside QWidget. Others have an accessible description.
class SpokenState {
 public:
  virtual ~SpokenState() = default;
  virtual QString spokenState() const = 0;
};

/// A control stands otherwise now.
void tellState(QWidget& widget);

/// The same of one that stands for a number.
class SpokenNumber {
 public:
  virtual ~SpokenNumber() = default;
  virtual double spoken() const = 0;
  virtual double leastSpoken() const = 0;
  virtual double mostSpoken() const = 0;
  /// A reader of the screen sets it.
  virtual void takeSpoken(double number) = 0;
};

/// The number of a control has changed.
void tellNumber(QWidget& widget, double number);

}  // namespace molten::theme

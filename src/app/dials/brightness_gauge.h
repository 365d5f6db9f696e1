#pragma once
// How bright the picture is before a stage and after it.

#include <QWidget>
#include <optional>

#include "core/picture/brightness.h"

namespace molten {

/// Draws how many pixels lie at each brightness, from black to white; and says how much is burnt out, and how much black.
class BrightnessGauge : public QWidget {
  Q_OBJECT

 public:
  explicit BrightnessGauge(QWidget* parent = nullptr);
  /// None of them: nothing is known yet.
  void setBrightness(const std::optional<Brightness>& before, const std::optional<Brightness>& after);
  /// What is shown is of another picture: it is seen to be, until the next is known.
  void setOld();
  const QString& words() const { return words_; }
  /// Where the curves are.
  QRectF area() const;

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  void say(const QString& words);
  QPolygonF curve(const Brightness& brightness) const;
  void paintCurves(QPainter& painter) const;
  void paintEnds(QPainter& painter) const;

  std::optional<Brightness> before_, after_;
  bool old_ = false;
  QString words_;
};

}  // namespace molten

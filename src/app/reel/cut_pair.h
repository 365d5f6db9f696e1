#pragma once
// The two pictures that a cut lies between, kept in sight while it is pulled.

#include <QImage>
#include <QWidget>
#include <optional>

#include "core/engine/cut_motion.h"

namespace molten {

class CutPair : public QWidget {
  Q_OBJECT

 public:
  /// Lies over the window, below `below`.
  CutPair(QWidget* window, const QWidget& below);
  /// `middle`: where the cut is, in pixels of what it lies below. Pictures may be null: not there yet.
  void bringUp(int middle, const QImage& ends, const QImage& begins, const QString& words);
  /// How both move, and what is to be said of it; none: that is not known.
  void setMotions(const std::optional<Motion>& ends, const std::optional<Motion>& begins, const QString& words);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  const QWidget& below_;
  QImage ends_, begins_;
  std::optional<Motion> endMotion_, beginMotion_;
  QString words_, motionWords_;
};

}  // namespace molten

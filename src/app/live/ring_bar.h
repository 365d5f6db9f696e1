#pragma once
// The ring as a line of time: how far it reaches, and what of it the chain needs.

#include <QWidget>

#include "core/engine/live_run.h"

namespace molten {

/// From the oldest second at the left to now at the right. What is held is filled; a mark stands where the chain reads oldest.
class RingBar : public QWidget {
  Q_OBJECT

 public:
  explicit RingBar(QWidget* parent = nullptr);
  void tell(const LiveState& state);
  /// `the chain needs 4.2 s, the ring holds 9.6 s`, and what it costs.
  QString words() const;
  QSize sizeHint() const override { return {400, 46}; }

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  LiveState state_;
};

}  // namespace molten

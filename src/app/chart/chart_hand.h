#pragma once
// What a hand on the Time Chart has hold of, and what that makes of the Pace.

#include <QCoreApplication>

#include "app/chart/chart_sight.h"

namespace molten {

enum class ChartGrip { None, Scrub, Mark, GlideBegin, GlideEnd, Bend, Span, Slip, LineUp, Pan, Remedy };

struct ChartHold {
  ChartGrip grip = ChartGrip::None;
  std::size_t index = 0;  ///< of the mark or the span
  friend bool operator==(const ChartHold&, const ChartHold&) = default;
};

struct PaceEdit {
  PaceSetting pace;
  QString name;      ///< of the undo step
  QString mergeKey;  ///< edits with the same one, in one gesture, are one step
};

class ChartHand {
  Q_DECLARE_TR_FUNCTIONS(molten::ChartHand)

 public:
  explicit ChartHand(const ChartSight& sight) : sight_(sight) {}
  void setKeeping(Keeping keeping) { keeping_ = keeping; }
  Keeping keeping() const { return keeping_; }
  void setAlong(Along along) { along_ = along; }

  /// What is there to take hold of.
  ChartHold at(const QPointF& point) const;
  Qt::CursorShape cursorOver(ChartGrip grip) const;
  static QString helpFor(ChartGrip grip);

  /// Takes hold at a point, of the Pace as it is.
  void take(const ChartHold& hold, const QPointF& point);
  void letGo() { hold_ = {}; }
  const ChartHold& held() const { return hold_; }
  const QPointF& pressed() const { return pressed_; }

  /// What a drag to a point makes; none: what is held does not change the Pace. `free`: without snapping.
  std::optional<PaceEdit> dragged(const QPointF& point, bool free) const;
  /// What a key makes of the selected span or mark. `fine`: in small steps.
  std::optional<PaceEdit> keyed(int key, bool fine);
  /// In words: what a Pace would do, beside the one that was taken hold of.
  QString effect(const PaceSetting& after) const;

 private:
  PaceEdit draggedMark(const QPointF& point, bool free) const;
  PaceEdit draggedGlide(const QPointF& point, bool free) const;
  PaceEdit draggedSpan(const QPointF& point, bool free) const;
  PaceEdit spanEdit(const PaceSetting& after, std::size_t i) const;
  PaceEdit glideEdit(const PaceSetting& after, std::size_t i) const;
  double snappedTime(double t, std::optional<std::size_t> except) const;
  double snappedSource(double s) const;

  const ChartSight& sight_;
  Keeping keeping_ = Keeping::Footage;
  Along along_ = Along::Output;
  ChartHold hold_;
  QPointF pressed_;
  PaceSetting atPress_;  ///< of what is dragged, as it was
};

}  // namespace molten

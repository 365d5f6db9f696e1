#pragma once
// What the Time Chart shows, and where it stands on it. Without a widget: the drawing and the hands both ask here.

#include "app/chart/chart_state.h"
#include "app/chart/chart_view.h"

namespace molten {

/// Which way is up.
enum class ChartUp { Source, Speed };

/// Points and rectangles are in pixels of the chart.
struct ChartSight {
  ChartState state;
  std::vector<double> onsets;  ///< of laid sounds, in seconds of the piece, rising
  ChartView view;
  ChartUp up = ChartUp::Source;
  std::optional<std::size_t> span, mark;  ///< selected; one of the two at most
  std::optional<double> ring;             ///< the second of the source that the pixel under the hand reads

  bool drawable() const { return state.footage && state.reads; }
  /// The chart's size; what is in sight stays.
  void setSize(const QSizeF& size);
  /// All of the output and the source in sight.
  void fit();
  void select(std::optional<std::size_t> oneSpan, std::optional<std::size_t> oneMark);
  /// False where the mark in hand stands out of sight.
  bool showsSelected() const;

  /// Where the small pictures of the source stand, beside the drawing.
  QRectF gutter() const;
  double sourceSeconds() const;
  /// What is read at a second of the output.
  MomentReads readsAt(double t) const;
  /// What is read at the playhead, and what is in hand.
  QString words() const;
  /// A small picture's middle, and the frame that it shows.
  struct PictureRow {
    double y;
    std::int32_t frame;
  };
  std::vector<PictureRow> pictureRows() const;

  // Of the Pace; only where there is one.
  /// Where a mark stands, and where its glide's handles are (beginning, end).
  QPointF markPoint(std::size_t which) const;
  QPointF glidePoint(std::size_t which, bool end) const;
  QPointF bendPoint(std::size_t which) const;
  /// A point of a span's line, away from its marks; its label.
  QPointF spanPoint(std::size_t which) const;
  QRectF labelRect(std::size_t which) const;
  /// The onset that is nearest to a moment; none where the chart tells another time than the piece's.
  std::optional<double> onsetNear(double seconds) const;
  /// A point of the line at the playhead.
  QPointF playheadPoint() const;
};

}  // namespace molten

#pragma once
// What the Time Chart is given to draw.

#include <QImage>
#include <QString>
#include <map>
#include <memory>
#include <optional>
#include <vector>

#include "core/project/piece.h"
#include "core/stages/pace.h"
#include "core/time/pace_edits.h"

namespace molten {

/// The Pace that is edited on the chart.
struct ChartPace {
  PaceSetting setting;
  std::vector<SpanLook> looks;  ///< of its spans
  Rational clean = 1;           ///< the slowest clean speed
  InBetween inBetween = InBetween::Whole;

  friend bool operator==(const ChartPace&, const ChartPace&) = default;
};

struct ChartState {
  bool footage = false;
  Piece piece;                                ///< output, along the chart
  std::shared_ptr<const ChainReading> reads;  ///< what it reads
  std::optional<ChartPace> pace;              ///< none: the chart is only looked at
  std::int64_t frame = 0;                     ///< of the piece, at the playhead
  Span span;                                  ///< in and out
  QString remark;                             ///< why it cannot be edited
  bool ofFootage = true;                      ///< the source is the footage: its frames can be shown
  bool follows = true;                        ///< the chart tells the output's time, and can be scrubbed
  bool heldToo = false;  ///< beside the Pace another stage moves pictures: its line is drawn as well
};

/// Small pictures of the footage, by frame. Those that are missing are asked for by name.
using SmallPictures = std::map<std::int32_t, QImage>;

}  // namespace molten

#pragma once
// What the sound lanes show, and where it stands on them.

#include <QPointF>
#include <QRectF>
#include <QString>
#include <algorithm>
#include <memory>
#include <optional>
#include <vector>

#include "app/chart/chart_view.h"
#include "core/engine/heard.h"
#include "core/project/sound_edits.h"

namespace molten {

struct SoundLane {
  SoundName which;
  QString title;
  std::shared_ptr<SoundFeed> feed;             ///< nullptr: its file cannot be read
  std::shared_ptr<const SoundCurve> curve;     ///< that the shot's own sound follows; nullptr: it is laid
  LaidSound laid;                              ///< of the own sound: from 0, as long as the piece
  double begin = 0, end = 0;                   ///< of what is heard, in seconds of the piece
  double gain = 0;                             ///< decibels
  bool gainMoves = false, muted = false, alone = false, heard = true;
  std::vector<double> onsets;                  ///< in seconds of the piece
};

struct SoundLanesState {
  std::vector<SoundLane> lanes;
  Rational rate = 25;          ///< of the piece
  double length = 0;           ///< of the piece, in seconds
  double playhead = 0;
  std::vector<double> marks;   ///< of the Pace, in seconds of the piece
};

enum class SoundGrip { None, Body, Start, End, FadeIn, FadeOut, Gain, Mute, Alone };

struct SoundHold {
  SoundGrip grip = SoundGrip::None;
  std::size_t lane = 0;
};

/// Points and rectangles are in pixels of the lanes.
struct SoundSight {
  SoundLanesState state;
  ChartView view;
  QSizeF size;
  std::vector<std::size_t> selected;  ///< lanes, the one that was taken last at the end

  bool isSelected(std::size_t lane) const { return std::find(selected.begin(), selected.end(), lane) != selected.end(); }

  std::size_t count() const { return state.lanes.size(); }
  bool isLaid(std::size_t lane) const { return state.lanes[lane].which.has_value(); }
  QRectF laneRect(std::size_t lane) const;
  /// Where a sound lies; of no width where it lasts no time.
  QRectF bodyRect(std::size_t lane) const;
  QRectF buttonRect(std::size_t lane, SoundGrip button) const;
  QPointF fadePoint(std::size_t lane, bool out) const;
  /// Of the line that says the gain.
  double gainY(std::size_t lane) const;
  double gainAt(std::size_t lane, double y) const;
  SoundHold holdAt(const QPointF& at) const;
  /// A moment, or the one worth stopping at that is nearest to it within a few pixels: the playhead, marks, both ends of the
  /// piece, other sounds' ends and onsets. `lane`: which moves.
  double snapped(double seconds, std::size_t lane) const;
};

}  // namespace molten

#pragma once
// What the key lanes show, and where it stands on them.

#include <QPointF>
#include <QRectF>
#include <QString>
#include <memory>
#include <optional>
#include <set>

#include "app/chart/chart_view.h"
#include "core/stages/stage.h"

namespace molten {

struct KeyLane {
  std::size_t parameter = 0;
  QString label;
  std::size_t curves = 1;  ///< two of a place, three of a colour
  KeyTrack track;
  Drives drives = {};
  KeyValue value = {};  ///< without keys
  std::shared_ptr<const Followed> followed = nullptr;

  /// The value as keys alone have it, and as it will be. Seconds of the stage's own output.
  KeyValue keyedAt(double seconds) const { return track.empty() ? value : keyedValue(track, seconds); }
  KeyValue at(const ParameterDescription& described, double seconds) const;
  /// False while what it follows is still being measured.
  bool known() const;
};

struct KeyLanesState {
  std::vector<KeyLane> lanes;
  const StageKind* kind = nullptr;
  Rational rate = 25;     ///< of the stage's pictures: keys stand on them
  Rational playhead = 0;  ///< on the stage's own output, in seconds
};

/// Lane, and key in it.
using KeyName = std::pair<std::size_t, std::size_t>;

enum class KeyGrip { None, Key, Leave, Arrive, Frame, First, Last };

struct KeyHold {
  KeyGrip grip = KeyGrip::None;
  KeyName key;
};

/// Points and rectangles are in pixels of the lanes.
struct KeySight {
  struct Range {
    double low = 0, high = 1;
  };
  /// Where the selection begins and ends, with the brackets that stretch it.
  struct Brackets {
    Rational first, last;  ///< seconds
    QRectF left, right;
  };

  KeyLanesState state;
  ChartView view;
  QSizeF size;
  std::set<KeyName> selected;
  /// While a key is held its lane's values stay where they are on the screen: parameter and range.
  std::optional<std::pair<std::size_t, Range>> heldRange;

  std::size_t count() const { return state.lanes.size(); }
  const KeyTrack& track(std::size_t lane) const { return state.lanes[lane].track; }
  const Key& key(const KeyName& name) const { return track(name.first)[name.second]; }
  std::vector<std::size_t> selectedOf(std::size_t lane) const;
  QRectF laneRect(std::size_t lane) const;
  Range rangeOf(const KeyLane& lane) const;
  double yOf(std::size_t lane, const Range& range, double value) const;
  QPointF keyPoint(std::size_t lane, std::size_t key) const;
  /// The handles of the way to a key: at the key before, and at the key itself.
  QPointF easePoint(std::size_t lane, std::size_t key, bool arriving) const;
  /// None where a single moment is selected.
  std::optional<Brackets> brackets() const;
  KeyHold holdAt(const QPointF& at) const;
  /// The moment of the picture nearest to a place along.
  Rational pictureAt(double x) const;
  /// With its unit.
  QString valueText(const KeyLane& lane, const KeyValue& value) const;
  const ParameterDescription& described(const KeyLane& lane) const {
    return state.kind->description().parameters[lane.parameter];
  }
};

/// Of some keys, those of a lane.
std::vector<std::size_t> keysOfLane(const std::set<KeyName>& keys, std::size_t lane);

}  // namespace molten

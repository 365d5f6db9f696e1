#include "app/chart/key_lanes.h"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

namespace molten {
namespace {

constexpr double bracketWidth = 5, bracketOff = 11;
constexpr double grabbed = 9;

}  // namespace

KeyLanes::KeyLanes(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::ClickFocus);
  setMouseTracking(true);
  setAccessibleName(tr("Key lanes"));
  hide();
}

void KeyLanes::setState(const KeyLanesState& state) {
  const bool others = state.lanes.size() != state_.lanes.size() || state.kind != state_.kind;
  state_ = state;
  if (others) selected_.clear();
  std::erase_if(selected_, [&](const KeyName& key) {
    return key.first >= state_.lanes.size() || key.second >= state_.lanes[key.first].track.size();
  });
  setVisible(!state_.lanes.empty());
  setFixedHeight(std::max(1, static_cast<int>(std::min<std::size_t>(4, state_.lanes.size())) * laneHeight));
  update();
}

void KeyLanes::setPlayhead(Rational seconds) {
  if (seconds == state_.playhead) return;
  state_.playhead = seconds;
  update();
}

void KeyLanes::setView(const ChartView& view) {
  view_ = view;
  update();
}

QRectF KeyLanes::laneRect(std::size_t lane) const {
  const double each =
      static_cast<double>(height()) / static_cast<double>(std::max<std::size_t>(1, state_.lanes.size()));
  return {0, each * static_cast<double>(lane), static_cast<double>(width()), each};
}

KeyLanes::Range KeyLanes::rangeOf(const KeyLane& lane) const {
  if (hold_.grip == Grip::Key && lane.parameter == state_.lanes[hold_.key.first].parameter) return rangeBefore_;
  Range range{1e300, -1e300};
  for (const Key& key : lane.track)
    for (int i = 0; i < (lane.place ? 2 : 1); ++i)
      range = {std::min(range.low, key.value[static_cast<std::size_t>(i)]),
               std::max(range.high, key.value[static_cast<std::size_t>(i)])};
  if (range.high - range.low < 1e-9) {
    const double around = std::max(0.1, std::abs(range.high) / 2);
    range = {range.low - around, range.high + around};
  }
  return range;
}

double KeyLanes::yOf(std::size_t lane, const Range& range, double value) const {
  const QRectF box = laneRect(lane).adjusted(0, 8, 0, -8);
  return box.bottom() - (value - range.low) / (range.high - range.low) * box.height();
}

QPointF KeyLanes::keyPoint(std::size_t lane, std::size_t key) const {
  const KeyLane& of = state_.lanes[lane];
  return {view_.xOf(of.track[key].at.toDouble()), yOf(lane, rangeOf(of), of.track[key].value[0])};
}

QPointF KeyLanes::easePoint(std::size_t lane, std::size_t key, bool arriving) const {
  const KeyLane& of = state_.lanes[lane];
  const Key &from = of.track[key - 1], &to = of.track[key];
  const double span = (to.at - from.at).toDouble();
  const Range range = rangeOf(of);
  // Their rests stand a little off the keys, so that they can be told from them.
  constexpr double rest = 14;
  const double way = view_.xOf(to.at.toDouble()) - view_.xOf(from.at.toDouble());
  const double least = std::min(rest, way / 3);
  if (arriving)
    return {view_.xOf(to.at.toDouble() - to.ease.arrive * span) - (1 - to.ease.arrive) * least,
            yOf(lane, range, to.value[0])};
  return {view_.xOf(from.at.toDouble() + to.ease.leave * span) + (1 - to.ease.leave) * least,
          yOf(lane, range, from.value[0])};
}

/// The moment of the picture nearest to a place along.
Rational KeyLanes::pictureAt(double x) const {
  const auto picture = static_cast<std::int64_t>(std::llround(std::max(0.0, view_.timeAt(x)) * state_.rate.toDouble()));
  return Rational(picture) / state_.rate;
}

std::optional<KeyLanes::Brackets> KeyLanes::brackets() const {
  if (selected_.size() < 2) return std::nullopt;
  std::optional<Brackets> found;
  QRectF rows;
  for (const auto& [lane, key] : selected_) {
    if (lane >= state_.lanes.size() || key >= state_.lanes[lane].track.size()) return std::nullopt;
    const Rational at = state_.lanes[lane].track[key].at;
    if (!found) found = Brackets{at, at, {}, {}};
    found->first = std::min(found->first, at), found->last = std::max(found->last, at);
    rows = rows.united(laneRect(lane));
  }
  if (found->first == found->last) return std::nullopt;
  const auto beside = [&](Rational at, double off) {
    return QRectF(view_.xOf(at.toDouble()) + off - bracketWidth / 2, rows.top() + 4, bracketWidth, rows.height() - 8);
  };
  found->left = beside(found->first, -bracketOff), found->right = beside(found->last, bracketOff);
  return found;
}

KeyLanes::Hold KeyLanes::holdAt(const QPointF& at) const {
  if (const auto both = brackets()) {
    if (both->left.adjusted(-3, 0, 3, 0).contains(at)) return {Grip::First, {}};
    if (both->right.adjusted(-3, 0, 3, 0).contains(at)) return {Grip::Last, {}};
  }
  Hold nearest;
  double least = grabbed;
  const auto consider = [&](const QPointF& point, Grip grip, KeyName key) {
    const double away = std::hypot(point.x() - at.x(), point.y() - at.y());
    if (away < least) least = away, nearest = {grip, key};
  };
  for (const KeyName& key : selected_) {
    if (key.second == 0) continue;
    consider(easePoint(key.first, key.second, false), Grip::Leave, key);
    consider(easePoint(key.first, key.second, true), Grip::Arrive, key);
  }
  for (std::size_t lane = 0; lane < state_.lanes.size(); ++lane)
    for (std::size_t key = 0; key < state_.lanes[lane].track.size(); ++key) {
      consider(keyPoint(lane, key), Grip::Key, {lane, key});
      if (!state_.lanes[lane].place) continue;
      const Key& of = state_.lanes[lane].track[key];
      consider({view_.xOf(of.at.toDouble()), yOf(lane, rangeOf(state_.lanes[lane]), of.value[1])}, Grip::Key,
               {lane, key});
    }
  return nearest;
}

std::vector<std::size_t> KeyLanes::selectedOf(std::size_t lane) const {
  std::vector<std::size_t> which;
  for (const KeyName& key : selected_)
    if (key.first == lane) which.push_back(key.second);
  return which;
}

void KeyLanes::selectMoments(std::size_t lane, const KeyTrack& track, const std::vector<Rational>& moments) {
  std::erase_if(selected_, [&](const KeyName& key) { return key.first == lane; });
  for (const Rational moment : moments)
    if (const auto key = keyAt(track, moment)) selected_.insert({lane, *key});
}

void KeyLanes::apply(std::size_t lane, const KeyTrack& track, const QString& name, const QString& mergeKey) {
  // What stands after it is heard of at once, through setState().
  emit changed(state_.lanes[lane].parameter, track, name, mergeKey);
}

QString KeyLanes::valueText(const KeyLane& lane, const Key& key) const {
  const auto& described = state_.kind->description().parameters[lane.parameter];
  return QString::fromStdString(valueLabel(described, keyedParameter(described, key.value)));
}

void KeyLanes::mousePressEvent(QMouseEvent* event) {
  pressed_ = pointer_ = event->position();
  if (event->button() != Qt::LeftButton) return;
  hold_ = holdAt(event->position());
  const bool more = event->modifiers() & (Qt::ShiftModifier | Qt::ControlModifier);
  if (hold_.grip == Grip::Key) {
    if (more && selected_.contains(hold_.key))
      selected_.erase(hold_.key);
    else if (!selected_.contains(hold_.key)) {
      if (!more) selected_.clear();
      selected_.insert(hold_.key);
    }
    const Grip grip = std::exchange(hold_.grip, Grip::None);
    rangeBefore_ = rangeOf(state_.lanes[hold_.key.first]);
    hold_.grip = grip;
  } else if (hold_.grip == Grip::None) {
    if (!more) selected_.clear();
    hold_.grip = Grip::Frame;
  }
  remember();
  update();
}

void KeyLanes::remember() {
  before_.clear();
  for (const KeyLane& lane : state_.lanes) before_.push_back(lane.track);
  selectedBefore_ = selected_;
}

void KeyLanes::mouseMoveEvent(QMouseEvent* event) {
  pointer_ = event->position();
  if (!(event->buttons() & Qt::LeftButton)) {
    const Hold over = holdAt(event->position());
    setCursor(over.grip == Grip::None ? Qt::ArrowCursor : Qt::SizeAllCursor);
    if (over.grip == Grip::Key) {
      const KeyLane& lane = state_.lanes[over.key.first];
      const Key& key = lane.track[over.key.second];
      emit said(tr("%1 %2 at %3")
                    .arg(lane.label, valueText(lane, key), QString::fromStdString(secondsText(key.at.toDouble(), 2))));
    } else {
      emit said({});
    }
    return;
  }
  const KeyName held = hold_.key;
  switch (hold_.grip) {
    case Grip::Key: {
      if (held.first >= before_.size() || held.second >= before_[held.first].size()) return;
      const Key& taken = before_[held.first][held.second];
      const Rational to = pictureAt(view_.xOf(taken.at.toDouble()) + event->position().x() - pressed_.x());
      for (std::size_t lane = 0; lane < before_.size(); ++lane) {
        std::vector<std::size_t> which;
        for (const KeyName& key : selectedBefore_)
          if (key.first == lane) which.push_back(key.second);
        if (which.empty()) continue;
        KeyTrack track = before_[lane];
        // Up and down is for one key of a number alone.
        const bool single = selectedBefore_.size() == 1 && !state_.lanes[lane].place;
        if (single && std::abs(event->position().y() - pressed_.y()) > 2) {
          const QRectF box = laneRect(lane).adjusted(0, 8, 0, -8);
          const auto& described = state_.kind->description().parameters[state_.lanes[lane].parameter];
          const double by =
              (pressed_.y() - event->position().y()) / box.height() * (rangeBefore_.high - rangeBefore_.low);
          track[held.second].value[0] = std::get<double>(withinRange(described, taken.value[0] + by));
        }
        std::vector<Rational> moments;
        const std::size_t first = which.front();
        const Rational by = std::max(to - taken.at, Rational(0) - track[first].at);
        for (const std::size_t key : which) moments.push_back(track[key].at + by);
        track = movedKeys(track, which, by);
        apply(lane, track, tr("Move keys of %1").arg(state_.lanes[lane].label), "keys");
        selectMoments(lane, state_.lanes[lane].track, moments);
      }
      if (held.first < state_.lanes.size()) {
        const KeyLane& lane = state_.lanes[held.first];
        if (const auto key = keyAt(lane.track, to))
          emit said(tr("%1 at %2")
                        .arg(valueText(lane, lane.track[*key]), QString::fromStdString(secondsText(to.toDouble(), 2))));
      }
      return;
    }
    case Grip::First:
    case Grip::Last:
      return stretchTo(event->position().x());
    case Grip::Leave:
    case Grip::Arrive: {
      KeyTrack track = state_.lanes[held.first].track;
      Key& key = track[held.second];
      const double from = view_.xOf(track[held.second - 1].at.toDouble()), to = view_.xOf(key.at.toDouble());
      const double part = std::clamp((event->position().x() - from) / std::max(1.0, to - from), 0.0, 1.0);
      const auto two = [](double value) { return std::round(value * 100) / 100; };
      if (key.ease.way != Ease::Way::Curve) key.ease = {Ease::Way::Curve, 0, 0};
      (hold_.grip == Grip::Leave ? key.ease.leave : key.ease.arrive) = two(hold_.grip == Grip::Leave ? part : 1 - part);
      apply(held.first, track, tr("Ease of %1").arg(state_.lanes[held.first].label), "ease");
      emit said(tr("lingers %1 % at the key before, %2 % at this one")
                    .arg(key.ease.leave * 100, 0, 'f', 0)
                    .arg(key.ease.arrive * 100, 0, 'f', 0));
      return;
    }
    case Grip::Frame: {
      const QRectF frame = QRectF(pressed_, event->position()).normalized();
      selected_ = selectedBefore_;
      for (std::size_t lane = 0; lane < state_.lanes.size(); ++lane)
        for (std::size_t key = 0; key < state_.lanes[lane].track.size(); ++key)
          if (frame.contains(keyPoint(lane, key))) selected_.insert({lane, key});
      update();
      return;
    }
    default:
      return;
  }
}

void KeyLanes::mouseReleaseEvent(QMouseEvent* event) {
  // A click on the ground goes there.
  if (hold_.grip == Grip::Frame && (event->position() - pressed_).manhattanLength() < 4)
    emit scrubbed(pictureAt(event->position().x()));
  if (hold_.grip != Grip::None && hold_.grip != Grip::Frame) emit gestureEnded();
  hold_ = {};
  update();
}

void KeyLanes::mouseDoubleClickEvent(QMouseEvent* event) {
  if (holdAt(event->position()).grip == Grip::Key) return;
  for (std::size_t lane = 0; lane < state_.lanes.size(); ++lane) {
    if (!laneRect(lane).contains(event->position())) continue;
    const Rational at = pictureAt(event->position().x());
    const KeyTrack& track = state_.lanes[lane].track;
    apply(lane, withKey(track, at, keyedValue(track, at.toDouble())), tr("Key of %1").arg(state_.lanes[lane].label),
          {});
    emit gestureEnded();
    selectMoments(lane, state_.lanes[lane].track, {at});
  }
}

void KeyLanes::setEase(const Ease& ease, const QString& name) {
  for (std::size_t lane = 0; lane < state_.lanes.size(); ++lane) {
    const auto which = selectedOf(lane);
    if (which.empty()) continue;
    KeyTrack track = state_.lanes[lane].track;
    for (const std::size_t key : which) track[key].ease = ease;
    apply(lane, track, name, "ease all");
  }
  emit gestureEnded();
}

void KeyLanes::nudge(std::int64_t pictures) {
  for (std::size_t lane = 0; lane < state_.lanes.size(); ++lane) {
    const auto which = selectedOf(lane);
    if (which.empty()) continue;
    const KeyTrack before = state_.lanes[lane].track;
    const Rational by = std::max(Rational(pictures) / state_.rate, Rational(0) - before[which.front()].at);
    std::vector<Rational> moments;
    for (const std::size_t key : which) moments.push_back(before[key].at + by);
    apply(lane, movedKeys(before, which, by), tr("Nudge keys of %1").arg(state_.lanes[lane].label), "nudge");
    selectMoments(lane, state_.lanes[lane].track, moments);
  }
}

/// The selection before, every key so many times as far from a moment.
void KeyLanes::stretch(Rational factor, Rational around) {
  for (std::size_t lane = 0; lane < before_.size(); ++lane) {
    std::vector<std::size_t> which;
    std::vector<Rational> moments;
    for (const KeyName& key : selectedBefore_)
      if (key.first == lane) {
        which.push_back(key.second);
        moments.push_back(around + (before_[lane][key.second].at - around) * factor);
      }
    if (which.empty()) continue;
    apply(lane, scaledKeys(before_[lane], which, around, factor),
          tr("Stretch keys of %1").arg(state_.lanes[lane].label), "stretch");
    selectMoments(lane, state_.lanes[lane].track, moments);
  }
}

/// The bracket in hand at a place along; the other end of the selection stays.
void KeyLanes::stretchTo(double x) {
  std::optional<Rational> first, last;
  for (const auto& [lane, key] : selectedBefore_) {
    const Rational at = before_[lane][key].at;
    first = std::min(first.value_or(at), at), last = std::max(last.value_or(at), at);
  }
  if (!first || *first == *last) return;
  const bool atEnd = hold_.grip == Grip::Last;
  const Rational around = atEnd ? *first : *last, held = atEnd ? *last : *first;
  // A bracket stands beside its key, and is taken hold of anywhere.
  const Rational moment = pictureAt(x - (pressed_.x() - view_.xOf(held.toDouble())));
  // Keys stay in their order, a picture apart at least.
  const Rational factor = std::max((moment - around) / (held - around), Rational(1, 100));
  stretch(factor, around);
  emit said(tr("%1 %").arg((factor * 100).toDouble(), 0, 'f', 0));
}

void KeyLanes::remove() {
  const auto lanes = state_.lanes;
  std::set<KeyName> gone;
  gone.swap(selected_);
  for (std::size_t lane = lanes.size(); lane-- > 0;) {
    std::vector<std::size_t> which;
    for (const KeyName& key : gone)
      if (key.first == lane) which.push_back(key.second);
    if (!which.empty())
      apply(lane, withoutKeys(lanes[lane].track, which), tr("Remove keys of %1").arg(lanes[lane].label), "remove keys");
  }
  emit gestureEnded();
}

void KeyLanes::copy() {
  for (std::size_t lane = 0; lane < state_.lanes.size(); ++lane) {
    const auto which = selectedOf(lane);
    if (which.empty()) continue;
    copied_.clear();
    for (const std::size_t key : which) copied_.push_back(state_.lanes[lane].track[key]);
    emit said(copied_.size() == 1 ? tr("One key copied") : tr("%1 keys copied").arg(copied_.size()));
    return;
  }
}

/// At the playhead, into the lane of what is selected, or the first one.
void KeyLanes::paste() {
  if (copied_.empty() || state_.lanes.empty()) return;
  const std::size_t lane = selected_.empty() ? 0 : selected_.begin()->first;
  std::vector<Rational> moments;
  for (const Key& key : copied_) moments.push_back(key.at - copied_.front().at + state_.playhead);
  apply(lane, withPasted(state_.lanes[lane].track, copied_, state_.playhead),
        tr("Paste keys of %1").arg(state_.lanes[lane].label), {});
  emit gestureEnded();
  selectMoments(lane, state_.lanes[lane].track, moments);
  update();
}

bool KeyLanes::event(QEvent* event) {
  // While keys are selected, what acts on them comes before the window's own.
  if (event->type() == QEvent::ShortcutOverride) {
    const auto* key = static_cast<QKeyEvent*>(event);
    const bool copying = key->matches(QKeySequence::Copy) || key->matches(QKeySequence::Paste);
    if (copying || (!selected_.empty() &&
                    (key->key() == Qt::Key_Delete || key->key() == Qt::Key_Left || key->key() == Qt::Key_Right))) {
      event->accept();
      return true;
    }
  }
  return QWidget::event(event);
}

void KeyLanes::keyPressEvent(QKeyEvent* event) {
  if (event->matches(QKeySequence::Copy)) return copy();
  if (event->matches(QKeySequence::Paste)) return paste();
  if (!selected_.empty()) {
    const std::int64_t step = event->modifiers() & Qt::ShiftModifier ? 10 : 1;
    if (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) return remove();
    if (event->key() == Qt::Key_Left) return nudge(-step);
    if (event->key() == Qt::Key_Right) return nudge(step);
    if (event->key() == Qt::Key_Escape) {
      selected_.clear();
      return update();
    }
  }
  QWidget::keyPressEvent(event);
}

void KeyLanes::contextMenuEvent(QContextMenuEvent* event) {
  const Hold over = holdAt(event->pos());
  if (over.grip == Grip::Key && !selected_.contains(over.key)) selected_ = {over.key};
  update();
  QMenu menu;
  if (!selected_.empty()) {
    menu.addAction(tr("Come here evenly"), this, [this] { setEase({}, tr("Linear keys")); });
    menu.addAction(tr("Come here softly"), this, [this] { setEase(softEase, tr("Ease keys")); });
    menu.addAction(tr("Hold, then jump here"), this, [this] { setEase({Ease::Way::Hold, 0, 0}, tr("Hold keys")); });
    menu.addSeparator();
    menu.addAction(tr("Copy"), QKeySequence(QKeySequence::Copy), this, &KeyLanes::copy);
  }
  QAction* pasting =
      menu.addAction(tr("Paste at the playhead"), QKeySequence(QKeySequence::Paste), this, &KeyLanes::paste);
  pasting->setEnabled(!copied_.empty());
  if (const auto between = brackets()) {
    const auto stretched = [this, from = between->first](Rational factor) {
      remember();
      stretch(factor, from);
      emit gestureEnded();
    };
    menu.addSeparator();
    menu.addAction(tr("Twice as long"), this, [stretched] { stretched(2); });
    menu.addAction(tr("Half as long"), this, [stretched] { stretched(Rational(1, 2)); });
  }
  if (!selected_.empty()) {
    menu.addSeparator();
    menu.addAction(tr("Remove"), QKeySequence(QKeySequence::Delete), this, &KeyLanes::remove);
  }
  menu.exec(event->globalPos());
}

}  // namespace molten

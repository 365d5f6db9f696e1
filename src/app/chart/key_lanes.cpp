#include "app/chart/key_lanes.h"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>


namespace molten {
namespace {

std::vector<Rational> momentsOf(const KeyTrack& track, const std::vector<std::size_t>& keys) {
  std::vector<Rational> moments;
  for (const std::size_t key : keys) moments.push_back(track[key].at);
  return moments;
}

/// Along by so much; none to before 0.
ChangedKeys movedAlong(const KeyTrack& track, const std::vector<std::size_t>& keys, Rational by) {
  by = std::max(by, Rational(0) - track[keys.front()].at);
  std::vector<Rational> moments = momentsOf(track, keys);
  for (Rational& moment : moments) moment = moment + by;
  return {movedKeys(track, keys, by), std::move(moments)};
}

}  // namespace

KeyLanes::KeyLanes(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  theme::setSpoken(*this, QAccessible::Chart, tr("Key lanes"));
}

void KeyLanes::setState(const KeyLanesState& state) {
  const bool others = state.lanes.size() != sight_.count() || state.kind != sight_.state.kind;
  sight_.state = state;
  if (others) sight_.selected.clear();
  std::erase_if(sight_.selected, [&](const KeyName& key) {
    return key.first >= sight_.count() || key.second >= sight_.track(key.first).size();
  });
  emit counted();
  sight_.size = size();
  update();
}

void KeyLanes::setPlayhead(Rational seconds) {
  if (seconds == sight_.state.playhead) return;
  sight_.state.playhead = seconds;
  update();
}

void KeyLanes::setView(const ChartView& view) {
  if (view == sight_.view) return;
  sight_.view = view;
  update();
}

void KeyLanes::resizeEvent(QResizeEvent*) {
  sight_.size = size();
}

QString KeyLanes::spokenState() const {
  if (sight_.selected.empty()) return tr("%1 values move; up and down select a key").arg(sight_.count());
  if (sight_.selected.size() > 1) return tr("%1 keys are selected").arg(sight_.selected.size());
  const KeyName& name = *sight_.selected.begin();
  const KeyLane& lane = sight_.state.lanes[name.first];
  const Key& key = sight_.key(name);
  return tr("%1, key %2 of %3: %4 at %5")
      .arg(lane.label, QString::number(name.second + 1), QString::number(lane.track.size()), sight_.valueText(lane, key.value),
           QString::fromStdString(secondsText(key.at.toDouble())));
}

// ---- what is selected, and what it becomes

void KeyLanes::select(const KeyName& key, bool more) {
  const bool known = sight_.selected.contains(key);
  if (more && known) {
    sight_.selected.erase(key);
  } else if (!known) {
    if (!more) sight_.selected.clear();
    sight_.selected.insert(key);
  }
  theme::tellState(*this);
}

void KeyLanes::selectBeside(int by) {
  std::vector<KeyName> all;
  for (std::size_t lane = 0; lane < sight_.count(); ++lane)
    for (std::size_t key = 0; key < sight_.track(lane).size(); ++key) all.push_back({lane, key});
  if (all.empty()) return;
  auto to = all.begin();
  if (!sight_.selected.empty()) {
    const auto from = std::find(all.begin(), all.end(), by > 0 ? *sight_.selected.rbegin() : *sight_.selected.begin());
    const auto at = std::clamp<std::ptrdiff_t>(from - all.begin() + by, 0, static_cast<std::ptrdiff_t>(all.size()) - 1);
    to = all.begin() + at;
  }
  sight_.selected = {*to};
  emit said(spokenState());
  theme::tellState(*this);
  update();
}

void KeyLanes::selectMoments(std::size_t lane, const std::vector<Rational>& moments) {
  std::erase_if(sight_.selected, [&](const KeyName& key) { return key.first == lane; });
  for (const Rational moment : moments)
    if (const auto key = keyAt(sight_.track(lane), moment)) sight_.selected.insert({lane, *key});
}

void KeyLanes::apply(std::size_t lane, const KeyTrack& track, const QString& name, const QString& mergeKey) {
  // What stands after it is heard of at once, through setState().
  emit changed(sight_.state.lanes[lane].parameter, track, name, mergeKey);
}

void KeyLanes::changeKeys(const std::vector<KeyTrack>& from, const std::set<KeyName>& keys, const Change& change,
                          const QString& name, const QString& mergeKey) {
  for (std::size_t lane = 0; lane < from.size() && lane < sight_.count(); ++lane) {
    const auto which = keysOfLane(keys, lane);
    if (which.empty()) continue;
    const ChangedKeys made = change(from[lane], which);
    apply(lane, made.track, name.contains("%1") ? name.arg(sight_.state.lanes[lane].label) : name, mergeKey);
    selectMoments(lane, made.moments);
  }
}

std::vector<KeyTrack> KeyLanes::tracks() const {
  std::vector<KeyTrack> all;
  for (const KeyLane& lane : sight_.state.lanes) all.push_back(lane.track);
  return all;
}

void KeyLanes::remember() {
  tracksAtPress_ = tracks();
  selectedAtPress_ = sight_.selected;
}

void KeyLanes::setEase(const Ease& ease, const QString& name) {
  const auto eased = [&ease](const KeyTrack& track, const std::vector<std::size_t>& keys) {
    KeyTrack after = track;
    for (const std::size_t key : keys) after[key].ease = ease;
    return ChangedKeys{std::move(after), momentsOf(track, keys)};
  };
  changeKeys(tracks(), sight_.selected, eased, name, "ease all");
  emit gestureEnded();
}

void KeyLanes::nudge(std::int64_t pictures) {
  const auto nudged = [by = Rational(pictures) / sight_.state.rate](const KeyTrack& track,
                                                                    const std::vector<std::size_t>& keys) {
    return movedAlong(track, keys, by);
  };
  changeKeys(tracks(), sight_.selected, nudged, tr("Nudge keys of %1"), "nudge");
}

/// What was selected, every key so many times as far from a moment.
void KeyLanes::stretch(Rational factor, Rational around) {
  const auto stretched = [&](const KeyTrack& track, const std::vector<std::size_t>& keys) {
    std::vector<Rational> moments = momentsOf(track, keys);
    for (Rational& moment : moments) moment = around + (moment - around) * factor;
    return ChangedKeys{scaledKeys(track, keys, around, factor), std::move(moments)};
  };
  changeKeys(tracksAtPress_, selectedAtPress_, stretched, tr("Stretch keys of %1"), "stretch");
}

/// The bracket in hand at a place along; the other end of the selection stays.
void KeyLanes::stretchTo(double x) {
  std::optional<Rational> first, last;
  for (const auto& [lane, key] : selectedAtPress_) {
    const Rational at = tracksAtPress_[lane][key].at;
    first = std::min(first.value_or(at), at), last = std::max(last.value_or(at), at);
  }
  if (!first || *first == *last) return;
  const bool atEnd = hold_.grip == KeyGrip::Last;
  const Rational around = atEnd ? *first : *last, held = atEnd ? *last : *first;
  // A bracket stands beside its key, and is taken hold of anywhere.
  const Rational moment = sight_.pictureAt(x - (pressed_.x() - sight_.view.xOf(held.toDouble())));
  // Keys stay in their order, a picture apart at least.
  const Rational factor = std::max((moment - around) / (held - around), Rational(1, 100));
  stretch(factor, around);
  emit said(tr("%1 %").arg((factor * 100).toDouble(), 0, 'f', 0));
}

void KeyLanes::remove() {
  std::set<KeyName> gone;
  gone.swap(sight_.selected);
  // From the last lane on: one without keys goes.
  const auto lanes = sight_.state.lanes;
  for (std::size_t lane = lanes.size(); lane-- > 0;)
    if (const auto which = keysOfLane(gone, lane); !which.empty())
      apply(lane, withoutKeys(lanes[lane].track, which), tr("Remove keys of %1").arg(lanes[lane].label), "remove keys");
  emit gestureEnded();
}

void KeyLanes::copy() {
  for (std::size_t lane = 0; lane < sight_.state.lanes.size(); ++lane) {
    const auto which = sight_.selectedOf(lane);
    if (which.empty()) continue;
    copied_.clear();
    for (const std::size_t key : which) copied_.push_back(sight_.state.lanes[lane].track[key]);
    emit said(copied_.size() == 1 ? tr("One key copied") : tr("%1 keys copied").arg(copied_.size()));
    return;
  }
}

/// At the playhead, into the lane of what is selected, or the first one.
void KeyLanes::paste() {
  if (copied_.empty() || sight_.count() == 0) return;
  const std::size_t lane = sight_.selected.empty() ? 0 : sight_.selected.begin()->first;
  std::vector<Rational> moments;
  for (const Key& key : copied_) moments.push_back(key.at - copied_.front().at + sight_.state.playhead);
  apply(lane, withPasted(sight_.track(lane), copied_, sight_.state.playhead),
        tr("Paste keys of %1").arg(sight_.state.lanes[lane].label), {});
  emit gestureEnded();
  selectMoments(lane, moments);
  update();
}

// ---- hands

void KeyLanes::mousePressEvent(QMouseEvent* event) {
  pressed_ = pointer_ = event->position();
  if (event->button() != Qt::LeftButton) return;
  hold_ = sight_.holdAt(event->position());
  const bool more = event->modifiers() & (Qt::ShiftModifier | Qt::ControlModifier);
  if (hold_.grip == KeyGrip::Key) {
    select(hold_.key, more);
    const KeyLane& lane = sight_.state.lanes[hold_.key.first];
    sight_.heldRange = {lane.parameter, sight_.rangeOf(lane)};
  } else if (hold_.grip == KeyGrip::None) {
    if (!more) sight_.selected.clear();
    hold_.grip = KeyGrip::Frame;
  }
  remember();
  update();
}

void KeyLanes::mouseMoveEvent(QMouseEvent* event) {
  pointer_ = event->position();
  if (!(event->buttons() & Qt::LeftButton)) return hover(pointer_);
  switch (hold_.grip) {
    case KeyGrip::Key:
      return dragKeys(pointer_);
    case KeyGrip::First:
    case KeyGrip::Last:
      return stretchTo(pointer_.x());
    case KeyGrip::Leave:
    case KeyGrip::Arrive:
      return dragEase(pointer_);
    case KeyGrip::Frame:
      return dragFrame(pointer_);
    case KeyGrip::None:
      return;
  }
}

void KeyLanes::hover(const QPointF& point) {
  const KeyHold over = sight_.holdAt(point);
  setCursor(over.grip == KeyGrip::None ? Qt::ArrowCursor : Qt::SizeAllCursor);
  if (over.grip != KeyGrip::Key) return emit said({});
  const KeyLane& lane = sight_.state.lanes[over.key.first];
  const Key& key = sight_.key(over.key);
  emit said(
      tr("%1 %2 at %3")
          .arg(lane.label, sight_.valueText(lane, key.value), QString::fromStdString(secondsText(key.at.toDouble(), 2))));
}

/// Along to other pictures; one key of a number alone also up and down to another value.
void KeyLanes::dragKeys(const QPointF& point) {
  const std::size_t heldLane = hold_.key.first, heldKey = hold_.key.second;
  if (heldLane >= tracksAtPress_.size() || heldKey >= tracksAtPress_[heldLane].size()) return;
  const Key taken = tracksAtPress_[heldLane][heldKey];
  const Rational to = sight_.pictureAt(sight_.view.xOf(taken.at.toDouble()) + point.x() - pressed_.x());
  std::optional<double> value;
  if (const KeyLane& lane = sight_.state.lanes[heldLane];
      selectedAtPress_.size() == 1 && lane.curves == 1 && std::abs(point.y() - pressed_.y()) > 2) {
    const KeySight::Range range = sight_.rangeOf(lane);
    const double height = sight_.laneRect(heldLane).height() - 16;
    const double by = (pressed_.y() - point.y()) / height * (range.high - range.low);
    value =
        std::get<double>(withinRange(sight_.state.kind->description().parameters[lane.parameter], taken.value[0] + by));
  }
  const auto moved = [&](const KeyTrack& track, const std::vector<std::size_t>& keys) {
    KeyTrack changed = track;
    if (value) changed[heldKey].value[0] = *value;
    return movedAlong(changed, keys, to - taken.at);
  };
  changeKeys(tracksAtPress_, selectedAtPress_, moved, tr("Move keys of %1"), "keys");
  if (heldLane >= sight_.count()) return;
  const KeyLane& lane = sight_.state.lanes[heldLane];
  if (const auto key = keyAt(lane.track, to))
    emit said(
        tr("%1 at %2")
            .arg(sight_.valueText(lane, lane.track[*key].value), QString::fromStdString(secondsText(to.toDouble(), 2))));
}

void KeyLanes::dragEase(const QPointF& point) {
  const auto [lane, number] = hold_.key;
  KeyTrack track = sight_.track(lane);
  Key& key = track[number];
  const double from = sight_.view.xOf(track[number - 1].at.toDouble()), to = sight_.view.xOf(key.at.toDouble());
  const double part = std::clamp((point.x() - from) / std::max(1.0, to - from), 0.0, 1.0);
  const auto two = [](double value) { return std::round(value * 100) / 100; };
  if (key.ease.way != Ease::Way::Curve) key.ease = {Ease::Way::Curve, 0, 0};
  if (hold_.grip == KeyGrip::Leave)
    key.ease.leave = two(part);
  else
    key.ease.arrive = two(1 - part);
  apply(lane, track, tr("Ease of %1").arg(sight_.state.lanes[lane].label), "ease");
  emit said(tr("lingers %1 % at the key before, %2 % at this one")
                .arg(key.ease.leave * 100, 0, 'f', 0)
                .arg(key.ease.arrive * 100, 0, 'f', 0));
}

void KeyLanes::dragFrame(const QPointF& point) {
  const QRectF frame = QRectF(pressed_, point).normalized();
  sight_.selected = selectedAtPress_;
  for (std::size_t lane = 0; lane < sight_.count(); ++lane)
    for (std::size_t key = 0; key < sight_.track(lane).size(); ++key)
      if (frame.contains(sight_.keyPoint(lane, key))) sight_.selected.insert({lane, key});
  update();
}

void KeyLanes::mouseReleaseEvent(QMouseEvent* event) {
  // A click on the ground goes there.
  if (hold_.grip == KeyGrip::Frame && (event->position() - pressed_).manhattanLength() < 4)
    emit scrubbed(sight_.pictureAt(event->position().x()));
  if (hold_.grip != KeyGrip::None && hold_.grip != KeyGrip::Frame) emit gestureEnded();
  hold_ = {};
  sight_.heldRange.reset();
  update();
}

void KeyLanes::mouseDoubleClickEvent(QMouseEvent* event) {
  if (sight_.holdAt(event->position()).grip == KeyGrip::Key) return;
  for (std::size_t lane = 0; lane < sight_.count(); ++lane) {
    if (!sight_.laneRect(lane).contains(event->position())) continue;
    const Rational at = sight_.pictureAt(event->position().x());
    const KeyTrack& track = sight_.track(lane);
    apply(lane, withKey(track, at, sight_.state.lanes[lane].keyedAt(at.toDouble())),
          tr("Key of %1").arg(sight_.state.lanes[lane].label), {});
    emit gestureEnded();
    selectMoments(lane, {at});
  }
}

bool KeyLanes::event(QEvent* event) {
  // While keys are selected, what acts on them comes before the window's own.
  if (event->type() == QEvent::ShortcutOverride) {
    const auto* key = static_cast<QKeyEvent*>(event);
    const bool copying = key->matches(QKeySequence::Copy) || key->matches(QKeySequence::Paste);
    if (copying || (!sight_.selected.empty() &&
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
  if (event->key() == Qt::Key_Up || event->key() == Qt::Key_Down) return selectBeside(event->key() == Qt::Key_Down ? 1 : -1);
  if (!sight_.selected.empty()) {
    const std::int64_t step = event->modifiers() & Qt::ShiftModifier ? 10 : 1;
    if (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) return remove();
    if (event->key() == Qt::Key_Left) return nudge(-step);
    if (event->key() == Qt::Key_Right) return nudge(step);
    if (event->key() == Qt::Key_Escape) {
      sight_.selected.clear();
      return update();
    }
  }
  QWidget::keyPressEvent(event);
}

void KeyLanes::contextMenuEvent(QContextMenuEvent* event) {
  const KeyHold over = sight_.holdAt(event->pos());
  if (over.grip == KeyGrip::Key && !sight_.selected.contains(over.key)) sight_.selected = {over.key};
  update();
  QMenu menu;
  fillMenu(menu);
  menu.exec(event->globalPos());
}

void KeyLanes::fillMenu(QMenu& menu) {
  if (!sight_.selected.empty()) {
    menu.addAction(tr("Come here evenly"), this, [this] { setEase({}, tr("Linear keys")); });
    menu.addAction(tr("Come here softly"), this, [this] { setEase(softEase, tr("Ease keys")); });
    menu.addAction(tr("Hold, then jump here"), this, [this] { setEase({Ease::Way::Hold, 0, 0}, tr("Hold keys")); });
    menu.addSeparator();
    menu.addAction(tr("Copy"), QKeySequence(QKeySequence::Copy), this, &KeyLanes::copy);
  }
  QAction* pasting =
      menu.addAction(tr("Paste at the playhead"), QKeySequence(QKeySequence::Paste), this, &KeyLanes::paste);
  pasting->setEnabled(!copied_.empty());
  if (const auto between = sight_.brackets()) {
    const auto stretched = [this, from = between->first](Rational factor) {
      remember();
      stretch(factor, from);
      emit gestureEnded();
    };
    menu.addSeparator();
    menu.addAction(tr("Twice as long"), this, [stretched] { stretched(2); });
    menu.addAction(tr("Half as long"), this, [stretched] { stretched(Rational(1, 2)); });
  }
  if (!sight_.selected.empty()) {
    menu.addSeparator();
    menu.addAction(tr("Remove"), QKeySequence(QKeySequence::Delete), this, &KeyLanes::remove);
  }
}

}  // namespace molten

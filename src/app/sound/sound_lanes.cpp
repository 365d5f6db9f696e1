#include "app/sound/sound_lanes.h"

#include <QContextMenuEvent>
#include <QDragEnterEvent>
#include <QMenu>
#include <QMimeData>
#include <QMouseEvent>
#include <cmath>


namespace molten {
namespace {

constexpr double shortest = 0.01;

QString secondsOf(double seconds) {
  return QString::fromStdString(secondsText(seconds));
}

QStringList filesOf(const QMimeData* data) {
  QStringList files;
  for (const QUrl& url : data->urls())
    if (url.isLocalFile()) files.push_back(url.toLocalFile());
  return files;
}

}  // namespace

SoundLanes::SoundLanes(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setAcceptDrops(true);
  theme::setSpoken(*this, QAccessible::Chart, tr("Sound lanes"));
}

void SoundLanes::setState(const SoundLanesState& state) {
  sight_.state = state;
  sight_.size = size();
  std::erase_if(sight_.selected, [&](std::size_t lane) { return lane >= sight_.count(); });
  emit counted();
  update();
}

void SoundLanes::setPlayhead(double seconds) {
  if (seconds == sight_.state.playhead) return;
  sight_.state.playhead = seconds;
  update();
}

void SoundLanes::setView(const ChartView& view) {
  if (view == sight_.view) return;
  sight_.view = view;
  update();
}

QString SoundLanes::spokenState() const {
  if (sight_.selected.empty()) return tr("%1 sounds; up and down take one").arg(sight_.count());
  const SoundLane& lane = sight_.state.lanes[sight_.selected.back()];
  QStringList words{tr("%1, sound %2 of %3, %4 to %5, %6 dB")
                        .arg(lane.title, QString::number(sight_.selected.back() + 1), QString::number(sight_.count()), secondsOf(lane.begin), secondsOf(lane.end),
                             QString::number(lane.gain, 'f', 1))};
  if (lane.muted) words << tr("mute");
  if (lane.alone) words << tr("alone");
  return words.join(", ");
}

void SoundLanes::resizeEvent(QResizeEvent*) {
  sight_.size = size();
}

void SoundLanes::hover(const QPointF& at) {
  const SoundHold hold = sight_.holdAt(at);
  switch (hold.grip) {
    case SoundGrip::Start:
    case SoundGrip::End:
      setCursor(Qt::SizeHorCursor);
      break;
    case SoundGrip::FadeIn:
    case SoundGrip::FadeOut:
      setCursor(Qt::PointingHandCursor);
      break;
    case SoundGrip::Gain:
      setCursor(Qt::SizeVerCursor);
      break;
    case SoundGrip::Body:
      setCursor(Qt::OpenHandCursor);
      break;
    default:
      unsetCursor();
  }
  const auto words = [&]() -> QString {
    switch (hold.grip) {
      case SoundGrip::Mute:
        return tr("Mute: it is not heard");
      case SoundGrip::Alone:
        return tr("Alone: nothing else is heard");
      case SoundGrip::Start:
      case SoundGrip::End:
        return tr("Drag to trim");
      case SoundGrip::FadeIn:
        return tr("Fade in %1").arg(secondsOf(sight_.state.lanes[hold.lane].laid.fadeIn));
      case SoundGrip::FadeOut:
        return tr("Fade out %1").arg(secondsOf(sight_.state.lanes[hold.lane].laid.fadeOut));
      case SoundGrip::Gain:
        return tr("Gain %1 dB").arg(sight_.state.lanes[hold.lane].gain, 0, 'f', 1);
      default:
        return {};
    }
  };
  emit said(words());
}

std::vector<SoundName> SoundLanes::selected() const {
  std::vector<SoundName> all;
  for (const std::size_t lane : sight_.selected) all.push_back(sight_.state.lanes[lane].which);
  return all;
}

/// `more`: beside those that are taken already.
void SoundLanes::take(std::size_t lane, bool more) {
  const bool one = more || !sight_.isSelected(lane);
  if (!more && one) sight_.selected.clear();
  std::erase(sight_.selected, lane);
  sight_.selected.push_back(lane);
  emit picked(sight_.state.lanes[lane].which);
  theme::tellState(*this);
  update();
}

void SoundLanes::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  hold_ = sight_.holdAt(event->position());
  pressed_ = event->position();
  if (hold_.lane >= sight_.count()) return;
  atPress_ = sight_.state.lanes[hold_.lane];
  const SoundName which = atPress_.which;
  if (hold_.grip == SoundGrip::Mute) return emit muted(which, !atPress_.muted);
  if (hold_.grip == SoundGrip::Alone) return emit madeAlone(which, !atPress_.alone);
  take(hold_.lane, event->modifiers() & Qt::ShiftModifier);
  if (hold_.grip == SoundGrip::None && event->position().x() >= sight_.view.area.left())
    emit scrubbed(sight_.view.timeAt(event->position().x()));
}

void SoundLanes::mouseMoveEvent(QMouseEvent* event) {
  if (!(event->buttons() & Qt::LeftButton)) return hover(event->position());
  drag(event->position(), event->modifiers() & Qt::AltModifier);
}

/// `free`: it is drawn to nothing.
void SoundLanes::drag(const QPointF& at, bool free) {
  if (hold_.lane >= sight_.count()) return;
  const SoundName which = atPress_.which;
  if (hold_.grip == SoundGrip::Gain) return emit gained(which, sight_.gainAt(hold_.lane, at.y()));
  if (hold_.grip == SoundGrip::None) {
    if (pressed_.x() >= sight_.view.area.left()) emit scrubbed(sight_.view.timeAt(at.x()));
    return;
  }
  if (!which) return;
  const double by = sight_.view.timeAt(at.x()) - sight_.view.timeAt(pressed_.x());
  const auto near = [&](double seconds) { return free ? seconds : sight_.snapped(seconds, hold_.lane); };
  const double length = atPress_.end - atPress_.begin;
  LaidSound laid = atPress_.laid;
  QString name;
  switch (hold_.grip) {
    case SoundGrip::Body: {
      // Whichever end comes near to something is drawn to it; onsets of its own come next.
      const double begin = atPress_.begin + by, end = atPress_.end + by;
      double off = near(begin) - begin;
      if (off == 0) off = near(end) - end;
      for (std::size_t i = 0; off == 0 && i < atPress_.onsets.size(); ++i) off = near(atPress_.onsets[i] + by) - atPress_.onsets[i] - by;
      laid.at = atPress_.laid.at + by + off;
      name = tr("At %1").arg(secondsOf(laid.at));
      emit moved(*which, laid.at, name);
      return emit said(name);
    }
    case SoundGrip::Start: {
      const double begin = std::clamp(near(atPress_.begin + by), atPress_.begin - atPress_.laid.skipStart, atPress_.end - shortest);
      const double trimmed = begin - atPress_.begin;
      laid.at = begin;
      laid.skipStart = std::max(0.0, atPress_.laid.skipStart + trimmed);
      if (laid.length > 0) laid.length = atPress_.laid.length - trimmed;
      name = tr("Start %1").arg(secondsOf(laid.at));
      break;
    }
    case SoundGrip::End: {
      laid.length = std::max(shortest, near(atPress_.end + by) - atPress_.begin);
      name = tr("Length %1").arg(secondsOf(laid.length));
      break;
    }
    case SoundGrip::FadeIn:
      laid.fadeIn = std::clamp(atPress_.laid.fadeIn + by, 0.0, length);
      name = tr("Fade in %1").arg(secondsOf(laid.fadeIn));
      break;
    case SoundGrip::FadeOut:
      laid.fadeOut = std::clamp(atPress_.laid.fadeOut - by, 0.0, length);
      name = tr("Fade out %1").arg(secondsOf(laid.fadeOut));
      break;
    default:
      return;
  }
  emit relaid(*which, laid, name, QStringLiteral("hand"));
  emit said(name);
}

void SoundLanes::mouseReleaseEvent(QMouseEvent*) {
  hold_ = {};
  emit gestureEnded();
}

void SoundLanes::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) return emit removed();
  if (const int by = event->key() == Qt::Key_Down ? 1 : event->key() == Qt::Key_Up ? -1 : 0; by != 0 && sight_.count() > 0) {
    const int from = sight_.selected.empty() ? -1 : static_cast<int>(sight_.selected.back());
    return take(static_cast<std::size_t>(std::clamp(from + by, 0, static_cast<int>(sight_.count()) - 1)), false);
  }
  QWidget::keyPressEvent(event);
}

void SoundLanes::contextMenuEvent(QContextMenuEvent* event) {
  const SoundHold hold = sight_.holdAt(event->pos());
  if (hold.lane >= sight_.count()) return;
  take(hold.lane, false);
  QMenu menu(this);
  emit menuWanted(sight_.state.lanes[hold.lane].which, menu);
  if (!menu.isEmpty()) menu.exec(event->globalPos());
}

void SoundLanes::dragEnterEvent(QDragEnterEvent* event) {
  if (!filesOf(event->mimeData()).isEmpty()) event->acceptProposedAction();
}

void SoundLanes::dropEvent(QDropEvent* event) {
  const QStringList files = filesOf(event->mimeData());
  const double x = std::max(event->position().x(), sight_.view.area.left());
  if (!files.isEmpty()) emit dropped(files, std::max(0.0, sight_.snapped(sight_.view.timeAt(x), sight_.count())));
}

}  // namespace molten

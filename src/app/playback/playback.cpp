#include "app/playback/playback.h"

#include <QKeyEvent>
#include <QMenu>
#include <QSettings>
#include <algorithm>
#include <cmath>

#include "app/commands/commands.h"
#include "app/playback/player.h"
#include "app/chart/scrubber.h"
#include "app/playback/transport.h"
#include "core/time/frame_clock.h"

namespace molten {

Playback::Playback(Session& session, Player& player, DeferredKeys& deferred, const Views& views, std::size_t memoryBytes, QObject* parent)
    : QObject(parent), session_(session), player_(player), deferred_(deferred), views_(views), memoryBytes_(memoryBytes) {
  player_.setLoop(QSettings().value("loop", true).toBool());
  connect(&session_, &Session::footageLeaves, this, [this] {
    if (!session_.changesShot()) player_.clear();
  });
  connect(&session_, &Session::footageArrived, this, [this] {
    if (session_.changesShot() && player_.sources())
      player_.lookFrom(session_.footage());
    else
      player_.setFootage(session_.footage(), budget());
    shareFootage();
  });
  // Before a view is asked for that reads it: see Session.
  connect(&session_.reel(), &ReelReading::found, this, &Playback::shareFootage);
  connect(&session_, &Session::playheadTaken, &player_, &Player::stop);
  connect(&session_, &Session::changed, this, [this] {
    marked_.clear();  // other pictures read those frames now
    refresh();
  });
  connect(&session_, &Session::outsideKnown, this, &Playback::refresh);
  connect(&session_, &Session::frameChanged, this, &Playback::refresh);
  connect(&session_.document(), &Document::replaced, &player_, &Player::stop);
  connect(&player_, &Player::stopped, &session_, &Session::arrive);
  connect(&player_, &Player::stopped, this, &Playback::refresh);
  connect(&views_.scrubber, &Scrubber::scrubbed, &session_, &Session::goTo);
  connect(&views_.scrubber, &Scrubber::spanDragged, this, [this](std::int64_t first, std::int64_t last) {
    setEnds(first, last, "In and out", "span");
  });
  connect(&views_.scrubber, &Scrubber::spanReleased, &session_.document(), &Document::endGesture);
  connect(&views_.transport, &Transport::toStart, this, [this] { session_.goToShown(session_.shownSpan().first); });
  connect(&views_.transport, &Transport::toEnd, &session_, &Session::goToEnd);
  connect(&views_.transport, &Transport::stepped, this, [this](int frames) { step(frames); });
  connect(&views_.transport, &Transport::playToggled, this, &Playback::toggle);
  connect(&views_.transport, &Transport::bypassed, this, &Playback::bypassed);
  connect(&views_.transport, &Transport::loopToggled, this, &Playback::setLoop);
  measureTimer_.setInterval(500);
  connect(&measureTimer_, &QTimer::timeout, this, &Playback::refresh);
  measureTimer_.start();
}

void Playback::fill(Commands& commands, QMenu* menu) {
  const auto in = [this] {
    const std::int64_t at = session_.frame();
    setEnds(at, std::max(at, session_.span().last), "In at frame " + std::to_string(at));
  };
  const auto out = [this] {
    const std::int64_t at = session_.frame();
    setEnds(std::min(at, session_.span().first), at, "Out at frame " + std::to_string(at));
  };
  const auto whole = [this] { setEnds(std::nullopt, std::nullopt, "Whole clip"); };
  commands.tell(tr("Space"), tr("play and stop"));
  commands.tell(tr("J K L"), tr("back, stop, on; again for faster"));
  commands.tell(tr("← →"), tr("one frame; with Shift ten"));
  commands.tell(tr("Home, End"), tr("to in, to out"));
  commands.tell(tr("B, held"), tr("the footage without the chain"));
  commands.add(menu, tr("In at the playhead"), QKeySequence("I"), in, Needs::Footage);
  commands.add(menu, tr("Out at the playhead"), QKeySequence("O"), out, Needs::Footage);
  commands.add(menu, tr("Whole clip"), QKeySequence("Alt+X"), whole, Needs::Footage);
}

/// Of the piece; of a reel, of the shot in hand. None: where its chain has them.
void Playback::setEnds(std::optional<std::int64_t> first, std::optional<std::int64_t> last, const std::string& name, const std::string& mergeKey) {
  Edit edit = setSpan(session_.project(), first, last, name);
  if (session_.reelInHand()) return emit session_.said(tr("A reel is played from its first shot to its last: in and out are those of a shot in hand."));
  if (session_.isReel()) {
    const Rational rate = session_.piece().rate;
    const auto seconds = [&](std::optional<std::int64_t> frame) { return frame ? std::optional(Rational(*frame) / rate) : std::nullopt; };
    // All of it is no trim.
    if (first && *first <= 0) first.reset();
    if (last && *last + 1 >= session_.length()) last.reset();
    edit = trimShot(session_.project(), 0, seconds(first), last ? seconds(*last + 1) : std::nullopt);
    edit.name = name;
  }
  edit.mergeKey = mergeKey;
  session_.apply(edit);
}

/// What the reel has opened need not be opened again.
void Playback::shareFootage() {
  if (const auto sources = player_.sources())
    for (const auto& [use, footage] : session_.reel().open()) sources->know(use, footage);
}

bool Playback::takePress(const QKeyEvent& event) {
  // The bypass lasts as long as its key is held, so it never waits.
  if (event.key() == Qt::Key_B) {
    if (!event.isAutoRepeat()) emit bypassed(true);
    return true;
  }
  auto action = actionOf(event);
  if (!action) return false;
  // A key that is held while footage is being opened counts once.
  if (!event.isAutoRepeat() || !session_.isOpening()) deferred_.run(std::move(action));
  return true;
}

std::function<void()> Playback::actionOf(const QKeyEvent& event) {
  const int many = event.modifiers() & Qt::ShiftModifier ? 10 : 1;
  switch (event.key()) {
    case Qt::Key_Space:
      return [this, again = event.isAutoRepeat()] {
        if (!again) toggle();
      };
    case Qt::Key_Left:
      return [this, many] { step(-many); };
    case Qt::Key_Right:
      return [this, many] { step(many); };
    case Qt::Key_Home:
      return [this] { session_.goToShown(session_.shownSpan().first); };
    case Qt::Key_End:
      return [this] { session_.goToEnd(); };
    case Qt::Key_J:
      return [this] { shuttle(-1); };
    case Qt::Key_K:
      return [this] { player_.stop(); };
    case Qt::Key_L:
      return [this] { shuttle(1); };
    default:
      return {};
  }
}

bool Playback::takeRelease(const QKeyEvent& event) {
  if (event.key() != Qt::Key_B || event.isAutoRepeat()) return false;
  emit bypassed(false);
  return true;
}

void Playback::mark(std::vector<std::int64_t> pictures) {
  marked_ = std::move(pictures);
  refresh();
}

void Playback::setMemory(std::size_t bytes) {
  memoryBytes_ = bytes;
  player_.setBudget(budget());
  emit memoryChanged();
  refresh();
}

void Playback::shareMemory(Sharer with, bool shared) {
  shared_[static_cast<std::size_t>(with)] = shared;
  player_.setBudget(budget());
}

void Playback::toggle() {
  if (!session_.footage()) return;
  if (player_.playing())
    player_.stop();
  else
    player_.play(session_.shownSpan(), 1);
  refresh();
}

/// J and L: each press in the same direction doubles the speed, up to eight times.
void Playback::shuttle(int direction) {
  if (!session_.footage()) return;
  const double now = player_.speed();
  const bool same = now * direction > 0;
  player_.play(session_.shownSpan(), same ? std::clamp(now * 2, -8.0, 8.0) : direction);
  refresh();
}

void Playback::setLoop(bool on) {
  player_.setLoop(on);
  QSettings().setValue("loop", on);
  refresh();
}

void Playback::refresh() {
  const bool footage = session_.footage() != nullptr;
  const Piece& shown = session_.shownPiece();
  const Rational rate = shown.rate;
  TransportState state;
  state.footage = footage;
  state.playing = player_.playing();
  state.loop = player_.loop();
  if (footage) {
    state.timecode = QString::fromStdString(timecode(session_.shownFrame(), rate));
    state.frames = tr("frame %1 of %2").arg(session_.shownFrame()).arg(shown.length);
    state.measure = tr("memory %1 of %2 GB")
                        .arg(static_cast<double>(player_.memoryUsed()) / 1e9, 0, 'f', 1)
                        .arg(static_cast<double>(player_.memoryBudget()) / 1e9, 0, 'f', 1);
    const double wanted = rate.toDouble() * std::abs(player_.speed());
    if (player_.playing())
      state.measure = tr("%1 of %2 shown · %3")
                          .arg(player_.shownASecond(), 0, 'f', 1)
                          .arg(wanted, 0, 'f', wanted == std::floor(wanted) ? 0 : 2)
                          .arg(state.measure);
  }
  views_.transport.setState(state);
  views_.scrubber.setState({session_.length(), session_.frame(), session_.span(), session_.outside(), session_.piece().rate, marked_});
}

}  // namespace molten

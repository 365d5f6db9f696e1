#include "app/chart/pace_on_chart.h"

#include <cmath>

#include "app/chart/deck.h"
#include "core/project/follow_pace.h"

namespace molten {
namespace {

Stage newPace() {
  for (const StageKind* const kind : stageKinds())
    if (kind->paceHandles()) return newStage(*kind);
  return newStage(pace());
}

}  // namespace

PaceOnChart::PaceOnChart(Session& session, Deck& chart, QObject* parent)
    : QObject(parent), session_(session), chart_(chart) {
  const auto refresh = [this] { chart_.setState(state()); };
  connect(&session_, &Session::changed, this, refresh);
  connect(&session_, &Session::selectionChanged, this, refresh);
  connect(&session_, &Session::changed, this, &PaceOnChart::noticeFirst);
  connect(&session_.document(), &Document::replaced, this, [this] { had_ = stage().has_value(); });
  connect(&session_, &Session::frameChanged, this, &PaceOnChart::showPlayhead);
  connect(chart_.plot(), &ChartPlot::scrubbed, &session_, &Session::goTo);
  connect(chart_.plot(), &ChartPlot::paceChanged, this, &PaceOnChart::set);
  connect(chart_.plot(), &ChartPlot::gestureEnded, &session_.document(), &Document::endGesture);
}

void PaceOnChart::noticeFirst() {
  if (had_ || !session_.footage() || !stage()) return;
  had_ = true;
  emit begun();
}

std::optional<std::size_t> PaceOnChart::stage() const {
  const Chain& chain = session_.project().chain;
  if (const auto selected = session_.selectedStage(); selected && chain[*selected].kind->paceHandles()) return selected;
  for (std::size_t k = 0; k < chain.size(); ++k)
    if (chain[k].kind->paceHandles() && chain[k].on) return k;
  return std::nullopt;
}

PaceSetting PaceOnChart::setting() const {
  const auto which = stage();
  const PaceCurve curve = which ? paceCurve(session_.project().chain[*which].values, session_.videoInto(*which))
                                : paceCurve(newPace().values, session_.video());
  return {curve.from(), curve.spans()};
}

bool PaceOnChart::tellsOutputTime(std::size_t stage) const {
  if (!session_.project().chain[stage].on) return false;
  const ChainReading& reading = *session_.reading();
  const std::size_t own = session_.placeOn(stage);
  for (std::size_t k = 0; k < reading.size(); ++k) {
    const TimeMap& map = reading.map(k);
    if (k == own || !map.moving()) continue;
    // Held pictures tell the time that they were taken at; what turns, wraps or jumps tells another.
    const VideoDescription &in = reading.video(k), &out = reading.video(k + 1);
    if (out.length != in.length || out.endless != in.endless) return false;
    for (int i = 0; i <= 16; ++i) {
      const double at = static_cast<double>(in.length - 1) * i / 16;
      if (std::abs(map.positionAt(at) - at) > in.rate.toDouble() * 2) return false;
    }
  }
  return true;
}

ChartState PaceOnChart::state() const {
  ChartState state;
  state.footage = session_.footage() != nullptr;
  state.piece = session_.piece();
  state.reads = session_.reading();
  state.frame = session_.frame();
  state.span = session_.span();
  const auto which = stage();
  if (!which || !state.footage) {
    if (state.footage) state.remark = tr("M drops a mark at the playhead and begins a Pace");
    return state;
  }
  const bool whole = tellsOutputTime(*which);
  if (!whole && session_.selectedStage() != which) {
    state.remark = tr("Select the Pace to edit it: other stages move pictures too");
    return state;
  }
  const VideoDescription in = session_.videoInto(*which);
  const Rational rate = session_.piece().rate;
  ChartPace shown{setting(), {}, slowestCleanSpeed(in.rate, rate), in.between};
  for (const PaceSpan& span : shown.setting.spans) shown.looks.push_back(lookOf(span.speed, in.rate, rate));
  state.pace = std::move(shown);
  if (!whole) return alone(std::move(state), *which);
  const ChainReading& reading = *session_.reading();
  for (std::size_t k = 0; k < reading.size(); ++k)
    state.heldToo = state.heldToo || (k != session_.placeOn(*which) && reading.map(k).moving());
  return state;
}

/// The Pace alone, on what enters it.
ChartState PaceOnChart::alone(ChartState state, std::size_t stage) const {
  const Chain& chain = session_.project().chain;
  Chain only{chain[stage]};
  only[0].on = true;
  for (std::size_t k = 0; k < stage; ++k) state.ofFootage = state.ofFootage && !chain[k].on;
  state.remark = tr("this Pace alone, not the whole chain");
  state.reads =
      std::make_shared<ChainReading>(only, session_.videoInto(stage), nullptr, Chain{},
                                     state.ofFootage ? std::optional(session_.footage()->clock()) : std::nullopt);
  state.piece = pieceOf(state.reads->outgoing(), {});
  state.span = {0, state.piece.length - 1};
  state.frame = (playhead() * state.piece.rate + Rational(1, 2)).floor();
  state.follows = false;
  return state;
}

void PaceOnChart::showPlayhead() {
  const ChartState& shown = chart_.plot()->sight().state;
  chart_.setFrame(shown.follows ? session_.frame() : (playhead() * shown.piece.rate + Rational(1, 2)).floor());
}

Rational PaceOnChart::playhead() const {
  const auto which = stage();
  if (!session_.footage() || !which || tellsOutputTime(*which))
    return Rational(session_.frame()) / session_.piece().rate;
  return std::min(session_.stageMoment(*which), setting().curve().length());
}

void PaceOnChart::set(const PaceSetting& setting, const QString& name, const QString& mergeKey) {
  if (!session_.footage()) return;
  Project before = session_.project();
  auto which = stage();
  const bool added = !which;
  if (added) {
    before.chain.insert(before.chain.begin(), newPace());
    which = 0;
  } else if (setting == this->setting()) {
    return;
  }
  // What comes after the Pace goes along with it; during a gesture, from where it stood when that began.
  const bool goesOn = gesture_ && !mergeKey.isEmpty() && gesture_->key == mergeKey && gesture_->left == session_.project();
  const PaceSetting was = goesOn ? gesture_->setting : this->setting();
  if (goesOn) before = gesture_->began;
  const Project began = before;
  if (!added && tellsOutputTime(*which)) before = withMomentsMoved(before, *which, {was, setting}, session_.piece().rate);
  StageValues values = before.chain[*which].values;
  const PaceParameters& handles = *before.chain[*which].kind->paceHandles();
  handles.from.set(values, setting.from.toDouble());
  handles.spans.set(values, setting.spans);
  const std::string key = mergeKey.isEmpty() ? std::string() : "pace " + mergeKey.toStdString();
  session_.apply(setValues(before, *which, values, name.toStdString(), key));
  gesture_ = Gesture{mergeKey, began, session_.project(), was};
  if (added) session_.select(1);
}

void PaceOnChart::add() {
  Project project = session_.project();
  project.chain.insert(project.chain.begin(), newPace());
  session_.apply({"Add Pace", std::move(project), {}});
  session_.select(1);
}

void PaceOnChart::bringUp() {
  if (!stage()) add();
  if (!state().pace) session_.select(*stage() + 1);
}

}  // namespace molten

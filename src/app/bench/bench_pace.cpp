// The Bench: the Pace on the Time Chart, and the commands that shape it.
#include <QAction>
#include <QMenu>
#include <cmath>

#include "app/bench/bench.h"
#include "app/bench/player.h"
#include "app/chart/time_chart.h"
#include "core/time/pace_text.h"

namespace molten {
namespace {

/// Of a new mark, once the speeds about it differ: seconds.
const Rational usualGlide(3, 10);

QString words(const std::string& s) {
  return QString::fromStdString(s);
}

std::string typed(const QString& text) {
  QString plain = text;
  return plain.remove(' ').replace(QChar(0x2212), '-').toLower().toStdString();
}

}  // namespace

std::optional<std::size_t> Bench::paceStage() const {
  const Chain& chain = document_->project().chain;
  if (const auto selected = selectedStage(); selected && chain[*selected].kind == &molten::pace()) return selected;
  for (std::size_t k = 0; k < chain.size(); ++k)
    if (chain[k].kind == &molten::pace() && chain[k].on) return k;
  return std::nullopt;
}

PaceSetting Bench::pace() const {
  const auto stage = paceStage();
  const PaceCurve curve = stage ? paceCurve(document_->project().chain[*stage].values, videoInto(*stage))
                                : paceCurve(newStage(molten::pace()).values, video());
  return {curve.from(), curve.spans()};
}

bool Bench::paceTellsOutputTime(std::size_t stage) const {
  const Chain& chain = document_->project().chain;
  if (!chain[stage].on) return false;
  const std::size_t own = placeOn(stage);
  for (std::size_t k = 0; k < reading_->size(); ++k) {
    const TimeMap& map = reading_->map(k);
    if (k == own || !map.wholePicture()) continue;
    // Held pictures tell the time that they were taken at; what turns, wraps or jumps tells another.
    const VideoDescription &in = reading_->video(k), &out = reading_->video(k + 1);
    if (out.length != in.length || out.endless != in.endless) return false;
    for (int i = 0; i <= 16; ++i) {
      const double at = static_cast<double>(in.length - 1) * i / 16;
      if (std::abs(map.positionAt(at) - at) > in.rate.toDouble() * 2) return false;
    }
  }
  return true;
}

ChartState Bench::chartState() const {
  ChartState state;
  state.footage = footage_ != nullptr;
  state.piece = piece_;
  state.reads = reading_;
  state.frame = frame_;
  state.span = span();
  state.title = tr("Time Chart · output → source");
  const auto stage = paceStage();
  if (!stage || !footage_) {
    if (footage_) state.remark = tr("M drops a mark at the playhead and begins a Pace");
    return state;
  }
  const Chain& chain = document_->project().chain;
  const VideoDescription in = videoInto(*stage);
  ChartPace shown{pace(), {}, slowestCleanSpeed(in.rate, piece_.rate), in.between};
  for (const PaceSpan& span : shown.setting.spans) shown.looks.push_back(lookOf(span.speed, in.rate, piece_.rate));
  if (paceTellsOutputTime(*stage)) {
    state.pace = std::move(shown);
    for (std::size_t k = 0; k < reading_->size(); ++k)
      state.heldToo = state.heldToo || (k != placeOn(*stage) && reading_->map(k).wholePicture());
    return state;
  }
  if (selectedStage() != stage) {
    state.remark = tr("Select the Pace to edit it: other stages move pictures too");
    return state;
  }
  // The Pace alone, on what enters it.
  Chain alone{chain[*stage]};
  alone[0].on = true;
  state.title = tr("Time Chart · this Pace alone");
  for (std::size_t k = 0; k < *stage; ++k) state.ofFootage = state.ofFootage && !chain[k].on;
  state.remark = tr("not the whole chain");
  state.reads = std::make_shared<ChainReading>(alone, in, nullptr, Chain{},
                                               state.ofFootage ? std::optional(footage_->clock()) : std::nullopt);
  state.piece = pieceOf(state.reads->outgoing(), {});
  state.span = {0, state.piece.length - 1};
  state.pace = std::move(shown);
  state.frame = (playhead() * state.piece.rate + Rational(1, 2)).floor();
  state.follows = false;
  return state;
}

void Bench::refreshChart() {
  chart_->setState(chartState());
  refreshLanes();
  for (QAction* action : paceMenu_->actions()) action->setEnabled(footage_ != nullptr);
}

/// In one step of undo; the first edit adds the Pace.
void Bench::setPace(const PaceSetting& setting, const QString& name, const QString& mergeKey) {
  if (!footage_) return;
  Project before = document_->project();
  auto stage = paceStage();
  if (!stage) {
    before.chain.insert(before.chain.begin(), newStage(molten::pace()));
    stage = 0;
  } else if (setting == pace()) {
    return;
  }
  StageValues values = before.chain[*stage].values;
  paceParameters().from.set(values, setting.from.toDouble());
  paceParameters().spans.set(values, setting.spans);
  const std::string key = mergeKey.isEmpty() ? std::string() : "pace " + mergeKey.toStdString();
  const bool added = !paceStage();
  apply(setValues(before, *stage, values, name.toStdString(), key));
  if (added) select(1);
}

Rational Bench::stageMoment(std::size_t stage) const {
  // Down through the stages after it, to what is seen of the stage.
  const Stage& own = document_->project().chain[stage];
  const Moment at = reading_->present(placeOn(stage) + (own.on ? 1 : 0), piece_.moment(frame_));
  const Rational off = at.off == 0 ? Rational(0) : Rational::near(at.off);
  return std::max(Rational(0), (at.exact() + off) / piece_.chainRate);
}

Rational Bench::playhead() const {
  const auto stage = paceStage();
  if (!footage_ || !stage || paceTellsOutputTime(*stage)) return Rational(frame_) / piece_.rate;
  return std::min(stageMoment(*stage), pace().curve().length());
}

std::int64_t Bench::chartFrame() const {
  const ChartState& shown = chart_->plot()->state();
  return shown.follows ? frame_ : (playhead() * shown.piece.rate + Rational(1, 2)).floor();
}

std::size_t Bench::spanInHand() const {
  if (const auto span = chart_->plot()->selectedSpan()) return *span;
  return pace().curve().spanAt(playhead());
}

/// The selected mark, or the one nearest to the playhead.
std::optional<std::size_t> Bench::markInHand() const {
  if (const auto mark = chart_->plot()->selectedMark()) return mark;
  const PaceCurve curve = pace().curve();
  std::optional<std::size_t> nearest;
  double least = 1e300;
  for (std::size_t i = 0; i + 1 < curve.spans().size(); ++i)
    if (const double off = std::abs((curve.beginOf(i + 1) - playhead()).toDouble()); off < least)
      least = off, nearest = i;
  return nearest;
}

void Bench::dropMark() {
  if (!footage_) return;
  const PaceSetting before = pace();
  const PaceSetting after = molten::dropMark(before, playhead(), usualGlide);
  if (after == before) return say(tr("A mark stands there already, or the playhead is at an end."));
  setPace(after, tr("Mark at %1").arg(words(secondsText(playhead().toDouble()))), {});
  document_->endGesture();
  const PaceCurve curve = after.curve();
  for (std::size_t i = 1; i < after.spans.size(); ++i)
    if (curve.beginOf(i) == playhead()) chart_->plot()->selectMark(i - 1);
}

void Bench::lineUp() {
  const PaceSetting before = pace();
  const Rational t = playhead(), rate = video().rate;
  const auto now = static_cast<std::int64_t>(std::floor(before.curve().at(t).seconds() * rate.toDouble() + 0.5));
  typePace(tr("This source frame at the playhead"), QString::number(now), tr("Line up source frame"),
           [=](const QString& text) -> std::optional<PaceSetting> {
             bool number = false;
             const qlonglong frame = text.trimmed().toLongLong(&number);
             return number && std::abs(frame) < (1 << 30)
                        ? std::optional(molten::lineUp(before, Rational(frame) / rate, t))
                        : std::nullopt;
           });
}

void Bench::goToMark(int direction) {
  if (!footage_) return;
  const PaceCurve curve = pace().curve();
  // From the mark in hand, if there is one: the playhead stands on a picture beside it.
  const auto inHand = chart_->plot()->selectedMark();
  const double now = (inHand ? curve.beginOf(*inHand + 1) : playhead()).toDouble(),
               slack = inHand ? 0 : 0.25 / piece_.rate.toDouble();
  std::optional<std::size_t> found;
  for (std::size_t i = 1; i < curve.spans().size(); ++i) {
    const double at = curve.beginOf(i).toDouble();
    if (direction > 0 && at > now + slack && !found) found = i;
    if (direction < 0 && at < now - slack) found = i;
  }
  if (!found) return seek(direction > 0 ? span().last : span().first);
  seek((curve.beginOf(*found) * piece_.rate + Rational(1, 2)).floor());
  chart_->plot()->selectMark(*found - 1);
}

void Bench::typePace(const QString& question, const QString& text, const QString& name, ChartPlot::TypedEdit edit) {
  if (!footage_) return;
  if (!paceStage()) {
    // Something to type about.
    apply({"Add Pace",
           [&] {
             Project project = document_->project();
             project.chain.insert(project.chain.begin(), newStage(molten::pace()));
             return project;
           }(),
           {}});
    select(1);
  }
  if (fillAction_->isChecked()) fillAction_->trigger();
  if (!chartState().pace) select(*paceStage() + 1);
  chart_->plot()->prompt(question, text, name, std::move(edit));
}

QAction* Bench::addPace(QMenu* menu, const QString& name, const QKeySequence& keys, const std::function<void()>& act) {
  return add(menu, name, keys, [this, act] {
    if (!footage_) return;
    act();
    document_->endGesture();
  });
}

void Bench::buildPaceMenu(QMenu* menu) {
  const auto seconds = [this](const QString& text) { return parseSeconds(typed(text), piece_.rate); };
  const auto change = [this](const PaceSetting& after, const QString& name) {
    if (after == pace())
      say(tr("%1: that is not possible here.").arg(name));
    else
      setPace(after, name, {});
  };
  const auto typedLength = [seconds](auto edit) -> ChartPlot::TypedEdit {
    return [seconds, edit](const QString& text) -> std::optional<PaceSetting> {
      const auto length = seconds(text);
      return length && *length > Rational(0) ? std::optional(edit(*length)) : std::nullopt;
    };
  };

  addPace(menu, tr("Mark at the playhead"), QKeySequence("M"), [this] { dropMark(); });
  addPace(menu, tr("To the next mark"), QKeySequence("Ctrl+Right"), [this] { goToMark(1); });
  addPace(menu, tr("To the mark before"), QKeySequence("Ctrl+Left"), [this] { goToMark(-1); });
  addPace(menu, tr("Remove the mark"), {}, [this, change] {
    if (const auto mark = markInHand()) change(removeMark(pace(), *mark), tr("Remove mark %1").arg(*mark + 1));
  });
  menu->addSeparator();
  for (const Keeping keeping : {Keeping::Footage, Keeping::Length})
    addPace(menu, keeping == Keeping::Footage ? tr("Speed, keeping the footage…") : tr("Speed, keeping the length…"),
            QKeySequence(keeping == Keeping::Footage ? "S" : "Shift+S"), [this, keeping] {
              const PaceSetting before = pace();
              const std::size_t span = spanInHand();
              chart_->plot()->selectSpan(span);
              typePace(keeping == Keeping::Footage ? tr("Speed, keeping its footage") : tr("Speed, keeping its length"),
                       words(rationalText(before.spans[span].speed * 100)) + "%", tr("Span %1 at").arg(span + 1),
                       [=](const QString& text) -> std::optional<PaceSetting> {
                         const auto speed = parseSpeed(typed(text));
                         return speed ? std::optional(setSpeed(before, span, *speed, keeping)) : std::nullopt;
                       });
            });
  addPace(menu, tr("Length of the span…"), {}, [this, typedLength] {
    const PaceSetting before = pace();
    const std::size_t span = spanInHand();
    typePace(tr("Length of span %1").arg(span + 1), words(rationalText(before.spans[span].length)) + "s",
             tr("Span %1 lasts").arg(span + 1),
             typedLength([=](Rational length) { return setLength(before, span, length); }));
  });
  addPace(menu, tr("Glide at the mark…"), QKeySequence("G"), [this, seconds] {
    const auto mark = markInHand();
    if (!mark) return say(tr("There is no mark yet: M drops one at the playhead."));
    const PaceSetting before = pace();
    chart_->plot()->selectMark(*mark);
    typePace(tr("Glide of"), words(rationalText(before.spans[*mark].glide)) + "s", tr("Glide %1 of").arg(*mark + 1),
             [=](const QString& text) -> std::optional<PaceSetting> {
               const auto length = seconds(text);
               return length && *length >= Rational(0) ? std::optional(setGlide(before, *mark, *length)) : std::nullopt;
             });
  });
  QMenu* const sides = menu->addMenu(tr("The glide lies"));
  for (const auto& [side, name] : {std::pair{GlideSide::Before, tr("Before the mark")},
                                   {GlideSide::Around, tr("Around the mark")},
                                   {GlideSide::After, tr("After the mark")}})
    addPace(sides, name, {}, [this, change, side = side, name = name] {
      const auto mark = markInHand();
      if (!mark) return say(tr("There is no mark yet: M drops one at the playhead."));
      change(setGlideSide(pace(), *mark, side), tr("Glide %1 %2").arg(*mark + 1).arg(name.toLower()));
    });
  // By what one wants.
  menu->addSeparator();
  QMenu* const stop = menu->addMenu(tr("Stop"));
  addPace(stop, tr("Freeze here for…"), QKeySequence("Shift+F"), [this, typedLength] {
    const PaceSetting before = pace();
    const Rational t = playhead();
    typePace(tr("Freeze here for"), "1s", tr("Freeze for"),
             typedLength([=](Rational length) { return freezeHere(before, t, length); }));
  });
  addPace(stop, tr("Come to rest over…"), {}, [this, typedLength] {
    const PaceSetting before = pace();
    const std::size_t span = spanInHand();
    typePace(tr("Come to rest over"), "1s", tr("Come to rest over"),
             typedLength([=](Rational length) { return comeToRest(before, span, length); }));
  });
  QMenu* const start = menu->addMenu(tr("Start"));
  addPace(start, tr("Pick up speed over…"), {}, [this, typedLength] {
    const PaceSetting before = pace();
    const std::size_t span = spanInHand();
    typePace(tr("Pick up speed over"), "1s", tr("Pick up speed over"),
             typedLength([=](Rational length) { return pickUpSpeed(before, span, length); }));
  });
  QMenu* const back = menu->addMenu(tr("Back"));
  addPace(back, tr("Run backwards"), {}, [this, change] {
    const std::size_t span = spanInHand();
    change(runBackwards(pace(), span, Rational(1) / video().rate), tr("Run span %1 backwards").arg(span + 1));
  });
  addPace(back, tr("Back and again…"), {}, [this] {
    const PaceSetting before = pace();
    const std::size_t span = spanInHand();
    const Rational glide = std::min(usualGlide, before.spans[span].length / 4);
    typePace(tr("Back and again, how often"), "1", tr("Back and again"),
             [=](const QString& text) -> std::optional<PaceSetting> {
               const int times = text.trimmed().toInt();
               return times >= 1 && times <= 100 ? std::optional(backAndAgain(before, span, times, glide))
                                                 : std::nullopt;
             });
  });
  menu->addSeparator();
  addPace(menu, tr("Fit all of it to…"), {}, [this, typedLength] {
    const PaceSetting before = pace();
    typePace(tr("Fit all of it to"), words(rationalText(before.curve().length())) + "s", tr("Fit to"),
             typedLength([=](Rational total) { return fitTo(before, total, 0); }));
  });
  addPace(menu, tr("Fit all of it, eased at both ends, to…"), {}, [this, typedLength] {
    const PaceSetting before = pace();
    typePace(tr("Fit all of it, eased, to"), words(rationalText(before.curve().length())) + "s", tr("Fit, eased, to"),
             typedLength([=](Rational total) { return fitTo(before, total, std::min(total / 4, Rational(1))); }));
  });
  addPace(menu, tr("Slip the footage by…"), {}, [this, seconds] {
    const PaceSetting before = pace();
    typePace(tr("Slip the footage by"), "1f", tr("Slip by"), [=](const QString& text) -> std::optional<PaceSetting> {
      const auto by = seconds(text);
      return by ? std::optional(slip(before, *by)) : std::nullopt;
    });
  });
  addPace(menu, tr("Line up a source frame here…"), QKeySequence("Shift+L"), [this] { lineUp(); });
  menu->addSeparator();
  addPace(menu, tr("Trim the start to the playhead"), {}, [this, change] {
    change(trimStart(pace(), playhead()), tr("Trim the start"));
    seek(0);
  });
  addPace(menu, tr("Trim the end to the playhead"), {},
          [this, change] { change(trimEnd(pace(), playhead()), tr("Trim the end")); });
  addPace(menu, tr("Remove the span; what follows closes up"), {}, [this, change] {
    const std::size_t span = spanInHand();
    change(removeSpan(pace(), span), tr("Remove span %1").arg(span + 1));
  });
}

}  // namespace molten

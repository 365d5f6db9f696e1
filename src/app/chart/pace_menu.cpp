#include "app/chart/pace_menu.h"

#include <QMenu>
#include <cmath>

#include "app/chart/pace_on_chart.h"
#include "app/chart/deck.h"
#include "app/commands/commands.h"
#include "app/theme/parts.h"
#include "core/time/pace_text.h"

namespace molten {

using theme::shown;
namespace {

/// Of a new mark, once the speeds about it differ: seconds.
const Rational usualGlide(3, 10);

}  // namespace

PaceMenu::PaceMenu(Session& session, PaceOnChart& pace, Deck& chart, Commands& commands, QMenu* menu,
                   QObject* parent)
    : QObject(parent), session_(session), pace_(pace), chart_(chart), commands_(commands), menu_(menu) {
  fillMarks();
  menu_->addSeparator();
  fillSpan();
  fillGlide();
  menu_->addSeparator();
  fillStops();
  menu_->addSeparator();
  fillWhole();
  menu_->addSeparator();
  fillTrims();
  connect(chart_.plot(), &ChartPlot::menuRequested, this, [this](const QPoint& at) { menu_->exec(at); });
  connect(chart_.plot(), &ChartPlot::lineUpRequested, this, &PaceMenu::lineUp);
}

void PaceMenu::fillMarks() {
  add(menu_, tr("Mark at the playhead"), QKeySequence("M"), [this] { dropMark(); });
  add(menu_, tr("To the next mark"), QKeySequence("Ctrl+Right"), [this] { goToMark(1); });
  add(menu_, tr("To the mark before"), QKeySequence("Ctrl+Left"), [this] { goToMark(-1); });
  add(menu_, tr("Remove the mark"), {}, [this] {
    if (const auto mark = markInHand()) change(removeMark(pace_.setting(), *mark), tr("Remove mark %1").arg(*mark + 1));
  });
}

void PaceMenu::fillSpan() {
  add(menu_, tr("Speed, keeping the footage…"), QKeySequence("S"), [this] { typeSpeed(Keeping::Footage); });
  add(menu_, tr("Speed, keeping the length…"), QKeySequence("Shift+S"), [this] { typeSpeed(Keeping::Length); });
  add(menu_, tr("Length of the span…"), {}, [this] {
    const PaceSetting pace = pace_.setting();
    const std::size_t span = spanInHand();
    typeLength(tr("Length of span %1").arg(span + 1), pace.spans[span].length, tr("Span %1 lasts").arg(span + 1),
               [=](Rational length) { return setLength(pace, span, length); });
  });
}

void PaceMenu::fillGlide() {
  add(menu_, tr("Glide at the mark…"), QKeySequence("G"), [this] { typeGlide(); });
  QMenu* const sides = menu_->addMenu(tr("The glide lies"));
  for (const auto& [side, name] : {std::pair{GlideSide::Before, tr("Before the mark")},
                                   {GlideSide::Around, tr("Around the mark")},
                                   {GlideSide::After, tr("After the mark")}})
    add(sides, name, {}, [this, side = side, name = name] { setGlideSide(side, name); });
}

/// By what one wants.
void PaceMenu::fillStops() {
  QMenu* const stop = menu_->addMenu(tr("Stop"));
  add(stop, tr("Freeze here for…"), QKeySequence("Shift+F"), [this] {
    const PaceSetting pace = pace_.setting();
    const Rational t = pace_.playhead();
    typeLength(tr("Freeze here for"), Rational(1), tr("Freeze for"),
               [=](Rational length) { return freezeHere(pace, t, length); });
  });
  add(stop, tr("Come to rest over…"), {}, [this] {
    const PaceSetting pace = pace_.setting();
    const std::size_t span = spanInHand();
    typeLength(tr("Come to rest over"), Rational(1), tr("Come to rest over"),
               [=](Rational length) { return comeToRest(pace, span, length); });
  });
  QMenu* const start = menu_->addMenu(tr("Start"));
  add(start, tr("Pick up speed over…"), {}, [this] {
    const PaceSetting pace = pace_.setting();
    const std::size_t span = spanInHand();
    typeLength(tr("Pick up speed over"), Rational(1), tr("Pick up speed over"),
               [=](Rational length) { return pickUpSpeed(pace, span, length); });
  });
  QMenu* const back = menu_->addMenu(tr("Back"));
  add(back, tr("Run backwards"), {}, [this] {
    const std::size_t span = spanInHand();
    change(runBackwards(pace_.setting(), span, Rational(1) / session_.video().rate),
           tr("Run span %1 backwards").arg(span + 1));
  });
  add(back, tr("Back and again…"), {}, [this] { typeTurns(); });
}

void PaceMenu::fillWhole() {
  add(menu_, tr("Fit all of it to…"), {}, [this] {
    const PaceSetting pace = pace_.setting();
    typeLength(tr("Fit all of it to"), pace.curve().length(), tr("Fit to"),
               [=](Rational total) { return fitTo(pace, total, 0); });
  });
  add(menu_, tr("Fit all of it, eased at both ends, to…"), {}, [this] {
    type(typedFit(pace_.setting(), session_.piece().rate));
  });
  add(menu_, tr("Slip the footage by…"), {}, [this] { type(typedSlip(pace_.setting(), session_.piece().rate)); });
  add(menu_, tr("Line up a source frame here…"), QKeySequence("Shift+L"), [this] { lineUp(); });
}

void PaceMenu::fillTrims() {
  add(menu_, tr("Trim the start to the playhead"), {}, [this] {
    change(trimStart(pace_.setting(), pace_.playhead()), tr("Trim the start"));
    session_.goTo(0);
  });
  add(menu_, tr("Trim the end to the playhead"), {},
      [this] { change(trimEnd(pace_.setting(), pace_.playhead()), tr("Trim the end")); });
  add(menu_, tr("Remove the span; what follows closes up"), {}, [this] {
    const std::size_t span = spanInHand();
    change(removeSpan(pace_.setting(), span), tr("Remove span %1").arg(span + 1));
  });
}

void PaceMenu::add(QMenu* menu, const QString& name, const QKeySequence& keys, const std::function<void()>& act) {
  const auto whole = [this, act] {
    if (!session_.footage()) return;
    act();
    session_.document().endGesture();
  };
  commands_.add(menu, name, keys, whole, Needs::Footage);
}

void PaceMenu::change(const PaceSetting& after, const QString& name) {
  if (after == pace_.setting())
    emit session_.said(tr("%1: that is not possible here.").arg(name));
  else
    pace_.set(after, name, {});
}

// ---- what is typed

void PaceMenu::type(const TypedPace& number) {
  if (!session_.footage()) return;
  emit chartNeeded();
  pace_.bringUp();
  chart_.plot()->prompt(number);
}

void PaceMenu::typeLength(const QString& question, Rational length, const QString& name, OfLength edit) {
  type(typedLength(question, length, name, session_.piece().rate, std::move(edit)));
}

void PaceMenu::typeSpeed(Keeping keeping) {
  const std::size_t span = spanInHand();
  chart_.plot()->selectSpan(span);
  type(typedSpeed(pace_.setting(), span, keeping));
}

void PaceMenu::typeGlide() {
  const auto mark = markOrWords();
  if (!mark) return;
  chart_.plot()->selectMark(*mark);
  type(typedGlide(pace_.setting(), *mark, session_.piece().rate));
}

void PaceMenu::setGlideSide(GlideSide side, const QString& name) {
  if (const auto mark = markOrWords())
    change(molten::setGlideSide(pace_.setting(), *mark, side), tr("Glide %1 %2").arg(*mark + 1).arg(name.toLower()));
}

void PaceMenu::typeTurns() {
  const PaceSetting pace = pace_.setting();
  const std::size_t span = spanInHand();
  type(typedTurns(pace, span, std::min(usualGlide, pace.spans[span].length / 4), session_.piece().rate));
}

void PaceMenu::lineUp() {
  type(typedSourceFrame(pace_.setting(), pace_.playhead(), session_.video().rate));
}

// ---- marks

std::size_t PaceMenu::spanInHand() const {
  if (const auto span = chart_.plot()->sight().span) return *span;
  return pace_.setting().curve().spanAt(pace_.playhead());
}

std::optional<std::size_t> PaceMenu::markInHand() const {
  if (const auto mark = chart_.plot()->sight().mark) return mark;
  const PaceCurve curve = pace_.setting().curve();
  const Rational playhead = pace_.playhead();
  std::optional<std::size_t> nearest;
  double least = 1e300;
  for (std::size_t i = 0; i + 1 < curve.spans().size(); ++i)
    if (const double off = std::abs((curve.beginOf(i + 1) - playhead).toDouble()); off < least)
      least = off, nearest = i;
  return nearest;
}

std::optional<std::size_t> PaceMenu::markOrWords() {
  const auto mark = markInHand();
  if (!mark) emit session_.said(tr("There is no mark yet: M drops one at the playhead."));
  return mark;
}

void PaceMenu::dropMark() {
  if (!session_.footage()) return;
  const Rational at = pace_.playhead();
  const PaceSetting pace = pace_.setting(), after = molten::dropMark(pace, at, usualGlide);
  if (after == pace) {
    emit session_.said(tr("A mark stands there already, or the playhead is at an end."));
    return;
  }
  pace_.set(after, tr("Mark at %1").arg(shown(secondsText(at.toDouble()))), {});
  session_.document().endGesture();
  const PaceCurve curve = after.curve();
  for (std::size_t i = 1; i < after.spans.size(); ++i)
    if (curve.beginOf(i) == pace_.playhead()) chart_.plot()->selectMark(i - 1);
}

void PaceMenu::goToMark(int direction) {
  const PaceCurve curve = pace_.setting().curve();
  const Rational rate = session_.piece().rate;
  // From the mark in hand, if there is one: the playhead stands on a picture beside it.
  const auto inHand = chart_.plot()->sight().mark;
  const double now = (inHand ? curve.beginOf(*inHand + 1) : pace_.playhead()).toDouble(),
               slack = inHand ? 0 : 0.25 / rate.toDouble();
  std::optional<std::size_t> found;
  for (std::size_t i = 1; i < curve.spans().size(); ++i) {
    const double at = curve.beginOf(i).toDouble();
    if (direction > 0 && at > now + slack && !found) found = i;
    if (direction < 0 && at < now - slack) found = i;
  }
  if (!found) return session_.goTo(direction > 0 ? session_.span().last : session_.span().first);
  session_.goTo((curve.beginOf(*found) * rate + Rational(1, 2)).floor());
  chart_.plot()->selectMark(*found - 1);
}

}  // namespace molten

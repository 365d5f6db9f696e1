#include "app/chart/pace_menu.h"

#include <QMenu>
#include <cmath>

#include "app/commands/commands.h"
#include "app/chart/pace_on_chart.h"
#include "app/chart/time_chart.h"
#include "app/theme/parts.h"
#include "core/time/pace_text.h"

namespace molten {

using theme::shown;
namespace {

/// Of a new mark, once the speeds about it differ: seconds.
const Rational usualGlide(3, 10);

std::string typed(const QString& text) {
  QString plain = text;
  return plain.remove(' ').replace(QChar(0x2212), '-').toLower().toStdString();
}

QString inSeconds(Rational time) {
  return shown(rationalText(time)) + "s";
}

}  // namespace

PaceMenu::PaceMenu(Session& session, PaceOnChart& pace, TimeChart& chart, Commands& commands, QMenu* menu,
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
  connect(&chart_, &TimeChart::markRequested, this, &PaceMenu::dropMark);
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
    const PaceSetting before = pace_.setting();
    const std::size_t span = spanInHand();
    typeLength(tr("Length of span %1").arg(span + 1), inSeconds(before.spans[span].length),
               tr("Span %1 lasts").arg(span + 1), [=](Rational length) { return setLength(before, span, length); });
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
    const PaceSetting before = pace_.setting();
    const Rational t = pace_.playhead();
    typeLength(tr("Freeze here for"), "1s", tr("Freeze for"),
               [=](Rational length) { return freezeHere(before, t, length); });
  });
  add(stop, tr("Come to rest over…"), {}, [this] {
    const PaceSetting before = pace_.setting();
    const std::size_t span = spanInHand();
    typeLength(tr("Come to rest over"), "1s", tr("Come to rest over"),
               [=](Rational length) { return comeToRest(before, span, length); });
  });
  QMenu* const start = menu_->addMenu(tr("Start"));
  add(start, tr("Pick up speed over…"), {}, [this] {
    const PaceSetting before = pace_.setting();
    const std::size_t span = spanInHand();
    typeLength(tr("Pick up speed over"), "1s", tr("Pick up speed over"),
               [=](Rational length) { return pickUpSpeed(before, span, length); });
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
    const PaceSetting before = pace_.setting();
    typeLength(tr("Fit all of it to"), inSeconds(before.curve().length()), tr("Fit to"),
               [=](Rational total) { return fitTo(before, total, 0); });
  });
  add(menu_, tr("Fit all of it, eased at both ends, to…"), {}, [this] {
    const PaceSetting before = pace_.setting();
    typeLength(tr("Fit all of it, eased, to"), inSeconds(before.curve().length()), tr("Fit, eased, to"),
               [=](Rational total) { return fitTo(before, total, std::min(total / 4, Rational(1))); });
  });
  add(menu_, tr("Slip the footage by…"), {}, [this] {
    const PaceSetting before = pace_.setting();
    type(tr("Slip the footage by"), "1f", tr("Slip by"), [=, this](const QString& text) -> std::optional<PaceSetting> {
      const auto by = seconds(text);
      return by ? std::optional(slip(before, *by)) : std::nullopt;
    });
  });
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

std::optional<Rational> PaceMenu::seconds(const QString& text) const {
  const auto length = parseSeconds(typed(text), session_.piece().rate);
  return length ? std::optional(*length) : std::nullopt;
}

void PaceMenu::type(const QString& question, const QString& text, const QString& name, ChartPlot::TypedEdit edit) {
  if (!session_.footage()) return;
  emit chartNeeded();
  pace_.bringUp();
  chart_.plot()->prompt(question, text, name, std::move(edit));
}

void PaceMenu::typeLength(const QString& question, const QString& text, const QString& name, OfLength edit) {
  type(question, text, name, [this, edit](const QString& written) -> std::optional<PaceSetting> {
    const auto length = seconds(written);
    return length && *length > Rational(0) ? std::optional(edit(*length)) : std::nullopt;
  });
}

void PaceMenu::typeSpeed(Keeping keeping) {
  const PaceSetting before = pace_.setting();
  const std::size_t span = spanInHand();
  chart_.plot()->selectSpan(span);
  type(keeping == Keeping::Footage ? tr("Speed, keeping its footage") : tr("Speed, keeping its length"),
       shown(rationalText(before.spans[span].speed * 100)) + "%", tr("Span %1 at").arg(span + 1),
       [=](const QString& text) -> std::optional<PaceSetting> {
         const auto speed = parseSpeed(typed(text));
         return speed ? std::optional(setSpeed(before, span, *speed, keeping)) : std::nullopt;
       });
}

void PaceMenu::typeGlide() {
  const auto mark = markOrWords();
  if (!mark) return;
  const PaceSetting before = pace_.setting();
  chart_.plot()->selectMark(*mark);
  type(tr("Glide of"), inSeconds(before.spans[*mark].glide), tr("Glide %1 of").arg(*mark + 1),
       [=, this, at = *mark](const QString& text) -> std::optional<PaceSetting> {
         const auto length = seconds(text);
         return length && *length >= Rational(0) ? std::optional(setGlide(before, at, *length)) : std::nullopt;
       });
}

void PaceMenu::setGlideSide(GlideSide side, const QString& name) {
  if (const auto mark = markOrWords())
    change(molten::setGlideSide(pace_.setting(), *mark, side), tr("Glide %1 %2").arg(*mark + 1).arg(name.toLower()));
}

void PaceMenu::typeTurns() {
  const PaceSetting before = pace_.setting();
  const std::size_t span = spanInHand();
  const Rational glide = std::min(usualGlide, before.spans[span].length / 4);
  type(tr("Back and again, how often"), "1", tr("Back and again"),
       [=](const QString& text) -> std::optional<PaceSetting> {
         const int times = text.trimmed().toInt();
         return times >= 1 && times <= 100 ? std::optional(backAndAgain(before, span, times, glide)) : std::nullopt;
       });
}

void PaceMenu::lineUp() {
  const PaceSetting before = pace_.setting();
  const Rational t = pace_.playhead(), rate = session_.video().rate;
  const auto now = static_cast<std::int64_t>(std::floor(before.curve().at(t).seconds() * rate.toDouble() + 0.5));
  type(tr("This source frame at the playhead"), QString::number(now), tr("Line up source frame"),
       [=](const QString& text) -> std::optional<PaceSetting> {
         bool number = false;
         const qlonglong frame = text.trimmed().toLongLong(&number);
         return number && std::abs(frame) < (1 << 30)
                    ? std::optional(molten::lineUp(before, Rational(frame) / rate, t))
                    : std::nullopt;
       });
}

// ---- marks

std::size_t PaceMenu::spanInHand() const {
  if (const auto span = chart_.plot()->selectedSpan()) return *span;
  return pace_.setting().curve().spanAt(pace_.playhead());
}

std::optional<std::size_t> PaceMenu::markInHand() const {
  if (const auto mark = chart_.plot()->selectedMark()) return mark;
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
  const PaceSetting before = pace_.setting(), after = molten::dropMark(before, at, usualGlide);
  if (after == before) {
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
  const auto inHand = chart_.plot()->selectedMark();
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

#include "app/reel/reel_actions.h"

#include <QAction>
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QMenu>
#include <QRegularExpression>
#include <algorithm>
#include <cmath>

#include "app/commands/commands.h"
#include "app/files/file_choice.h"
#include "app/reel/cut_pair.h"
#include "app/reel/near_cuts.h"
#include "app/reel/reel_strip.h"
#include "app/reel/shot_pictures.h"
#include "app/theme/parts.h"
#include "core/project/listing.h"

namespace molten {
namespace {

using theme::shown;

/// Lengths that are offered for a dissolve. In seconds.
constexpr double offered[] = {0.2, 0.5, 1, 2};
constexpr double longestDissolve = 60;
/// Pixels that a cut is pulled down for twice the speed, and to the right for a second longer; seconds that it begins with.
constexpr double forTwice = 45, forASecond = 160, usualThrough = 0.5;
constexpr double slowestThrough = 0.1, asItRuns = 0.08;

Rational milliseconds(double seconds) {
  return Rational(std::llround(seconds * 1000), 1000);
}

}  // namespace

ReelActions::ReelActions(Session& session, ReelStrip& strip, QWidget& window)
    : QObject(&window), session_(session), strip_(strip), window_(window), pictures_(new ShotPictures(this)), pair_(new CutPair(&window, strip)),
      near_(new NearCuts(session, this)),
      lists_(
          [](const ListQuestion& asked, std::stop_token) {
            const auto played = playedOf(asked.project, asked.first, asked.describe);
            if (!played) return QStringList{shown(played.error().message)};
            std::vector<std::string> lost;
            const auto readings = readingsOf(asked.project, *played, asked.first, asked.describe);
            if (const auto saved = saveList(asked.path.toStdString(), asked.project, *played, readings, lost); !saved) return QStringList{shown(saved.error().message)};
            QStringList said{tr("%1 is written.").arg(QFileInfo(asked.path).fileName())};
            if (!lost.empty()) said << shown(inShort(lost));
            return said;
          },
          [this](const QStringList& said) { emit session_.said(said.join(' ')); }) {
  connect(&session_, &Session::changed, this, &ReelActions::refresh);
  connect(&session_, &Session::selectionChanged, this, &ReelActions::refresh);
  connect(&session_, &Session::frameChanged, this, &ReelActions::refreshPlayhead);
  connect(pictures_, &ShotPictures::arrived, this, [this] {
    refresh();
    if (pulled_) showPair();
  });
  connect(near_, &NearCuts::arrived, this, [this] {
    if (pulled_) showMotion();
    moveToBetter();
  });
  connectStrip();
}

void ReelActions::connectStrip() {
  connect(&strip_, &ReelStrip::taken, this, [this](std::size_t shot) {
    if (shot != session_.shot() || session_.reelInHand()) session_.takeShot(shot);
  });
  connect(&strip_, &ReelStrip::allTaken, &session_, &Session::takeReel);
  connect(&strip_, &ReelStrip::moved, this, [this](std::size_t shot, std::size_t to) { session_.applyToReel(moveShot(session_.whole(), shot, to), to); });
  connect(&strip_, &ReelStrip::trimmed, this, &ReelActions::trim);
  connect(&strip_, &ReelStrip::trimEnded, this, [this] {
    trimmed_.reset();
    trimming_.clear();
    session_.document().endGesture();
    refresh();
  });
  connect(&strip_, &ReelStrip::cutPulled, this, &ReelActions::pullCut);
  connect(&strip_, &ReelStrip::cutPullEnded, this, [this] {
    pulled_.reset();
    trimming_.clear();
    pair_->hide();
    session_.document().endGesture();
    refresh();
  });
  connect(&strip_, &ReelStrip::cutMenuWanted, this, [this](std::size_t shot, const QPoint& at) {
    QMenu menu;
    fillCutMenu(menu, shot);
    menu.exec(at);
  });
  connect(&strip_, &ReelStrip::menuWanted, this, [this](std::size_t, const QPoint& at) { QMenu::exec(ofShot_, at, nullptr, &window_); });
  connect(&strip_, &ReelStrip::renameWanted, this, &ReelActions::rename);
  connect(&strip_, &ReelStrip::addWanted, this, &ReelActions::addDialog);
  connect(&strip_, &ReelStrip::dropped, this, &ReelActions::add);
}

void ReelActions::fill(Commands& commands, QMenu* menu) {
  const auto acting = [&](const QString& name, const QKeySequence& keys, const std::function<void()>& act, Needs needs = Needs::Reel) {
    return commands.add(menu, name, keys, act, needs);
  };
  acting(tr("Add shots…"), QKeySequence("Shift+R"), [this] { addDialog(); }, Needs::Nothing);
  acting(tr("Write a list…"), {}, [this] { listDialog(); }, Needs::Footage);
  menu->addSeparator();
  acting(tr("Next shot"), QKeySequence("PgDown"), [this] { takeNext(1); });
  acting(tr("Shot before"), QKeySequence("PgUp"), [this] { takeNext(-1); });
  acting(tr("All shots: what comes after the last cut"), QKeySequence("Shift+E"), [this] { session_.takeReel(); });
  stops_ = acting(tr("What comes after it stops at cuts"), {}, [this] { session_.document().apply(stopAtCuts(session_.whole(), !session_.whole().stopsAtCuts)); });
  stops_->setCheckable(true);
  stops_->setToolTip(tr("Stages that read other moments read none of another shot"));
  menu->addSeparator();
  alone_ = acting(tr("This shot alone"), QKeySequence("Shift+P"), [this] { session_.setShotAlone(!session_.shotAlone()); }, Needs::Shot);
  alone_->setCheckable(true);
  menu->addSeparator();
  ofShot_ << acting(tr("Split at the playhead"), QKeySequence("X"), [this] { split(); }, Needs::Footage);
  const auto ofShot = [&](const QString& name, const QKeySequence& keys, const std::function<void()>& act) { return acting(name, keys, act, Needs::Shot); };
  ofShot_ << ofShot(tr("Duplicate the shot"), QKeySequence("Ctrl+Shift+D"),
                    [this] { session_.applyToReel(duplicateShot(session_.whole(), session_.shot()), session_.shot() + 1); });
  ofShot_ << ofShot(tr("Rename the shot…"), QKeySequence("Shift+F2"), [this] { rename(); });
  ofShot_ << ofShot(tr("Earlier in the reel"), QKeySequence("Ctrl+PgUp"), [this] { moveBy(-1); });
  ofShot_ << ofShot(tr("Later in the reel"), QKeySequence("Ctrl+PgDown"), [this] { moveBy(1); });
  on_ = ofShot(tr("Shot on"), QKeySequence("Ctrl+Shift+K"),
               [this] { apply(switchShot(session_.whole(), session_.shot(), !placeOf(session_.whole(), session_.shot()).on)); });
  on_->setCheckable(true);
  fills_ = ofShot(tr("Cut to the reel's shape"), {},
                  [this] { apply(fillShot(session_.whole(), session_.shot(), !placeOf(session_.whole(), session_.shot()).fills)); });
  fills_->setCheckable(true);
  ofShot_ << on_ << fills_;
  cut_ = menu->addMenu(tr("Cut after this shot"));
  connect(cut_, &QMenu::aboutToShow, this, [this] {
    cut_->clear();
    fillCutMenu(*cut_, session_.shot());
  });
  ofShot_ << cut_->menuAction();
  ofShot_ << ofShot(tr("Remove the shot"), QKeySequence("Shift+Del"), [this] {
    if (shotCount(session_.whole()) > 1) apply(removeShot(session_.whole(), session_.shot()));
  });
}

void ReelActions::fillCutMenu(QMenu& menu, std::size_t shot) {
  const Cut now = placeOf(session_.whole(), shot).cut;
  const auto choice = [&](const QString& name, bool chosen, const Cut& cut) {
    QAction* const action = menu.addAction(name);
    action->setCheckable(true);
    action->setChecked(chosen);
    connect(action, &QAction::triggered, this, [this, shot, cut] { setCutAfter(shot, cut); });
    return action;
  };
  const bool through = now.through.speed != Rational(1);
  choice(tr("Hard"), now.dissolve == Rational(0) && !through, {0, now.linearLight, {}});
  const QString said = through ? tr("Run through at %1 % for %2 s…").arg(std::lround(now.through.speed.toDouble() * 100)).arg(now.through.lasts.toDouble())
                               : tr("Run through…");
  QAction* const running = choice(said, through, now);
  running->disconnect();
  connect(running, &QAction::triggered, this, [this, shot, now] { typeThrough(shot, now); });
  menu.addSeparator();
  for (const double seconds : offered)
    choice(tr("Dissolve of %1 s").arg(seconds), now.dissolve == milliseconds(seconds), {milliseconds(seconds), now.linearLight, {}});
  connect(menu.addAction(tr("Dissolve of…")), &QAction::triggered, this, [this, shot, now] {
    bool chosen = false;
    const double seconds = QInputDialog::getDouble(&window_, tr("Dissolve"), tr("Both shots are seen for so many seconds:"),
                                                   std::max(0.04, now.dissolve.toDouble()), 0, longestDissolve, 3, &chosen);
    if (chosen) setCutAfter(shot, {milliseconds(seconds), now.linearLight, {}});
  });
  menu.addSeparator();
  QAction* const better = menu.addAction(tr("Cut where the motion agrees"));
  better->setToolTip(tr("Looks a few pictures to both sides in both shots"));
  connect(better, &QAction::triggered, this, [this, shot] {
    wantsBetter_ = shot;
    if (!near_->look(shot)) {
      wantsBetter_.reset();
      return emit session_.said(tr("One of the two shots cannot be looked at: its footage is missing, or not open yet."));
    }
    moveToBetter();
  });
  QAction* const light = choice(tr("Mixed as light"), now.linearLight, {now.dissolve, !now.linearLight, {}});
  light->setEnabled(now.dissolve > Rational(0));
}

/// A dissolve is as long as both shots have room for: what is less than was wished is said.
void ReelActions::setCutAfter(std::size_t shot, const Cut& cut) {
  apply(setCut(session_.whole(), shot, cut));
  const ShotTime* const time = session_.reel().timeOf(shot);
  if (!time || cut.dissolve == Rational(0)) return;
  const double is = time->goes.toDouble(), rate = session_.shownPiece().rate.toDouble();
  if (is + 0.75 / rate < cut.dissolve.toDouble())
    emit session_.said(tr("The shots have room for a dissolve of %1 s here: make one of them longer for more.").arg(is, 0, 'f', 2));
}

/// `400% 0.5s`: in words of one's own.
void ReelActions::typeThrough(std::size_t shot, const Cut& now) {
  const bool through = now.through.speed != Rational(1);
  const QString proposed = QString("%1 % %2 s").arg(through ? std::lround(now.through.speed.toDouble() * 100) : 400).arg(through ? now.through.lasts.toDouble() : usualThrough);
  bool chosen = false;
  QString words = QInputDialog::getText(&window_, tr("Run through"), tr("Speed at the cut, and how long either shot takes to change:"), QLineEdit::Normal, proposed, &chosen);
  if (!chosen) return;
  static const QRegularExpression form(R"(^\s*([0-9]+(?:[.,][0-9]+)?)\s*%?\s+([0-9]+(?:[.,][0-9]+)?)\s*s?\s*$)");
  const auto match = form.match(words);
  const double speed = match.captured(1).replace(',', '.').toDouble() / 100, lasts = match.captured(2).replace(',', '.').toDouble();
  if (!match.hasMatch() || speed < slowestThrough || speed > fastestThrough || lasts > longestThrough)
    return emit session_.said(tr("\"%1\" is no speed and length: write them like 400 % 0.5 s, from %2 to %3 %, at most %4 s.")
                                  .arg(words)
                                  .arg(std::lround(slowestThrough * 100))
                                  .arg(fastestThrough * 100)
                                  .arg(longestThrough));
  setCutAfter(shot, {0, now.linearLight, {milliseconds(speed), milliseconds(lasts)}});
}

void ReelActions::pullCut(std::size_t shot, double right, double down) {
  if (!pulled_) pulled_ = Pulled{shot, placeOf(session_.whole(), shot).cut};
  const RunThrough was = pulled_->cut.through;
  const bool already = was.speed != Rational(1);
  double speed = std::clamp(was.speed.toDouble() * std::exp2(down / forTwice), slowestThrough, static_cast<double>(fastestThrough));
  if (std::abs(speed - 1) < asItRuns) speed = 1;
  const double lasts = std::clamp((already ? was.lasts.toDouble() : usualThrough) + right / forASecond, 0.0, static_cast<double>(longestThrough));
  // Speeds by 5 %, as on the Time Chart.
  const RunThrough through = speed == 1 ? RunThrough{} : RunThrough{Rational(std::llround(speed * 20), 20), Rational(std::llround(lasts * 100), 100)};
  apply(setCut(session_.whole(), shot, {0, pulled_->cut.linearLight, through}, "through"));
  trimming_ = tr("%1 · reel %2 s").arg(throughWords(through)).arg(session_.shownPiece().seconds().toDouble(), 0, 'f', 2);
  refresh();
  showPair();
}

/// The motion on both sides, and whether near by it agrees better.
void ReelActions::showMotion() {
  const CutChoice* const found = near_->found(pulled_->shot);
  if (!found) return pair_->setMotions(std::nullopt, std::nullopt, tr("looking how both move…"));
  const bool better = found->best.out != 0 || found->best.in != 0;
  pair_->setMotions(found->out, found->in,
                    better ? tr("the motion agrees better near by: Cut where the motion agrees") : tr("no cut near by has motion that agrees better"));
}

void ReelActions::moveToBetter() {
  if (!wantsBetter_) return;
  if (const std::string trouble = near_->trouble(*wantsBetter_); !trouble.empty()) {
    wantsBetter_.reset();
    return emit session_.said(shown(trouble));
  }
  const CutChoice* const found = near_->found(*wantsBetter_);
  if (!found) return;
  const std::size_t shot = *std::exchange(wantsBetter_, std::nullopt);
  const auto edit = near_->edit(shot);
  if (!edit) return emit session_.said(tr("No cut within ten pictures has motion that agrees better."));
  const NearCut best = found->best, now = found->now;
  const auto moved = [&](std::int64_t by) { return by == 0 ? tr("stays") : tr("%1%2 pictures").arg(by > 0 ? "+" : "−").arg(std::abs(by)); };
  session_.document().apply(*edit);
  session_.document().endGesture();
  emit session_.said(tr("Moved: the end %1, the beginning %2. The motion differs by %3 % now, before by %4 %.")
                         .arg(moved(best.out), moved(best.in))
                         .arg(std::lround(best.unlike * 100))
                         .arg(std::lround(now.unlike * 100)));
}

void ReelActions::showPair() {
  const std::size_t shot = pulled_->shot;
  pair_->bringUp(strip_.cutRect(shot).center().x(), pictureOf(shot, true), pictureOf(shot + 1, false),
                 throughWords(placeOf(session_.whole(), shot).cut.through));
  near_->look(shot);
  showMotion();
}

QString ReelActions::throughWords(const RunThrough& through) const {
  if (through.speed == Rational(1)) return tr("a hard cut");
  return tr("run through at %1 % for %2 s").arg(std::lround(through.speed.toDouble() * 100)).arg(through.lasts.toDouble(), 0, 'f', 2);
}

QImage ReelActions::pictureOf(std::size_t number, bool end) {
  const Shot shot = shotOf(session_.whole(), number);
  const auto footage = session_.reel().footageOf(shot.source);
  const ShotTime* const time = session_.reel().timeOf(number);
  if (!footage || !time) return {};
  const ChainReading reading(shot.chain, footage->video(shot.source.between), nullptr, {}, footage->clock());
  const Rational picture = Rational(1) / session_.shownPiece().rate;
  // With or without being run through it is the same one.
  const Rational until = std::min(shot.place.to.value_or(session_.reel().lengthOf(number)), session_.reel().lengthOf(number));
  const Rational at = end ? std::max(time->from, until - picture) : time->from;
  const VideoDescription& leaving = reading.outgoing();
  const PlaceReads reads = reading.at(Moment::at(at, leaving.rate), leaving.size.width / 2.0, leaving.size.height / 2.0);
  if (reads.frame < 0) return {};
  const ShotPicture wanted{footage, reads.frame};
  pictures_->wantToo(wanted);
  return pictures_->find(wanted);
}

void ReelActions::add(const QStringList& files, std::optional<std::size_t> at) {
  std::vector<Source> sources;
  for (const QString& file : files) {
    const QFileInfo info(file);
    if (info.suffix() == "molten-starter" || isListFile(file.toStdString())) {
      emit session_.said(tr("%1 is no footage: open it by itself.").arg(info.fileName()));
      continue;
    }
    if (!session_.document().path().isEmpty() && info == QFileInfo(session_.document().path())) {
      emit session_.said(tr("%1 is what is open: it cannot be a shot of itself.").arg(info.fileName()));
      continue;
    }
    sources.push_back({QFileInfo(file).absoluteFilePath().toStdString(), {}, {}});
  }
  if (sources.empty()) return;
  const Project& whole = session_.whole();
  if (whole.source.path.empty()) {
    // There was nothing: the first is what the others come to.
    Project begun = whole;
    begun.source = sources[0];
    sources.erase(sources.begin());
    return session_.document().newProject(sources.empty() ? begun : addShots(begun, 1, sources).after);
  }
  const std::size_t place = at.value_or(shotCount(whole));
  session_.applyToReel(addShots(asReel(whole, session_.piece().rate), place, sources), place);
}

void ReelActions::addDialog() {
  add(QFileDialog::getOpenFileNames(&window_, tr("Add shots"), QFileInfo(shown(session_.project().source.path)).absolutePath(),
                                    tr("Footage and projects (*.molten *.mp4 *.mov *.mkv *.webm *.avi *.mxf *.ts *.m4v *.mpg *.png *.tif *.tiff *.jpg);;All files (*)")));
}

void ReelActions::listDialog() {
  const QFileInfo beside(shown(session_.whole().source.path));
  const QString path = chooseNewFile(&window_, tr("Write a list of the shots"),
                                     tr("OpenTimelineIO (*.otio);;Edit list, CMX 3600 (*.edl);;What every picture reads (*.csv)"),
                                     beside.absolutePath() + "/" + beside.completeBaseName() + ".otio");
  if (!path.isEmpty()) writeList(path);
}

void ReelActions::writeList(const QString& path) {
  if (!isListFile(path.toStdString())) return emit session_.said(tr("The name's ending says which list it is: .otio, .edl or .csv."));
  lists_.ask({path, session_.whole(), session_.isReel() ? std::nullopt : std::optional(session_.video()), session_.reel().describer()});
}

void ReelActions::split() {
  if (!session_.within().empty() || !session_.footage()) return;
  if (session_.reelInHand()) session_.takeShot(session_.shotUnder(session_.frame()));
  const bool wasReel = session_.isReel();
  const auto frames = session_.inReel();
  const Project reel = wasReel ? session_.whole() : asReel(session_.whole(), session_.piece().rate);
  const Rational rate = session_.shownPiece().rate;
  // Of what leaves the chain, at the picture that the second one begins with.
  const Rational at = frames ? frames->time.from + Rational(session_.shownFrame()) / rate - frames->time.begin : Rational(session_.frame()) / rate;
  const bool within = frames ? session_.shownFrame() > frames->first() && session_.shownFrame() <= frames->last()
                             : !wasReel && session_.frame() > session_.span().first && session_.frame() <= session_.span().last;
  if (!within) return emit session_.said(tr("There is nothing to split here: take the playhead into the shot, beyond its first picture."));
  session_.applyToReel(splitShot(reel, session_.shot(), at), session_.shot() + 1);
}

void ReelActions::rename() {
  if (!session_.isReel()) return;
  bool chosen = false;
  const QString name = QInputDialog::getText(&window_, tr("Rename the shot"), tr("Name; empty: that of its footage"), QLineEdit::Normal,
                                             shown(shotTitle(session_.whole(), session_.shot())), &chosen);
  if (chosen) apply(renameShot(session_.whole(), session_.shot(), name.trimmed().toStdString()));
}

void ReelActions::takeNext(int by) {
  const auto to = static_cast<std::int64_t>(session_.shot()) + by;
  if (to >= 0 && to < static_cast<std::int64_t>(shotCount(session_.whole()))) session_.takeShot(static_cast<std::size_t>(to));
}

void ReelActions::moveBy(int by) {
  const auto to = static_cast<std::int64_t>(session_.shot()) + by;
  if (to < 0 || to >= static_cast<std::int64_t>(shotCount(session_.whole()))) return;
  session_.applyToReel(moveShot(session_.whole(), session_.shot(), static_cast<std::size_t>(to)), static_cast<std::size_t>(to));
}

void ReelActions::trim(std::size_t shot, bool end, double seconds) {
  if (shot != session_.shot() || !session_.reel().timeOf(shot)) return;
  if (!trimmed_) trimmed_ = placeOf(session_.whole(), shot);
  const Rational rate = session_.shownPiece().rate, picture = Rational(1) / rate;
  const Rational whole = session_.reel().lengthOf(shot);
  const Rational by = Rational(std::llround(seconds * rate.toDouble())) / rate;
  std::optional<Rational> from = trimmed_->from, to = trimmed_->to;
  const Rational first = from.value_or(0), last = std::min(to.value_or(whole), whole);
  if (end)
    to = std::clamp(last + by, first + picture, std::max(whole, first + picture));
  else
    from = std::clamp(first + by, Rational(0), std::max(Rational(0), last - picture));
  // All of it is no trim.
  if (to && *to >= whole) to.reset();
  if (from && *from == Rational(0)) from.reset();
  apply(trimShot(session_.whole(), shot, from, to, "trim"));
  if (const auto frames = session_.inReel()) session_.goToShown(end ? frames->last() : frames->first());
  const ShotTime* const time = session_.reel().timeOf(shot);
  const double was = (last - first).toDouble(), is = time ? time->length.toDouble() : was;
  trimming_ = tr("%1  %2 s (%3%4) · reel %5 s")
                  .arg(shown(shotTitle(session_.whole(), shot)))
                  .arg(is, 0, 'f', 2)
                  .arg(is < was ? QString("−") : QString("+"))
                  .arg(std::abs(is - was), 0, 'f', 2)
                  .arg(session_.shownPiece().seconds().toDouble(), 0, 'f', 2);
  refresh();
}

QString ReelActions::summary() const {
  if (!trimming_.isEmpty()) return trimming_;
  const auto& played = session_.reel().played();
  const auto count = static_cast<int>(shotCount(session_.whole()));
  QString words = count == 1 ? tr("Reel · 1 shot") : tr("Reel · %1 shots").arg(count);
  if (const std::size_t stages = session_.whole().reelChain.size(); stages > 0) words += stages == 1 ? tr(" · 1 stage") : tr(" · %1 stages").arg(stages);
  words += played ? tr(" · %1 s").arg(played->piece.seconds().toDouble(), 0, 'f', 1) : tr(" · all off");
  return session_.shotAlone() ? tr("This shot alone · ") + words : words;
}

void ReelActions::refresh() {
  const Project& whole = session_.whole();
  const bool reel = session_.isReel();
  if (on_) {
    on_->setChecked(placeOf(whole, session_.shot()).on);
    fills_->setChecked(placeOf(whole, session_.shot()).fills);
    alone_->setChecked(session_.shotAlone());
    stops_->setChecked(whole.stopsAtCuts);
    cut_->setEnabled(reel && !session_.reelInHand() && session_.shot() + 1 < shotCount(whole));
  }
  if (!reel) return;
  StripState state = strip_.state();
  state.shots.clear();
  std::vector<ShotPicture> pictures;
  for (std::size_t i = 0; i < shotCount(whole); ++i) {
    const Source& source = sourceOf(whole, i);
    const ShotPlace& place = placeOf(whole, i);
    const ShotTime* const time = session_.reel().timeOf(i);
    StripShot shot;
    shot.title = shown(shotTitle(whole, i));
    shot.on = place.on;
    shot.seconds = time ? time->length.toDouble() : 0;
    shot.dissolve = time ? time->goes.toDouble() : 0;
    shot.through = time && i + 1 < shotCount(whole) ? place.cut.through.speed.toDouble() : 1;
    shot.trouble = shown(session_.reel().troubleWith(source));
    if (const auto footage = session_.reel().footageOf(source)) {
      if (!footage->madeFrom().empty()) shot.note = footage->keptIn().empty() ? tr("the result of a project, made as it is shown") : tr("the result of a project, which is kept");
      const double first = place.from.value_or(0).toDouble() * footage->clock().rate().toDouble();
      const auto last = static_cast<double>(footage->clock().frameCount()) - 1;
      const ShotPicture picture{footage, static_cast<std::int32_t>(std::clamp(first, 0.0, last))};
      shot.picture = pictures_->find(picture);
      pictures.push_back(picture);
    }
    state.shots.push_back(std::move(shot));
  }
  state.taken = session_.shot();
  state.allTaken = session_.reelInHand();
  state.summary = summary();
  strip_.setState(state);
  pictures_->want(pictures);
  refreshPlayhead();
}

void ReelActions::refreshPlayhead() {
  const auto& played = session_.reel().played();
  if (!played || strip_.state().shots.size() != shotCount(session_.whole())) return;
  StripState state = strip_.state();
  const Rational at = Rational(session_.shownFrame()) / played->piece.rate;
  const ShotTime& time = played->times[rowMoment(*played->row, at).shot];
  state.under = session_.playsReel() ? time.shot : session_.shot();
  state.playhead = session_.playsReel() ? std::clamp(((at - time.begin) / time.length).toDouble(), 0.0, 1.0) : 0;
  strip_.setState(state);
}

}  // namespace molten

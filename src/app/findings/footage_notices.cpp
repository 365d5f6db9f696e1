#include "app/findings/footage_notices.h"

#include <algorithm>
#include <cmath>

#include "app/findings/misfit_view.h"
#include "app/log/log_view.h"
#include "app/playback/playback.h"
#include "app/session/outside_words.h"
#include "app/theme/parts.h"

namespace molten {

using theme::shown;
namespace {

/// Pictures of a piece that show one of some frames; rising. `frames` rise too.
std::vector<std::int64_t> picturesOf(const ChainReading& reading, const Piece& piece,
                                     const std::vector<std::int32_t>& frames, const std::stop_token& stop) {
  std::vector<std::int64_t> found;
  for (std::int64_t n = 0; n < piece.length && !stop.stop_requested(); ++n) {
    const MomentReads reads = reading.at(piece.moment(n).pictures());
    const auto least = static_cast<std::int32_t>(std::floor(reads.least)),
               most = static_cast<std::int32_t>(std::ceil(reads.most));
    const auto first = std::lower_bound(frames.begin(), frames.end(), least);
    if (first != frames.end() && *first <= most) found.push_back(n);
  }
  return found;
}

}  // namespace

FootageNotices::FootageNotices(Session& session, Playback& playback, LogView& log, QWidget& window)
    : QObject(&window),
      session_(session),
      playback_(playback),
      log_(log),
      where_([](const WhereQuestion& of,
                const std::stop_token& stop) { return picturesOf(*of.reading, of.piece, of.frames, stop); },
             [this](const std::vector<std::int64_t>& pictures) { showWhere(pictures); }),
      changed_([](const std::shared_ptr<const Footage>& footage, const std::stop_token& stop) { return footage && footage->changedOnDisk(stop) ? footage : nullptr; },
               [this](const std::shared_ptr<const Footage>& footage) {
                 tellChanged(footage);
                 changeTimer_.start();
               }),
      view_(new MisfitView(&window)) {
  connect(view_, &MisfitView::remedyWanted, this, [this](const Edit& edit) { session_.document().apply(edit); });
  // What is remedied, or taken back, is seen anew.
  connect(&session_, &Session::changed, this, [this] {
    if (view_->isVisible()) view_->setMisfits(misfitsNow());
  });
  connect(&session_.document(), &Document::replaced, view_, &QWidget::hide);
  connect(&log_, &LogView::whereAsked, this, [this](const std::vector<std::int32_t>& frames) {
    if (session_.footage()) where_.ask({session_.reading(), session_.piece(), frames});
  });
  connect(&session_, &Session::changed, this, [this] { where_.forget(); });
  connect(&session_, &Session::replacing, this, [this] { replaced_ = now(); });
  connect(&session_, &Session::footageFailed, this, [this] { replaced_.reset(); });
  connect(&session_, &Session::footageArrived, this, [this] {
    if (!session_.changesShot()) log_.clear();
    for (const auto& warning : session_.footage()->warnings()) {
      const QString sentence = shown(warning);
      if (std::any_of(log_.lines().begin(), log_.lines().end(), [&](const LogLine& line) { return line.about == sentence; })) continue;
      log_.put({sentence, sentence, {}});
      emit session_.said(sentence);
    }
  });
  connect(&session_, &Session::outsideKnown, this, [this] {
    if (replaced_ && session_.footage()) tellWhatNoLongerFits();
  });
  faultTimer_.setInterval(500);
  connect(&faultTimer_, &QTimer::timeout, this, &FootageNotices::lookForFaults);
  faultTimer_.start();
  // The disk is asked again only after it has answered: a slow one would otherwise be called off each time.
  changeTimer_.setInterval(1000);
  changeTimer_.setSingleShot(true);
  connect(&changeTimer_, &QTimer::timeout, this, [this] { changed_.ask(session_.footage()); });
  changeTimer_.start();
}

FootageNotices::Holding FootageNotices::now() const {
  const Project& project = session_.project();
  Holding now{session_.piece().endless, {}, session_.video(), session_.whole()};
  for (std::size_t k = 0; k < project.chain.size(); ++k) {
    const Stage& stage = project.chain[k];
    if (!stage.on) continue;
    for (const StageNote& note : stage.kind->notes(stage.widestValues(), session_.videoInto(k), session_.piece().rate))
      now.notes << shown(titleOf(stage) + ": " + note.text);
  }
  if (const QString outside = outsideSentence(session_); !outside.isEmpty()) now.notes << outside;
  return now;
}

/// After other footage has come in place of what there was: the chain stays, but not all that was true of it.
void FootageNotices::tellWhatNoLongerFits() {
  const Holding before = *std::exchange(replaced_, std::nullopt), after = now();
  if (session_.within().empty()) {
    swapped_ = Swapped{session_.project().source.path, before.video, {}};
    for (std::size_t i = 0; i < std::min(shotCount(session_.whole()), shotCount(before.whole)); ++i)
      if (sourceOf(before.whole, i).path != swapped_->path) swapped_->shots.push_back(i);
    const auto misfits = misfitsNow();
    view_->setMisfits(misfits);
    if (std::any_of(misfits.begin(), misfits.end(), [](const Misfit& one) { return one.remedy.has_value(); })) view_->bringUp();
  }
  QStringList all;
  if (before.endless && !after.endless) all << tr("The piece is no loop any more.");
  for (const QString& note : after.notes)
    if (!before.notes.contains(note)) all << note;
  const Chain& chain = session_.project().chain;
  for (std::size_t k = 0; k < chain.size(); ++k) {
    const Rational end = session_.videoInto(k).seconds();
    std::size_t beyond = 0;
    for (const auto& [parameter, track] : chain[k].keys)
      beyond += static_cast<std::size_t>(
          std::count_if(track.begin(), track.end(), [&](const Key& key) { return key.at > end; }));
    if (beyond > 0)
      all << tr("%1: keys lie past the end of the new clip (%2).").arg(shown(titleOf(chain[k]))).arg(beyond);
  }
  if (all.isEmpty()) return;
  log_.put({"replaced", all.join(' '), {}});
  emit session_.said(all.join(' '));
}

/// Of each shot that has the new footage.
std::vector<Misfit> FootageNotices::misfitsNow() const {
  std::vector<Misfit> all;
  if (!swapped_ || !session_.footage() || session_.project().source.path != swapped_->path) return all;
  const Project& whole = session_.whole();
  for (const std::size_t i : swapped_->shots)
    if (i < shotCount(whole) && sourceOf(whole, i).path == swapped_->path)
      for (Misfit& one : misfits(whole, i, swapped_->was, session_.video())) all.push_back(std::move(one));
  return all;
}

/// Frames that turn out to be damaged are said once, whoever has read them.
void FootageNotices::lookForFaults() {
  if (!session_.footage()) return;
  const FrameFaults& faults = session_.footage()->faults();
  for (const FrameFault fault : {FrameFault::Damaged, FrameFault::Missing, FrameFault::Changed}) {
    const auto frames = faults.frames(fault);
    if (frames.empty()) continue;
    const QString about = "faults " + QString::number(static_cast<int>(fault));
    const QString sentence = shown(faults.sentence(fault, session_.footage()->name()));
    const bool first = std::none_of(log_.lines().begin(), log_.lines().end(),
                                    [&](const LogLine& line) { return line.about == about; });
    log_.put({about, sentence, frames});
    if (first) emit session_.said(tr("%1 The Log (Ctrl+L) shows where.").arg(sentence));
  }
}

/// Says once for each footage that is opened that it has changed. nullptr: it has not changed.
void FootageNotices::tellChanged(const std::shared_ptr<const Footage>& footage) {
  if (!footage || footage != session_.footage()) return;
  const QString about = "changed on the disk";
  if (std::any_of(log_.lines().begin(), log_.lines().end(), [&](const LogLine& line) { return line.about == about; })) return;
  const QString sentence = tr("%1 has been changed, cut short or taken away since it was opened. Frames in memory are those of before; open it again to see what is there now.")
                               .arg(shown(footage->name()));
  log_.put({about, sentence, {}});
  emit session_.said(sentence);
}

/// Marks the pictures, and goes to the first of them.
void FootageNotices::showWhere(const std::vector<std::int64_t>& pictures) {
  if (pictures.empty())
    emit session_.said(tr("No picture of the result reads these frames."));
  else
    session_.goTo(pictures.front());
  playback_.mark(pictures);
}

}  // namespace molten

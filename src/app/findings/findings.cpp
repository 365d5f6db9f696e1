#include "app/findings/findings.h"

#include <algorithm>

#include "app/dials/dials.h"
#include "app/picture/picture_hands.h"
#include "app/playback/player.h"
#include "core/engine/step_widths.h"

namespace molten {

Findings::Findings(Session& session, const Player& player, Dials& dials, PictureHands& hands, QObject* parent)
    : QObject(parent), session_(session), player_(player), dials_(dials), hands_(hands), loops_(new LoopFinder(this)) {
  connect(&session_, &Session::footageLeaves, loops_, &LoopFinder::cancel);
  connect(&dials_, &Dials::actionChosen, this, &Findings::act);
  connect(loops_, &LoopFinder::measured, this, &Findings::tell);
  connect(loops_, &LoopFinder::found, this, &Findings::take);
}

MeasuredFootage Findings::footage() const {
  return {player_.sources(), session_.project().source.between, session_.followed()};
}

void Findings::refresh() {
  const Chain& chain = session_.project().chain;
  const auto stage = session_.selectedStage();
  if (!session_.footage() || !stage || !chain[*stage].on) return;
  const bool borders = chain[*stage].kind->contrast(chain[*stage]).has_value();
  const bool closes = session_.videoInto(*stage + 1).endless && (borders || !session_.videoInto(*stage).endless);
  if (!borders && !closes) return;
  if (closes && !borders) dials_.setFinding(Figure::Round, tr("measuring the seam…"));
  loops_->measure(footage(), {chain.begin(), chain.begin() + static_cast<std::ptrdiff_t>(*stage) + 1}, closes);
}

void Findings::act(const QString& action) {
  const auto stage = session_.selectedStage();
  if (!session_.footage() || !stage) return;
  const auto& actions = session_.project().chain[*stage].kind->description().actions;
  const auto known =
      std::find_if(actions.begin(), actions.end(), [&](const auto& one) { return one.id == action.toStdString(); });
  if (known == actions.end()) return;
  if (known->wants == StageAction::Wants::Place || known->wants == StageAction::Wants::Colour) return hands_.pickFor(known->id);
  if (known->wants == StageAction::Wants::Nothing) {
    Chain chain = session_.project().chain;
    chain[*stage] = chain[*stage].kind->acted(chain[*stage], known->id, session_.videoInto(*stage));
    if (chain == session_.project().chain) return emit session_.said(tr("%1: that is so already.").arg(QString::fromStdString(known->label)));
    session_.apply(setChain(session_.project(), chain, known->label));
    return session_.document().endGesture();
  }
  looksFor_ = known->label;
  dials_.setFinding(Figure::Round, tr("looking for a loop…"));
  loops_->find(footage(), session_.project().chain, *stage);
}

void Findings::tell(const LoopFinder::Measures& measures) {
  QStringList lines;
  if (const auto& contrast = measures.contrast) {
    // Below this an eye sees no strips, above that it sees nothing else.
    constexpr double faint = 0.01, harsh = 0.15;
    lines << (!*contrast ? QString::fromStdString(contrast->error().message)
                         : tr("Balance: neighbours differ by %1 %%2.")
                               .arg(**contrast * 100, 0, 'f', 1)
                               .arg(**contrast < faint   ? tr(", hardly to be seen; a larger stagger parts them")
                                    : **contrast > harsh ? tr(", harsh; a smaller stagger or a feather joins them")
                                                         : QString()));
  }
  if (const auto& seam = measures.seam)
    lines << (*seam && (*seam)->across < 5e-5 ? tr("Seam: none, the pictures are alike.")
              : *seam                         ? tr("Seam: %1 % difference, %2 × its neighbours.")
                            .arg((*seam)->across * 100, 0, 'f', 2)
                            .arg((*seam)->times(), 0, 'f', 1)
                      : QString::fromStdString(seam->error().message));
  // On whichever card the stage has.
  for (const Figure figure : {Figure::Round, Figure::Borders}) dials_.setFinding(figure, lines.join('\n'));
}

void Findings::take(const Result<FoundLoop>& loop) {
  if (!loop) return dials_.setFinding(Figure::Round, QString::fromStdString(loop.error().message));
  const auto stage = session_.selectedStage();
  if (!stage) return;
  const Stage& turned = session_.project().chain[*stage];
  const VideoDescription in = session_.videoInto(*stage);
  if (!turned.kind->round(turned.values, in)) return;
  session_.apply(
      setValues(session_.project(), *stage, turned.kind->withRound(turned.values, loop->round, in), looksFor_));
  session_.document().endGesture();
  refresh();  // where nothing better was found, nothing has changed
  emit session_.said(tr("Frames %1 to %2 close best: %3 % difference instead of %4 %.")
                         .arg(loop->round.first)
                         .arg(loop->round.last)
                         .arg(loop->difference * 100, 0, 'f', 2)
                         .arg(loop->present * 100, 0, 'f', 2));
}

void Findings::tellSteps(const StepWidths& widths) {
  const auto selected = session_.selectedStage();
  if (!selected) return;
  const Stage& stage = session_.project().chain[*selected];
  const InBetween chosen = session_.project().source.between;
  const double frames = stage.kind->scatter(stage.values);
  const auto px = [](double width) {
    return width < 9.5 ? QString::number(width, 'f', 1) : QString::number(width, 'f', 0);
  };
  QString words;
  if (widths.jump > 1)
    words = tr("Pixels side by side are up to %1 frames apart: motion is torn%2.")
                .arg(widths.jump, 0, 'f', 0)
                .arg(widths.torn > 0.1 ? tr(" nearly everywhere") : QString());
  else if (widths.widest == 0)
    words = tr("All of the picture reads one moment, or whole panes of it: there are no steps.");
  else if (widths.widest < 1.5)
    words = tr("A frame's step is a pixel wide at most: smooth.");
  QString remedy;
  if (widths.widest >= 1.5) {
    words += (words.isEmpty() ? "" : " ") +
             tr("A frame's step is %1 px wide, mostly %2.").arg(px(widths.widest), px(widths.usual));
    if (chosen == InBetween::Flow)
      words += tr(" Flow makes it smooth.");
    else if (chosen == InBetween::Mixed)
      words += tr(" Mixed frames double what moves.");
    else if (frames > 0)
      words += tr(" Dither scatters it over %1 px.").arg(px(2 * frames * widths.widest));
    if (chosen != InBetween::Flow) remedy = tr("Smooth it with Flow");
  }
  dials_.setFinding(Figure::Steps, words, remedy);
}

}  // namespace molten

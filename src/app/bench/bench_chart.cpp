// The Bench: what its chart and what it finds out in the background have to say.
#include <QMenu>
#include <cmath>

#include "app/bench/bench.h"
#include "app/bench/loop_finder.h"
#include "app/bench/player.h"
#include "app/chart/small_pictures.h"
#include "app/chart/time_chart.h"
#include "app/dials/dials.h"
#include "app/dials/footage_dials.h"
#include "app/dials/output_dials.h"

namespace molten {

void Bench::connectChart() {
  ChartPlot* plot = chart_->plot();
  plot->setPictures(&smallPictures_->pictures());
  connect(plot, &ChartPlot::picturesWanted, this,
          [this](const std::vector<std::int32_t>& frames) { smallPictures_->want(0, frames); });
  connect(smallPictures_, &SmallPictureMaker::arrived, plot, &ChartPlot::picturesChanged);
  connect(smallPictures_, &SmallPictureMaker::arrived, dials_, &Dials::picturesChanged);
  connect(plot, &ChartPlot::scrubbed, this, &Bench::seek);
  connect(plot, &ChartPlot::paceChanged, this, &Bench::setPace);
  connect(plot, &ChartPlot::gestureEnded, document_, &Document::endGesture);
  connect(plot, &ChartPlot::remedyChosen, dials_, &Dials::remedyChosen);
  connect(plot, &ChartPlot::menuRequested, this, [this](const QPoint& at) { paceMenu_->exec(at); });
  connect(plot, &ChartPlot::lineUpRequested, this, &Bench::lineUp);
  connect(chart_, &TimeChart::markRequested, this, &Bench::dropMark);
  connectFindings();
}

/// Small pictures, loops, and the dials of the chain's end.
void Bench::connectFindings() {
  connect(dials_, &Dials::picturesWanted, this, [this](const std::vector<std::int32_t>& frames) {
    std::vector<std::int32_t> wanted;
    for (const std::int32_t frame : frames) wanted.push_back(footageFrame(frame));
    smallPictures_->want(1, wanted);
  });
  dials_->setPictures([this](std::int32_t frame) {
    const SmallPictures& known = smallPictures_->pictures();
    const auto at = known.find(footageFrame(frame));
    return at == known.end() ? QImage() : at->second;
  });
  connect(dials_, &Dials::actionChosen, this, &Bench::act);
  connect(loops_, &LoopFinder::measured, this, [this](const LoopFinder::Measures& measures) {
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
    // On the card of the round, or of the strips' times: whichever the stage has.
    for (const char* const card : {"Loop length", "Time"}) dials_->setFinding(card, lines.join('\n'));
  });
  connect(loops_, &LoopFinder::found, this, [this](const Result<FoundLoop>& loop) {
    const auto stage = selectedStage();
    if (!loop) return dials_->setFinding("Loop length", QString::fromStdString(loop.error().message));
    if (!stage) return;
    const Stage& turned = document_->project().chain[*stage];
    if (turned.kind != &molten::loop()) return;
    apply(setValues(document_->project(), *stage, withRound(turned.values, loop->round, videoInto(*stage)),
                    "Find a loop"));
    document_->endGesture();
    refreshSeam();  // where nothing better was found, nothing has changed
    say(tr("Frames %1 to %2 close best: %3 % difference instead of %4 %.")
            .arg(loop->round.first)
            .arg(loop->round.last)
            .arg(loop->after * 100, 0, 'f', 2)
            .arg(loop->before * 100, 0, 'f', 2));
  });
  connect(outputDials_, &OutputDials::rateChosen, this, [this](std::optional<Rational> rate) {
    const Rational at = Rational(frame_) / piece_.rate;
    const Edit edit = setOutputRate(document_->project(), rate, video());
    if (edit.after == document_->project()) return refreshDials();
    apply(edit);
    seek((at * piece_.rate + Rational(1, 2)).floor());
  });
  connect(outputDials_, &OutputDials::lengthChosen, this, [this](std::optional<Rational> length) {
    const Edit edit = setOutputLength(document_->project(), length);
    edit.after == document_->project() ? refreshDials() : apply(edit);
  });
  connect(outputDials_, &OutputDials::refused, this, &Bench::say);
  connect(footageDials_, &FootageDials::betweenChosen, this,
          [this](InBetween between) { apply(setInBetween(document_->project(), between)); });
  connect(footageDials_, &FootageDials::rateTyped, this, &Bench::setFootageRate);
  connect(footageDials_, &FootageDials::refused, this, &Bench::say);
}

}  // namespace molten

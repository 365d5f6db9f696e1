#include "app/chain/chain_tiles.h"

#include <QFileInfo>

#include "app/chain/stage_costs.h"
#include "app/playback/player.h"
#include "app/theme/parts.h"

namespace molten {

using theme::shown;

ChainTiles::ChainTiles(Session& session, const Player& player, ChainBar& bar, QObject* parent)
    : QObject(parent), session_(session), player_(player), bar_(bar), costs_(new StageCosts(this)) {
  connect(&session_, &Session::changed, this, &ChainTiles::refresh);
  connect(&session_, &Session::outsideKnown, this, &ChainTiles::refresh);
  connect(&session_, &Session::selectionChanged, this, &ChainTiles::refresh);
  connect(&session_, &Session::footageIndexed, this, &ChainTiles::refresh);
  connect(&session_, &Session::footageLeaves, costs_, &StageCosts::cancel);
  connect(costs_, &StageCosts::measured, this, &ChainTiles::refresh);
}

void ChainTiles::measureCosts() {
  if (!session_.footage() || player_.playing()) return costs_->cancel();
  costs_->measure(player_.sources(), session_.reading()->stages(),
                  {player_.shownScale(), session_.project().source.between, session_.piece().rate, session_.followed()});
}

ChainTile ChainTiles::footageTile() const {
  const Source& source = session_.project().source;
  ChainTile tile;
  tile.title = tr("Footage");
  if (const auto& footage = session_.footage()) {
    const VideoDescription video = session_.video();
    const bool reel = session_.reelInHand() && session_.within().empty();
    if (reel) tile.title = tr("Reel");
    const QString name = reel ? tr("%1 shots").arg(shotCount(session_.whole())) : shown(footage->name());
    tile.lines[0] = tr("%1 · %2 s").arg(name).arg(video.seconds().toDouble(), 0, 'f', 1);
    const QString rate = footage->clock().varying() ? tr("%1 fps, rate varies") : tr("%1 fps");
    tile.lines[1] =
        tr("%1×%2 · %3").arg(video.size.width).arg(video.size.height).arg(rate.arg(shown(rateText(video.rate))));
    QStringList corner;
    if (footage->clock().varying()) corner << tr("rate varies");
    if (source.between != InBetween::Whole)
      corner << shown(inBetweenChoices()[static_cast<std::size_t>(source.between)].label);
    tile.corner = corner.join(" · ");
  } else if (!source.path.empty()) {
    const double part = session_.indexing();
    tile.lines[1] = QFileInfo(shown(source.path)).fileName();
    tile.lines[0] = part >= 0 ? tr("finding its frames, %1 %").arg(static_cast<int>(part * 100)) : tr("cannot be read");
    tile.progress = part;
  } else {
    tile.lines[0] = tr("none yet: drop it on the window");
  }
  return tile;
}

/// `place`: among the stages that are on, of this one or of the next.
ChainTile ChainTiles::stageTile(const Stage& stage, std::size_t place, const std::vector<double>& costs) const {
  const VideoDescription& in = session_.reading()->video(place);
  ChainTile tile;
  tile.title = shown(titleOf(stage));
  tile.lines[0] =
      shown(stage.kind->summary(stage.widestValues(), in)) + (stage.varies() ? tr(" · moves") : QString());
  tile.isStage = true;
  tile.on = stage.on;
  if (stage.kind->ownSource(stage.values))
    tile.branch = stage.branch.empty()       ? tr("chain ›")
                  : stage.branch.size() == 1 ? tr("1 stage ›")
                                             : tr("%1 stages ›").arg(stage.branch.size());
  if (!stage.on) return tile;
  const TimeMap& map = session_.reading()->map(place);
  const bool reaches = map.reach().least < 0 || map.reach().most > 0;
  if (map.displacing() || (map.mixing() && (reaches || tile.branch.isEmpty())))
    tile.reach = {map.reach().least / in.rate.toDouble(), map.reach().most / in.rate.toDouble()};
  if (place < costs.size()) tile.cost = tr("%1 ms").arg(costs[place], 0, 'f', 1);
  return tile;
}

ChainTile ChainTiles::outputTile() const {
  ChainTile tile;
  tile.title = tr("Output");
  if (!session_.footage()) {
    tile.lines[0] = tr("nothing to render yet");
    return tile;
  }
  const Piece& piece = session_.shownPiece();
  const bool reel = session_.inReel().has_value();
  const Size leaving = reel ? session_.reel().played()->row->size : session_.reading()->outgoing().size;
  const Size size = session_.project().output.size.value_or(leaving);
  const std::int64_t pictures = reel ? piece.length : session_.span().count();
  tile.lines[0] = (piece.endless ? tr("%1×%2 · %3 fps · loop %4 s") : tr("%1×%2 · %3 fps · %4 s"))
                      .arg(size.width)
                      .arg(size.height)
                      .arg(shown(rateText(piece.rate)))
                      .arg((Rational(pictures) / piece.rate).toDouble(), 0, 'f', 1);
  tile.notice = !session_.outside().empty();
  tile.corner = tile.notice ? tr("reads outside") : QString();
  tile.lines[1] = piece.fixed     ? tr("length fixed")
                  : piece.endless ? tr("a loop")
                  : reel          ? tr("all shots")
                                  : tr("as long as the chain");
  if (tile.notice) tile.lines[1] += tr(" · reads outside the clip");
  return tile;
}

void ChainTiles::refresh() {
  std::vector<ChainTile> tiles{footageTile()};
  const std::vector<double> costs = costs_->costs(session_.reading()->stages());
  std::size_t place = 0;
  for (const Stage& stage : session_.project().chain) {
    tiles.push_back(stageTile(stage, place, costs));
    place += stage.on;
  }
  tiles.push_back(outputTile());
  bar_.setBranchOf(session_.within().empty() ? QString() : shown(titleOf(session_.branching())));
  bar_.setTiles(std::move(tiles), session_.selected(), session_.footage() != nullptr);
}

}  // namespace molten

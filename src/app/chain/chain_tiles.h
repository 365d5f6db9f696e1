#pragma once
// What the Chain's tiles say.

#include <QObject>

#include "app/chain/chain_bar.h"
#include "app/session/session.h"

namespace molten {

class Player;
class StageCosts;

/// Fills the Chain with the footage, the stages and the output; has measured what each stage costs.
class ChainTiles : public QObject {
  Q_OBJECT

 public:
  ChainTiles(Session& session, const Player& player, ChainBar& bar, QObject* parent = nullptr);
  void refresh();
  /// What each stage costs is measured, when nothing has changed for a while.
  void measureCosts();

 private:
  ChainTile footageTile() const;
  ChainTile stageTile(const Stage& stage, std::size_t place, const std::vector<double>& costs) const;
  ChainTile outputTile() const;

  Session& session_;
  const Player& player_;
  ChainBar& bar_;
  StageCosts* costs_;
};

}  // namespace molten

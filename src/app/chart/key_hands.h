#pragma once
// The key lanes of the selected stage.

#include <QObject>

#include "app/session/session.h"

namespace molten {

class Deck;
class FollowedShots;

/// Fills the lanes below the Time Chart, and makes edits of what is done to their keys.
class KeyHands : public QObject {
  Q_OBJECT

 public:
  KeyHands(Session& session, FollowedShots& followed, Deck& chart, QObject* parent = nullptr);

 private:
  void refresh();

  Session& session_;
  FollowedShots& followed_;
  Deck& chart_;
};

}  // namespace molten

#pragma once
// Laying starters under the footage, and keeping one's own.

#include <QObject>

#include "app/ask/ask.h"
#include "app/session/session.h"

class QMenu;
class QWidget;

namespace molten {

class Commands;
class Player;
class StartersView;
struct Starter;

class StarterActions : public QObject {
  Q_OBJECT

 public:
  /// `folder`: where the user's own are kept. `ask`: empty where nobody is asked.
  StarterActions(Session& session, Player& player, const QString& folder, Ask ask, QWidget& window);
  void fill(Commands& commands, QMenu* menu);
  /// One that somebody has sent.
  void open(const QString& path);

 private:
  void show();
  void use(const Starter& starter);
  void save();

  Session& session_;
  Player& player_;
  QString folder_;
  Ask ask_;
  QWidget& window_;
  StartersView* view_ = nullptr;
};

}  // namespace molten

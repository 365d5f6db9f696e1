#pragma once
// What is done with the stages of the Chain.

#include <QObject>

#include "app/session/session.h"

class QAction;
class QMenu;
class QWidget;

namespace molten {

class ChainBar;
class Commands;

/// Adds, copies, moves, switches, names and removes stages, from the Chain, its menus and keys.
class ChainActions : public QObject {
  Q_OBJECT

 public:
  ChainActions(Session& session, ChainBar& bar, QWidget& window);
  /// Adding; then, after what others put between, what acts on the selected stage.
  void fillAdding(Commands& commands, QMenu* menu);
  void fillActing(Commands& commands, QMenu* menu);
  /// Adds a Time Field that reads a time map.
  void addTimeMap(const QString& path);

 signals:
  void replaceRequested();  ///< other footage
  void renderRequested();

 private:
  void pickKind(const QPoint& at);
  void add(const StageKind& kind);
  void chooseTimeMap();
  void menuAt(std::size_t tile, const QPoint& at);
  void enter();
  void rename();
  void copy();
  void paste();
  void remove();
  void duplicate();
  void move(std::size_t from, std::size_t to);
  void moveBy(int by);
  void flip();

  Session& session_;
  ChainBar& bar_;
  QWidget& window_;
  QList<QAction*> ofStage_;  ///< what the selected stage's menu shows
  QAction* paste_ = nullptr;
};

}  // namespace molten

#pragma once
// The window's commands: entries of its menus with their keys.

#include <QKeySequence>
#include <QObject>
#include <functional>
#include <vector>

class QAction;
class QMenu;

namespace molten {

class Session;

/// What a command needs to be there; it is dim where that is not.
enum class Needs { Nothing, Footage, Stage, VersionB };

/// Makes commands, and dims those that cannot be used. The rooms say what their commands do.
class Commands : public QObject {
  Q_OBJECT

 public:
  explicit Commands(Session& session, QObject* parent = nullptr);
  QAction* add(QMenu* menu, const QString& name, const QKeySequence& keys, const std::function<void()>& act,
               Needs needs = Needs::Nothing);

 private:
  void refresh();
  bool met(Needs needs) const;

  Session& session_;
  std::vector<std::pair<QAction*, Needs>> needing_;
};

}  // namespace molten

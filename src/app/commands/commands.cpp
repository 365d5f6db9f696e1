#include "app/commands/commands.h"

#include <QAction>
#include <QMenu>

#include "app/session/session.h"

namespace molten {

Commands::Commands(Session& session, QObject* parent) : QObject(parent), session_(session) {
  connect(&session_, &Session::changed, this, &Commands::refresh);
  connect(&session_, &Session::selectionChanged, this, &Commands::refresh);
}

QAction* Commands::add(QMenu* menu, const QString& name, const QKeySequence& keys, const std::function<void()>& act,
                       Needs needs) {
  QAction* action = menu->addAction(name);
  action->setShortcut(keys);
  action->setShortcutContext(Qt::WindowShortcut);
  connect(action, &QAction::triggered, this, act);
  if (needs != Needs::Nothing) needing_.emplace_back(action, needs);
  return action;
}

bool Commands::met(Needs needs) const {
  switch (needs) {
    case Needs::Nothing:
      return true;
    case Needs::Footage:
      return session_.footage() != nullptr;
    case Needs::Stage:
      return session_.selectedStage().has_value();
    case Needs::VersionB:
      return session_.footage() && session_.project().versionB.has_value();
  }
  return true;
}

void Commands::refresh() {
  for (const auto& [action, needs] : needing_) action->setEnabled(met(needs));
}

}  // namespace molten

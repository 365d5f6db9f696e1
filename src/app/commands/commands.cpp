#include "app/commands/commands.h"

#include <QAction>
#include <QMenu>

#include "app/session/session.h"
#include "core/project/files_behind.h"

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
  all_.emplace_back(menu, action);
  return action;
}

QString Commands::keysPage() const {
  const auto row = [](const QString& keys, const QString& does) {
    return QString("<tr><td style=\"padding-right:16px\"><b>%1</b></td><td>%2</td></tr>")
        .arg(keys.toHtmlEscaped(), does.toHtmlEscaped());
  };
  const auto plain = [](QString words) { return words.remove('&').remove(QChar(0x2026)); };
  QString page = "<table>";
  for (const auto& [keys, does] : told_) page += row(keys, does);
  page += "</table>";
  const QMenu* menu = nullptr;
  QString rows;
  const auto close = [&] {
    if (!rows.isEmpty()) page += QString("<p>%1</p><table>%2</table>").arg(plain(menu->title()).toHtmlEscaped(), rows);
    rows.clear();
  };
  for (const auto& [of, action] : all_) {
    if (action->shortcut().isEmpty()) continue;
    if (of != menu) {
      close();
      menu = of;
    }
    rows += row(action->shortcut().toString(QKeySequence::NativeText), plain(action->text()));
  }
  close();
  return page;
}

bool Commands::met(Needs needs) const {
  switch (needs) {
    case Needs::Nothing:
      return true;
    case Needs::Footage:
      return session_.footage() != nullptr;
    case Needs::Stage:
      return session_.selectedStage().has_value();
    case Needs::Reel:
      return session_.isReel();
    case Needs::Shot:
      return session_.isReel() && !session_.reelInHand();
    case Needs::ProjectAsSource:
      return namesProject(session_.project().source.path);
    case Needs::VersionB:
      return session_.footage() && session_.project().versionB.has_value();
  }
  return true;
}

void Commands::refresh() {
  for (const auto& [action, needs] : needing_) action->setEnabled(met(needs));
}

}  // namespace molten

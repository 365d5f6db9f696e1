#include "app/commands/commands.h"

#include <QAction>
#include <QMenu>
#include <QSettings>

#include "app/session/session.h"
#include "core/project/files_behind.h"

namespace molten {

namespace {

QString plain(QString words) {
  return words.remove('&').remove(QChar(0x2026));
}

QString settingOf(const QAction& action) {
  return "keys/" + plain(action.text());
}

}  // namespace

Commands::Commands(Session& session, QObject* parent) : QObject(parent), session_(session) {
  connect(&session_, &Session::changed, this, &Commands::refresh);
  connect(&session_, &Session::selectionChanged, this, &Commands::refresh);
}

QAction* Commands::add(QMenu* menu, const QString& name, const QKeySequence& keys, const std::function<void()>& act,
                       Needs needs) {
  QAction* action = menu->addAction(name);
  usual_[action] = keys;
  const QString kept = QSettings().value(settingOf(*action)).toString();
  action->setShortcut(QSettings().contains(settingOf(*action)) ? QKeySequence(kept, QKeySequence::PortableText) : keys);
  action->setShortcutContext(Qt::WindowShortcut);
  connect(action, &QAction::triggered, this, act);
  if (needs != Needs::Nothing) needing_.emplace_back(action, needs);
  all_.emplace_back(menu, action);
  return action;
}

std::vector<Commands::Entry> Commands::entries() const {
  std::vector<Entry> all;
  for (const auto& [menu, action] : all_)
    if (!plain(menu->title()).startsWith(tr("Demonstrations"))) all.push_back({plain(action->text()), action->shortcut()});
  return all;
}

QAction* Commands::lackingFootage(const QKeySequence& keys) const {
  for (const auto& [action, needs] : needing_)
    if (needs == Needs::Footage && !met(needs) && action->shortcut() == keys) return action;
  return nullptr;
}

QString Commands::setKeys(const QString& name, const QKeySequence& keys) {
  QAction* named = nullptr;
  for (const auto& [menu, action] : all_) {
    if (plain(action->text()) == name) named = action;
    if (!keys.isEmpty() && plain(action->text()) != name && action->shortcut() == keys) return plain(action->text());
  }
  if (!named) return {};
  named->setShortcut(keys);
  if (keys == usual_[named])
    QSettings().remove(settingOf(*named));
  else
    QSettings().setValue(settingOf(*named), keys.toString(QKeySequence::PortableText));
  return {};
}

void Commands::useUsualKeys() {
  QSettings().remove("keys");
  for (const auto& [action, keys] : usual_) action->setShortcut(keys);
}

QString Commands::keysPage() const {
  const auto row = [](const QString& keys, const QString& does) {
    return QString("<tr><td style=\"padding-right:16px\"><b>%1</b></td><td>%2</td></tr>")
        .arg(keys.toHtmlEscaped(), does.toHtmlEscaped());
  };
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

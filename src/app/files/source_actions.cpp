#include "app/files/source_actions.h"

#include <QDir>
#include <QFileInfo>
#include <QMenu>

#include "app/commands/commands.h"
#include "app/session/beside.h"
#include "app/theme/parts.h"
#include "core/engine/kept_result.h"
#include "core/project/chain_source.h"
#include "core/project/project_file.h"

namespace molten {

using theme::shown;

SourceActions::SourceActions(Session& session, QWidget& window)
    : QObject(&window),
      session_(session),
      apart_([](const ApartQuestion& asked, std::stop_token) { return ApartAnswer{asked, loadProject(asked.path)}; },
             [this](const ApartAnswer& answer) {
               if (!answer.source) return emit session_.said(shown(answer.source.error().message));
               if (!(answer.asked.whole == session_.whole())) return takeApart();
               const auto edit = takeSourceApart(session_.project(), *answer.source);
               if (!edit) return emit session_.said(shown(edit.error().message));
               session_.apply(*edit);
               session_.select(1);
             }) {}

void SourceActions::fill(Commands& commands, QMenu* menu) {
  commands.add(menu, tr("Turn the chain into a source"), QKeySequence("Ctrl+J"), [this] { turnIntoSource(); }, Needs::Footage)
      ->setToolTip(tr("The stages up to the selected one become a project of their own beside this one, and its result the footage here"));
  commands.add(menu, tr("Take the source apart"), {}, [this] { takeApart(); }, Needs::ProjectAsSource);
  commands.add(menu, tr("Open the source"), {}, [this] { emit projectWanted(source()); }, Needs::ProjectAsSource);
  commands.add(menu, tr("Keep the source's result"), {}, [this] { emit keepWanted(source()); }, Needs::ProjectAsSource);
  commands.add(menu, tr("Clear what is kept of the source"), {}, [this] { clear(); }, Needs::ProjectAsSource);
}

QString SourceActions::source() const {
  return shown(session_.project().source.path);
}

void SourceActions::turnIntoSource() {
  const Project& project = session_.project();
  if (session_.reelInHand() && session_.within().empty())
    return emit session_.said(tr("What comes after the last cut has no footage of its own that could become a source: take a shot in hand first."));
  if (project.chain.empty()) return emit session_.said(tr("There is no stage yet that could become a source."));
  const auto selected = session_.selectedStage();
  const std::size_t stages = selected ? *selected + 1 : project.chain.size();
  // Beside the project, under a name that nothing has.
  const QFileInfo base(besideWhat(session_));
  QString name = base.completeBaseName().section('%', 0, 0);
  while (name.endsWith('-') || name.endsWith('_')) name.chop(1);
  QString path;
  for (int n = 1; path.isEmpty() || QFileInfo::exists(path); ++n)
    path = base.dir().filePath(name + (n == 1 ? QString("-source.molten") : QString("-source-%1.molten").arg(n)));
  const TurnedIntoSource turned = molten::turnIntoSource(project, stages, path.toStdString());
  if (const auto saved = saveProject(turned.source, path.toStdString()); !saved) return emit session_.said(shown(saved.error().message));
  session_.apply(turned.edit);
  session_.select(0);
  emit session_.said(tr("%1 stages are in %2 now, whose result is the footage here.").arg(stages).arg(QFileInfo(path).fileName()));
}

void SourceActions::takeApart() {
  apart_.ask({session_.whole(), session_.project().source.path});
}

void SourceActions::clear() {
  const QString project = source();
  if (keptFiles(project.toStdString()).empty()) return emit session_.said(tr("Nothing is kept of %1.").arg(QFileInfo(project).fileName()));
  if (const auto cleared = clearKept(project.toStdString()); !cleared) return emit session_.said(shown(cleared.error().message));
  session_.fileHasChanged(QFileInfo(project).canonicalFilePath().toStdString());
  emit session_.said(tr("What was kept of %1 is removed: its result is made as it is shown.").arg(QFileInfo(project).fileName()));
}

}  // namespace molten

#include "app/files/clean_up.h"

#include <QFile>
#include <QFileInfo>
#include <QMenu>

#include "app/commands/commands.h"
#include "app/theme/parts.h"
#include "core/files/read_file.h"
#include "core/project/unnamed_paintings.h"

namespace molten {

using theme::shown;

CleanUp::CleanUp(Session& session, Ask ask, QWidget& window)
    : QObject(&window),
      session_(session),
      ask_(std::move(ask)),
      found_([](const std::string& folder, std::stop_token stop) { return Found{folder, unnamedPaintings(folder, stop)}; },
             [this](const Found& found) { offer(found); }) {}

void CleanUp::fill(Commands& commands, QMenu* menu) {
  commands.add(menu, tr("Clean up…"), {}, [this] { look(); });
}

void CleanUp::look() {
  const QString path = session_.document().path();
  if (path.isEmpty()) return emit session_.said(tr("Save the project first: what is cleaned up is the folder that it is in."));
  found_.ask(placeOfBytes(path.toStdString()).parent_path().string());
}

void CleanUp::offer(const Found& found) {
  if (!found.paintings) return emit session_.said(shown(found.paintings.error().message));
  const std::vector<std::string>& paintings = *found.paintings;
  const QString folder = shown(found.folder);
  if (paintings.empty()) return emit session_.said(tr("Every painting in %1 is named by a project, a starter or a backup there.").arg(folder));
  constexpr std::size_t mostListed = 12;
  QStringList names;
  for (std::size_t i = 0; i < std::min(paintings.size(), mostListed); ++i) {
    const QFileInfo file(shown(paintings[i]));
    names << tr("%1, %2 kB").arg(file.fileName()).arg((file.size() + 999) / 1000);
  }
  if (paintings.size() > mostListed) names << tr("and %1 more").arg(paintings.size() - mostListed);
  const QString sentence = paintings.size() == 1 ? tr("No project, starter or backup in %1 names this painting:").arg(folder)
                                                 : tr("No project, starter or backup in %1 names these %2 paintings:").arg(folder).arg(paintings.size());
  if (ask_(tr("Clean up"), sentence + "\n\n" + names.join('\n'), {tr("Move to the trash"), tr("Keep")}) != 0) return;
  int moved = 0;
  QString left;
  for (const std::string& painting : paintings)
    QFile::moveToTrash(shown(painting)) ? void(++moved) : void(left = QFileInfo(shown(painting)).fileName());
  const QString done = moved == 1 ? tr("1 painting is in the trash.") : tr("%1 paintings are in the trash.").arg(moved);
  emit session_.said(left.isEmpty() ? done : tr("%1 %2 could not be moved there; it stays where it is.").arg(done, left));
}

}  // namespace molten

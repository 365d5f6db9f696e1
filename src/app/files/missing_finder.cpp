#include "app/files/missing_finder.h"

#include <QFileInfo>
#include <QMenu>

#include "app/commands/commands.h"
#include "app/files/file_choice.h"
#include "app/files/missing_view.h"
#include "app/theme/parts.h"

namespace molten {

MissingFinder::MissingFinder(Session& session, QWidget& window)
    : QObject(&window),
      session_(session),
      view_(new MissingView(&window)),
      newest_([](const Question& question, const std::stop_token& stop) { return answer(question, stop); },
              [this](const Answer& now) { take(now); }) {
  connect(&session_.document(), &Document::replaced, this, [this] {
    view_->hide();
    newest_.ask({session_.whole(), {}, true, false});
  });
  // What is found otherwise, or taken out, is missing no more.
  connect(&session_.document(), &Document::changed, this, [this] {
    if (view_->isVisible()) newest_.ask({session_.whole(), {}, false, false});
  });
  connect(view_, &MissingView::findWanted, this, &MissingFinder::find);
}

void MissingFinder::fill(Commands& commands, QMenu* menu) {
  commands.add(menu, tr("Missing files…"), {}, [this] { newest_.ask({session_.whole(), {}, true, true}); });
}

MissingFinder::Answer MissingFinder::answer(const Question& question, const std::stop_token& stop) {
  std::vector<MissingFile> missing = missingFiles(question.project, stop);
  std::optional<Edit> edit;
  if (question.found) {
    edit = withFound(question.project, missing, question.found->first, question.found->second);
    missing = missingFiles(edit->after, stop);
  }
  return {question, std::move(missing), std::move(edit)};
}

void MissingFinder::take(const Answer& now) {
  // What has been edited meanwhile is to stay.
  if (now.edit && !(now.to.project == session_.whole())) return newest_.ask({session_.whole(), now.to.found, false, false});
  view_->setFiles(now.missing);
  if (!now.missing.empty() && now.to.shows) {
    view_->bringUp(now.to.told);
  } else if (now.missing.empty() && now.to.told) {
    emit session_.said(tr("Every file that the project reads is there."));
  }
  if (!now.edit) return;
  session_.document().apply(*now.edit);
  emit session_.said(now.missing.empty() ? tr("%1: nothing is missing any more.").arg(theme::shown(now.edit->name))
                                         : theme::shown(now.edit->name) + '.');
}

void MissingFinder::find(const QString& path) {
  const QFileInfo info(path);
  // Where it was, or as near as there is a folder.
  QString from = info.path();
  while (!QFileInfo::exists(from) && QFileInfo(from).path() != from) from = QFileInfo(from).path();
  const QString found = chooseFile(view_, tr("Find %1").arg(info.fileName()), {}, from);
  if (!found.isEmpty())
    newest_.ask({session_.whole(), std::pair(path.toStdString(), QFileInfo(found).absoluteFilePath().toStdString()), false, false});
}

}  // namespace molten

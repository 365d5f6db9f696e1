#include "app/starters/starter_actions.h"

#include <QDir>
#include <QFileInfo>
#include <QInputDialog>
#include <QMenu>

#include "app/commands/commands.h"
#include "app/playback/player.h"
#include "app/starters/starters_view.h"
#include "app/theme/parts.h"
#include "core/project/starter.h"

namespace molten {

using theme::shown;

StarterActions::StarterActions(Session& session, Player& player, const QString& folder, Ask ask, QWidget& window)
    : QObject(&window),
      session_(session),
      player_(player),
      folder_(folder),
      ask_(std::move(ask)),
      window_(window) {}

void StarterActions::fill(Commands& commands, QMenu* menu) {
  commands.add(menu, tr("Starters…"), QKeySequence("Ctrl+T"), [this] { show(); }, Needs::Footage);
  commands.add(menu, tr("Save as starter…"), {}, [this] { save(); }, Needs::Footage);
}

void StarterActions::show() {
  if (!session_.footage()) return;
  if (!view_) {
    view_ = new StartersView(folder_, &window_);
    connect(view_, &StartersView::chosen, this, &StarterActions::use);
  }
  player_.stop();
  view_->showFor({player_.sources(), session_.project().source.between});
}

void StarterActions::use(const Starter& starter) {
  if (!session_.footage()) return;
  if (view_) view_->hide();
  const Edit edit = setChain(session_.project(), fitted(starter, session_.video()), "Starter " + starter.name);
  if (!(edit.after == session_.project())) session_.apply(edit);
  session_.select(edit.after.chain.size());
  emit session_.said(shown(starter.name + ": " + starter.help));
}

void StarterActions::open(const QString& path) {
  if (!session_.footage()) {
    emit session_.said(tr("Open footage first: a starter is laid under it."));
    return;
  }
  const auto starter = loadStarter(path.toStdString());
  if (starter)
    use(*starter);
  else
    emit session_.said(shown(starter.error().message));
}

void StarterActions::save() {
  const Chain& chain = session_.project().chain;
  if (!session_.footage() || chain.empty()) {
    emit session_.said(tr("There are no stages yet that a starter could be made of."));
    return;
  }
  QInputDialog question(&window_);
  question.setWindowTitle(tr("Save as starter"));
  question.setLabelText(tr("What it is to be called"));
  // Wide enough for its title.
  question.resize(440, question.sizeHint().height());
  if (question.exec() != QDialog::Accepted) return;
  const QString name = question.textValue().trimmed();
  if (name.isEmpty()) return;
  std::string stages;
  for (const Stage& stage : chain) stages += (stages.empty() ? "" : ", ") + titleOf(stage);
  QDir().mkpath(folder_);
  QString fileName = name;
  fileName.replace('/', '-');
  const QString path = folder_ + "/" + fileName + ".molten-starter";
  if (QFileInfo::exists(path) && ask_) {
    enum { Replace };
    if (ask_(tr("There is one already"), tr("A starter called %1 is kept already.").arg(name),
             {tr("Replace it"), tr("Cancel")}) != Replace)
      return;
  }
  const auto saved = saveStarter({name.toStdString(), stages, session_.video(), chain}, path.toStdString());
  emit session_.said(saved ? tr("Kept among the starters, as %1.").arg(path) : shown(saved.error().message));
}

}  // namespace molten

// The Bench: what is done with the stages of the Chain.
#include <QApplication>
#include <QClipboard>
#include <QDir>
#include <QInputDialog>
#include <QMenu>
#include <QStandardPaths>

#include "app/bench/bench.h"
#include "app/bench/player.h"
#include "app/chain/chain_bar.h"
#include "app/chain/stage_costs.h"
#include "app/chain/stage_picker.h"
#include "app/document/document.h"
#include "app/starters/starters_view.h"
#include "core/project/project_file.h"

namespace molten {
namespace {

QString text(const std::string& s) {
  return QString::fromStdString(s);
}

}  // namespace

void Bench::addStageMenu(const QPoint& at) {
  if (!footage_) return;
  auto* picker = new StagePicker(this);
  connect(picker, &StagePicker::chosen, this, [this](const StageKind* kind) { addKind(*kind); });
  picker->openAt(at);
}

void Bench::addKind(const StageKind& kind) {
  if (!footage_) return;
  apply(addStage(document_->project(), kind));
  select(document_->project().chain.size());
}

void Bench::stageMenu(std::size_t tile, const QPoint& at) {
  QMenu menu;
  if (tile == 0) {
    menu.addAction(tr("Replace footage…"), this, &Bench::replaceDialog);
    menu.addAction(pasteAction_);
  } else if (tile == document_->project().chain.size() + 1) {
    menu.addAction(tr("Render…"), this, &Bench::renderDialog);
  } else {
    menu.addActions({switchAction_, renameAction_, duplicateAction_, copyAction_, pasteAction_, leftAction_,
                     rightAction_, removeAction_});
  }
  menu.exec(at);
}

/// A name of the user's own; an empty one gives back the kind's.
void Bench::renameSelected() {
  const auto stage = selectedStage();
  if (!stage) return;
  bool accepted = false;
  const QString name =
      QInputDialog::getText(this, tr("Rename the stage"), tr("Name; empty for its usual one"), QLineEdit::Normal,
                            text(titleOf(document_->project().chain[*stage])), &accepted);
  if (!accepted) return;
  const Edit edit = renameStage(document_->project(), *stage, name.trimmed().toStdString());
  if (!(edit.after == document_->project())) apply(edit);
}

/// The selected stage as text; with none selected the whole chain.
void Bench::copyStages() {
  const Chain& chain = document_->project().chain;
  if (chain.empty()) return;
  const auto stage = selectedStage();
  QApplication::clipboard()->setText(text(chainText(stage ? Chain{chain[*stage]} : chain)));
  say(stage ? tr("%1 is copied, as text.").arg(text(titleOf(chain[*stage])))
            : tr("The whole chain is copied, as text."));
}

void Bench::pasteStages() {
  if (!footage_) return;
  const auto stages = parseChain(QApplication::clipboard()->text().toStdString(), video().rate);
  if (!stages) return say(tr("What was copied is no stage: %1").arg(text(stages.error().message)));
  const Project& project = document_->project();
  // After the selected stage; with the footage selected at the beginning, with the output at the end.
  const std::size_t at = std::min(selected_, project.chain.size());
  apply(insertStages(project, at, *stages,
                     stages->size() == 1 ? "Paste " + titleOf(stages->front())
                                         : "Paste " + std::to_string(stages->size()) + " stages"));
  select(at + stages->size());
}

/// What each stage costs, when nothing has changed for a while.
void Bench::refreshCosts() {
  if (!footage_ || player_->playing()) return costs_->cancel();
  costs_->measure(player_->feed(), stagesOn(),
                  {player_->shownScale(), document_->project().source.between, piece_.rate});
}

Chain Bench::stagesOn() const {
  Chain on;
  for (const Stage& stage : document_->project().chain)
    if (stage.on) on.push_back(stage);
  return on;
}

void Bench::removeSelected() {
  if (const auto stage = selectedStage()) apply(removeStage(document_->project(), *stage));
}

void Bench::duplicateSelected() {
  const auto stage = selectedStage();
  if (!stage) return;
  apply(duplicateStage(document_->project(), *stage));
  select(*stage + 2);
}

void Bench::moveSelected(int by) {
  const auto stage = selectedStage();
  if (!stage) return;
  const auto to = static_cast<std::int64_t>(*stage) + by;
  if (to < 0 || to >= static_cast<std::int64_t>(document_->project().chain.size())) return;
  apply(moveStage(document_->project(), *stage, static_cast<std::size_t>(to)));
  select(static_cast<std::size_t>(to) + 1);
}

void Bench::switchSelected() {
  if (const auto stage = selectedStage())
    apply(switchStage(document_->project(), *stage, !document_->project().chain[*stage].on));
}

QString Bench::starterFolder() const {
  return options_.starterFolder.isEmpty()
             ? QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/starters"
             : options_.starterFolder;
}

void Bench::showStarters() {
  if (!footage_) return;
  if (!starters_) {
    starters_ = new StartersView(starterFolder(), this);
    connect(starters_, &StartersView::chosen, this, &Bench::useStarter);
  }
  player_->stop();
  starters_->showFor(measuredFootage());
}

void Bench::useStarter(const Starter& starter) {
  if (!footage_) return;
  if (starters_) starters_->hide();
  const Edit edit = setChain(document_->project(), fitted(starter, video()), "Starter " + starter.name);
  if (!(edit.after == document_->project())) apply(edit);
  select(edit.after.chain.size());
  say(text(starter.name + ": " + starter.help));
}

/// A starter that somebody has sent.
void Bench::openStarter(const QString& path) {
  if (!footage_) return say(tr("Open footage first: a starter is laid under it."));
  const auto starter = loadStarter(path.toStdString());
  starter ? useStarter(*starter) : say(text(starter.error().message));
}

void Bench::saveStarterDialog() {
  const Chain& chain = document_->project().chain;
  if (!footage_ || chain.empty()) return say(tr("There are no stages yet that a starter could be made of."));
  bool accepted = false;
  const QString name = QInputDialog::getText(this, tr("Save as starter"), tr("What it is to be called"),
                                             QLineEdit::Normal, {}, &accepted)
                           .trimmed();
  if (!accepted || name.isEmpty()) return;
  std::string stages;
  for (const Stage& stage : chain) stages += (stages.empty() ? "" : ", ") + titleOf(stage);
  QDir().mkpath(starterFolder());
  QString fileName = name;
  fileName.replace('/', '-');
  const QString path = starterFolder() + "/" + fileName + ".molten-starter";
  if (QFileInfo::exists(path) && (options_.askQuestions || options_.ask)) {
    enum { Replace };
    if (ask(tr("There is one already"), tr("A starter called %1 is kept already.").arg(name),
            {tr("Replace it"), tr("Cancel")}) != Replace)
      return;
  }
  const auto saved = saveStarter({name.toStdString(), stages, video(), chain}, path.toStdString());
  say(saved ? tr("Kept among the starters, as %1.").arg(path) : text(saved.error().message));
}

}  // namespace molten

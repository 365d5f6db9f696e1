#include "app/chain/chain_actions.h"

#include <QApplication>
#include <QClipboard>
#include <QInputDialog>
#include <QMenu>

#include "app/commands/commands.h"
#include "app/chain/chain_bar.h"
#include "app/chain/stage_picker.h"
#include "app/files/file_choice.h"
#include "app/theme/parts.h"
#include "core/engine/time_map_file.h"
#include "core/project/project_file.h"

namespace molten {

using theme::shown;

ChainActions::ChainActions(Session& session, ChainBar& bar, QWidget& window)
    : QObject(&window), session_(session), bar_(bar), window_(window) {
  connect(&bar_, &ChainBar::selected, &session_, &Session::select);
  connect(&bar_, &ChainBar::addRequested, this, &ChainActions::pickKind);
  connect(&bar_, &ChainBar::menuRequested, this, &ChainActions::menuAt);
  connect(&bar_, &ChainBar::moved, this, [this](std::size_t from, std::size_t to) { move(from - 1, to - 1); });
  connect(&bar_, &ChainBar::switched, this, [this](std::size_t tile) {
    session_.select(tile);
    flip();
  });
  connect(&bar_, &ChainBar::entered, this, [this](std::size_t tile) { session_.enter(tile - 1); });
  connect(&bar_, &ChainBar::left, &session_, &Session::leave);
  connect(&bar_, &ChainBar::renameRequested, this, [this](std::size_t tile) {
    session_.select(tile);
    rename();
  });
  connect(&bar_, &ChainBar::activated, this, [this](std::size_t tile) {
    if (tile == 0) emit replaceRequested();
    if (tile == session_.project().chain.size() + 1) emit renderRequested();
  });
}

void ChainActions::fillAdding(Commands& commands, QMenu* menu) {
  const auto pick = [this] { pickKind(bar_.mapToGlobal(bar_.addRect().bottomLeft() + QPoint(0, 2))); };
  commands.add(menu, tr("Add stage…"), QKeySequence("A"), pick, Needs::Footage);
  QMenu* adding = menu->addMenu(tr("Add"));
  for (const StageKind* kind : stageKinds())
    commands.add(adding, shown(kind->description().label), {}, [this, kind] { add(*kind); }, Needs::Footage);
  commands.add(menu, tr("Time Field from a time map…"), {}, [this] { chooseTimeMap(); }, Needs::Footage);
}

void ChainActions::fillActing(Commands& commands, QMenu* menu) {
  const auto acting = [&](const QString& name, const QKeySequence& keys, const std::function<void()>& act,
                          Needs needs = Needs::Stage) {
    ofStage_ << commands.add(menu, name, keys, act, needs);
  };
  acting(tr("On / off"), QKeySequence("Ctrl+B"), [this] { flip(); });
  acting(tr("Rename…"), QKeySequence("F2"), [this] { rename(); });
  acting(tr("Duplicate"), QKeySequence("Ctrl+D"), [this] { duplicate(); });
  acting(tr("Copy as text"), QKeySequence("Ctrl+Shift+C"), [this] { copy(); }, Needs::Footage);
  acting(tr("Paste stages"), QKeySequence("Ctrl+Shift+V"), [this] { paste(); }, Needs::Footage);
  paste_ = ofStage_.back();
  acting(tr("Move towards the footage"), QKeySequence("Ctrl+Shift+Left"), [this] { moveBy(-1); });
  acting(tr("Move towards the output"), QKeySequence("Ctrl+Shift+Right"), [this] { moveBy(1); });
  acting(tr("Go into its own chain"), QKeySequence("Ctrl+Down"), [this] { enter(); });
  acting(tr("Leave this chain"), QKeySequence("Ctrl+Up"), [this] { session_.leave(); }, Needs::Footage);
  acting(tr("Remove"), QKeySequence::Delete, [this] { remove(); });
}

void ChainActions::pickKind(const QPoint& at) {
  if (!session_.footage()) return;
  auto* picker = new StagePicker(&window_);
  connect(picker, &StagePicker::chosen, this, [this](const StageKind* kind) { add(*kind); });
  picker->openAt(at);
}

void ChainActions::add(const StageKind& kind) {
  if (!session_.footage()) return;
  session_.apply(addStage(session_.project(), kind));
  session_.select(session_.project().chain.size());
}

void ChainActions::enter() {
  const auto stage = session_.selectedStage();
  if (!stage) return;
  if (session_.project().chain[*stage].kind->description().branches) return session_.enter(*stage);
  emit session_.said(tr("%1 has no chain of its own.").arg(shown(titleOf(session_.project().chain[*stage]))));
}

void ChainActions::chooseTimeMap() {
  const QString path = chooseFile(&window_, tr("A time map: its scale, or any of its pictures"),
                                  tr("Time maps (*.time-map.json *.png *.tif *.tiff *.exr);;All files (*)"));
  if (!path.isEmpty()) addTimeMap(path);
}

void ChainActions::addTimeMap(const QString& path) {
  auto stage = stageOfTimeMap(path.toStdString());
  if (!stage) {
    emit session_.said(shown(stage.error().message));
    return;
  }
  Edit edit = addStage(session_.project(), *stage->kind);
  edit.name = "Add a time map";
  edit.after.chain.back() = std::move(*stage);
  session_.apply(edit);
  session_.select(session_.project().chain.size());
}

void ChainActions::menuAt(std::size_t tile, const QPoint& at) {
  QMenu menu;
  if (tile == 0) {
    menu.addAction(tr("Replace footage…"), this, &ChainActions::replaceRequested);
    menu.addAction(paste_);
  } else if (tile == session_.project().chain.size() + 1) {
    menu.addAction(tr("Render…"), this, &ChainActions::renderRequested);
  } else {
    menu.addActions(ofStage_);
  }
  menu.exec(at);
}

/// A name of the user's own; an empty one gives back the kind's.
void ChainActions::rename() {
  const auto stage = session_.selectedStage();
  if (!stage) return;
  bool accepted = false;
  const QString name =
      QInputDialog::getText(&window_, tr("Rename the stage"), tr("Name; empty for its usual one"), QLineEdit::Normal,
                            shown(titleOf(session_.project().chain[*stage])), &accepted);
  if (!accepted) return;
  const Edit edit = renameStage(session_.project(), *stage, name.trimmed().toStdString());
  if (!(edit.after == session_.project())) session_.apply(edit);
}

/// The selected stage as text; with none selected the whole chain.
void ChainActions::copy() {
  const Chain& chain = session_.project().chain;
  if (chain.empty()) return;
  const auto stage = session_.selectedStage();
  QApplication::clipboard()->setText(shown(chainText(stage ? Chain{chain[*stage]} : chain)));
  emit session_.said(stage ? tr("%1 is copied, as text.").arg(shown(titleOf(chain[*stage])))
                           : tr("The whole chain is copied, as text."));
}

void ChainActions::paste() {
  if (!session_.footage()) return;
  const auto stages = parseChain(QApplication::clipboard()->text().toStdString(), session_.video().rate);
  if (!stages) {
    emit session_.said(tr("What was copied is no stage: %1").arg(shown(stages.error().message)));
    return;
  }
  const Project& project = session_.project();
  // After the selected stage; with the footage selected at the beginning, with the output at the end.
  const std::size_t at = std::min(session_.selected(), project.chain.size());
  session_.apply(insertStages(project, at, *stages,
                              stages->size() == 1 ? "Paste " + titleOf(stages->front())
                                                  : "Paste " + std::to_string(stages->size()) + " stages"));
  session_.select(at + stages->size());
}

void ChainActions::remove() {
  if (const auto stage = session_.selectedStage()) session_.apply(removeStage(session_.project(), *stage));
}

void ChainActions::duplicate() {
  const auto stage = session_.selectedStage();
  if (!stage) return;
  session_.apply(duplicateStage(session_.project(), *stage));
  session_.select(*stage + 2);
}

void ChainActions::move(std::size_t from, std::size_t to) {
  session_.apply(moveStage(session_.project(), from, to));
  session_.select(to + 1);
}

void ChainActions::moveBy(int by) {
  const auto stage = session_.selectedStage();
  if (!stage) return;
  const auto to = static_cast<std::int64_t>(*stage) + by;
  if (to >= 0 && to < static_cast<std::int64_t>(session_.project().chain.size()))
    move(*stage, static_cast<std::size_t>(to));
}

void ChainActions::flip() {
  if (const auto stage = session_.selectedStage())
    session_.apply(switchStage(session_.project(), *stage, !session_.project().chain[*stage].on));
}

}  // namespace molten

// The Bench: its menus.
#include <QAction>
#include <QActionGroup>
#include <QDesktopServices>
#include <QFileDialog>
#include <QFileInfo>
#include <QLabel>
#include <QMenu>
#include <QMenuBar>
#include <QMessageBox>
#include <QSettings>
#include <QUrl>

#include "app/bench/bench.h"
#include "app/bench/player.h"
#include "app/chain/chain_bar.h"
#include "app/log/log_view.h"
#include "app/picture/picture_view.h"
#include "core/machine.h"

namespace molten {

QAction* Bench::add(QMenu* menu, const QString& name, const QKeySequence& keys, const std::function<void()>& act) {
  QAction* action = menu->addAction(name);
  action->setShortcut(keys);
  connect(action, &QAction::triggered, this, act);
  return action;
}

void Bench::buildMenus() {
  QMenu* project = menuBar()->addMenu(tr("&Project"));
  add(project, tr("New"), QKeySequence::New, [this] { newProject(); });
  add(project, tr("Open…"), QKeySequence::Open, [this] { openDialog(); });
  recent_ = project->addMenu(tr("Open recent"));
  connect(recent_, &QMenu::aboutToShow, this, &Bench::fillRecent);
  QMenu* demos = project->addMenu(tr("Demonstrations"));
  const QString demoPlace = demoFolder();
  // By what they show, not by their files' names.
  for (const auto& [name, what] : {std::pair{"gather", tr("A vessel twisted by a Time Field")},
                                   {"twist", tr("A twist of the vessel alone")},
                                   {"melt", tr("Melting from below")},
                                   {"glass-steps", tr("Panes of glass: a slanted field in steps")},
                                   {"rings", tr("Rings from a radial field")},
                                   {"accordion", tr("A held subject, the world drawn out beside it")},
                                   {"clouds", tr("Drifting noise")},
                                   {"growing", tr("A turning field whose reach grows")},
                                   {"racing", tr("Racing between three details")},
                                   {"there-and-back", tr("A there-and-back loop with slow ends")},
                                   {"stopped", tr("A freeze in motion")},
                                   {"replay", tr("Back and again")},
                                   {"minute", tr("A minute in seven seconds, at eight frames a second")},
                                   {"day-fan", tr("A day in strips, as a loop")},
                                   {"travelling-strips", tr("Strips that travel through the day")},
                                   {"mosaic", tr("A mosaic of hours")},
                                   {"rings-of-time", tr("Rings of time")},
                                   {"ghosts", tr("Ghosts of a glowing tip")},
                                   {"light-trails", tr("Light trails")},
                                   {"slow-shutter", tr("A slow shutter that keeps its brightness")},
                                   {"stop-motion-ghost", tr("Stop motion with ghosts")},
                                   {"ghost-in-steps", tr("Repeats in steps behind a smooth picture")},
                                   {"crossing-slit", tr("A slit that crosses the frame through the day")},
                                   {"wall-of-moments", tr("A wall of moments")},
                                   {"sharp-ghosts", tr("Ghosts before a sharp background")},
                                   {"strip-photograph", tr("A strip photograph of the ovens")},
                                   {"race-and-rest", tr("A race and rest, filmed with an open shutter")},
                                   {"tongs", tr("Four drawings in a written order")}})
    if (const QString file = demoPlace + "/" + name + ".molten"; !demoPlace.isEmpty() && QFileInfo::exists(file))
      add(demos, what, {}, [this, file] { openPath(file); });
  project->addSeparator();
  add(project, tr("Save"), QKeySequence::Save, [this] { save(); });
  add(project, tr("Save as…"), QKeySequence("Ctrl+Shift+S"), [this] { saveAs(); });
  project->addSeparator();
  buildMemoryMenu(project->addMenu(tr("Memory budget")));
  project->addSeparator();
  add(project, tr("Quit"), QKeySequence::Quit, [this] { close(); });

  QMenu* edit = menuBar()->addMenu(tr("&Edit"));
  QAction* undo = document_->undoStack().createUndoAction(this, tr("Undo"));
  undo->setShortcut(QKeySequence::Undo);
  QAction* redo = document_->undoStack().createRedoAction(this, tr("Redo"));
  redo->setShortcut(QKeySequence("Ctrl+Shift+Z"));
  edit->addActions({undo, redo});

  QMenu* footage = menuBar()->addMenu(tr("&Footage"));
  add(footage, tr("Open footage…"), {}, [this] { openDialog(); });
  add(footage, tr("Open a folder of stills…"), {}, [this] { openFolder(); });
  needFootage_.push_back(
      add(footage, tr("Replace footage…"), QKeySequence("Ctrl+Shift+O"), [this] { replaceDialog(); }));
  footage->addSeparator();
  needFootage_.push_back(add(footage, tr("In at the playhead"), QKeySequence("I"), [this] {
    const Span s = span();
    apply(setSpan(document_->project(), frame_, std::max(frame_, s.last), "In at frame " + std::to_string(frame_)));
  }));
  needFootage_.push_back(add(footage, tr("Out at the playhead"), QKeySequence("O"), [this] {
    const Span s = span();
    apply(setSpan(document_->project(), std::min(frame_, s.first), frame_, "Out at frame " + std::to_string(frame_)));
  }));
  needFootage_.push_back(add(footage, tr("Whole clip"), QKeySequence("Alt+X"), [this] {
    apply(setSpan(document_->project(), std::nullopt, std::nullopt, "Whole clip"));
  }));

  QMenu* stage = menuBar()->addMenu(tr("&Stage"));
  needFootage_.push_back(add(stage, tr("Add stage…"), QKeySequence("A"), [this] {
    addStageMenu(chain_->mapToGlobal(chain_->addRect().bottomLeft() + QPoint(0, 2)));
  }));
  QMenu* adding = stage->addMenu(tr("Add"));
  for (const StageKind* kind : stageKinds())
    needFootage_.push_back(
        add(adding, QString::fromStdString(kind->description().label), {}, [this, kind] { addKind(*kind); }));
  needFootage_.push_back(add(stage, tr("Time Field from a time map…"), {}, [this] {
    QSettings settings;
    const QString path = QFileDialog::getOpenFileName(
        this, tr("A time map: its scale, or any of its pictures"), settings.value("folder").toString(),
        tr("Time maps (*.time-map.json *.png *.tif *.tiff *.exr);;All files (*)"));
    if (path.isEmpty()) return;
    settings.setValue("folder", QFileInfo(path).absolutePath());
    addTimeMap(path);
  }));
  stage->addSeparator();
  needFootage_.push_back(add(stage, tr("Starters…"), QKeySequence("Ctrl+T"), [this] { showStarters(); }));
  needFootage_.push_back(add(stage, tr("Save as starter…"), {}, [this] { saveStarterDialog(); }));
  stage->addSeparator();
  switchAction_ = add(stage, tr("On / off"), QKeySequence("Ctrl+B"), [this] { switchSelected(); });
  renameAction_ = add(stage, tr("Rename…"), QKeySequence("F2"), [this] { renameSelected(); });
  duplicateAction_ = add(stage, tr("Duplicate"), QKeySequence("Ctrl+D"), [this] { duplicateSelected(); });
  copyAction_ = add(stage, tr("Copy as text"), QKeySequence("Ctrl+Shift+C"), [this] { copyStages(); });
  pasteAction_ = add(stage, tr("Paste stages"), QKeySequence("Ctrl+Shift+V"), [this] { pasteStages(); });
  needFootage_.push_back(copyAction_);
  needFootage_.push_back(pasteAction_);
  leftAction_ =
      add(stage, tr("Move towards the footage"), QKeySequence("Ctrl+Shift+Left"), [this] { moveSelected(-1); });
  rightAction_ =
      add(stage, tr("Move towards the output"), QKeySequence("Ctrl+Shift+Right"), [this] { moveSelected(1); });
  removeAction_ = add(stage, tr("Remove"), QKeySequence::Delete, [this] { removeSelected(); });
  needStage_ = {switchAction_, renameAction_, duplicateAction_, leftAction_, rightAction_, removeAction_};

  paceMenu_ = menuBar()->addMenu(tr("P&ace"));
  buildPaceMenu(paceMenu_);

  QMenu* view = menuBar()->addMenu(tr("&View"));
  needFootage_.push_back(add(view, tr("Fit the picture"), QKeySequence("Ctrl+0"), [this] { picture_->fit(); }));
  needFootage_.push_back(add(view, tr("100 %"), QKeySequence("Ctrl+1"), [this] { picture_->setZoom(1); }));
  const auto zoom = [this](double by) { picture_->setZoom(picture_->shownZoom() * by); };
  needFootage_.push_back(add(view, tr("Zoom in"), QKeySequence("Ctrl++"), [zoom] { zoom(1.5); }));
  needFootage_.push_back(add(view, tr("Zoom out"), QKeySequence("Ctrl+-"), [zoom] { zoom(1 / 1.5); }));
  view->addSeparator();
  QAction* sections =
      add(view, tr("Across and Down"), QKeySequence("Ctrl+Shift+A"), [this] { showSections(!sectionsShown_); });
  sections->setCheckable(true);
  sections->setChecked(sectionsShown_);
  QAction* steps = add(view, tr("Frame borders"), QKeySequence("E"), [this] {
    stepsShown_ = !stepsShown_;
    refreshPicture();
  });
  steps->setCheckable(true);
  needFootage_.push_back(steps);
  buildCompareMenu(view);
  view->addSeparator();
  add(view, tr("Log"), QKeySequence("Ctrl+L"), [this] { log_->show(); });
  view->addSeparator();
  fillAction_ =
      add(view, tr("Picture fills the window"), QKeySequence("F"), [this] { fillWindow(fillAction_->isChecked()); });
  fillAction_->setCheckable(true);
  // The menu bar is hidden with the rest: its keys must go on working.
  addAction(fillAction_);
  needFootage_.push_back(fillAction_);

  QMenu* rendering = menuBar()->addMenu(tr("&Render"));
  needFootage_.push_back(add(rendering, tr("Render…"), QKeySequence("Ctrl+R"), [this] { renderDialog(); }));

  QMenu* help = menuBar()->addMenu(tr("&Help"));
  add(help, tr("Keys"), QKeySequence::HelpContents, [this] {
    QString rows;
    for (const auto& [keys, what] : {std::pair{tr("Space"), tr("play and stop")},
                                     {tr("J K L"), tr("back, stop, on; again for faster")},
                                     {tr("← →"), tr("one frame; with Shift ten")},
                                     {tr("Home, End"), tr("to in, to out")},
                                     {tr("I, O"), tr("in and out at the playhead; Alt+X the whole clip")},
                                     {tr("B, held"), tr("the footage without the chain")},
                                     {tr("W, Shift+W, Shift+D"), tr("compare: wipe, side by side, difference")},
                                     {tr("Ctrl+Shift+B, Shift+B"), tr("keep version B; change A and B over")},
                                     {tr("E"), tr("frame borders")},
                                     {tr("Ctrl+click on the Picture"), tr("the row and column of Across and Down")},
                                     {tr("F"), tr("the Picture fills the window")},
                                     {tr("Wheel"), tr("zoom; double-click for fit and 100 %")},
                                     {tr("Shift, dragging"), tr("handles keep to straight lines")},
                                     {tr("A"), tr("add a stage")},
                                     {tr("M"), tr("mark at the playhead; Ctrl+← Ctrl+→ to the next one")},
                                     {tr("↑ ↓, [ ]"), tr("on the chart: a span's speed, a mark's glide")},
                                     {tr("1 … 9"), tr("select a stage; Ctrl+B on or off, Delete removes it")},
                                     {tr("Ctrl+R"), tr("render")}})
      rows += QString("<tr><td style=\"padding-right:16px\"><b>%1</b></td><td>%2</td></tr>").arg(keys, what);
    QMessageBox(QMessageBox::NoIcon, tr("Keys"), "<table>" + rows + "</table>", QMessageBox::Close, this).exec();
  });
  add(help, tr("About Molten Clock"), {}, [this] {
    QMessageBox(QMessageBox::NoIcon, tr("About Molten Clock"),
                tr("Molten Clock 0.1\n\nDecides when every pixel of every frame is taken from.\n\nFree software under "
                   "the GNU General Public License, version 3 or later."),
                QMessageBox::Close, this)
        .exec();
  });

  titleLabel_ = new QLabel;
  titleLabel_->setProperty("dim", true);
  titleLabel_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  titleLabel_->setContentsMargins(0, 4, 12, 4);
  titleLabel_->setMinimumWidth(360);
  menuBar()->setCornerWidget(titleLabel_);
  for (QAction* action : findChildren<QAction*>()) action->setShortcutContext(Qt::WindowShortcut);
  for (QMenu* menu : menuBar()->findChildren<QMenu*>()) addActions(menu->actions());
}

/// What frames, flows and prepared pictures may take up together. Kept for the next start.
void Bench::buildMemoryMenu(QMenu* menu) {
  auto* group = new QActionGroup(menu);
  const std::size_t usual = options_.memoryBytes;
  const auto chosen = static_cast<std::size_t>(QSettings().value("memory-budget", 0).toULongLong());
  const auto choice = [&](const QString& name, std::size_t bytes, std::size_t kept) {
    QAction* action = menu->addAction(name);
    action->setCheckable(true);
    action->setChecked(chosen == kept);
    group->addAction(action);
    connect(action, &QAction::triggered, this, [this, bytes, kept] {
      QSettings().setValue("memory-budget", static_cast<qulonglong>(kept));
      setMemory(bytes);
    });
  };
  choice(tr("Usual: %1 GB").arg(static_cast<double>(usual) / 1e9, 0, 'f', 1), usual, 0);
  const std::size_t machine = machineMemory();
  for (const double gigabytes : {0.25, 0.5, 1.0, 2.0, 4.0, 8.0, 16.0, 32.0}) {
    const auto bytes = static_cast<std::size_t>(gigabytes * 1e9);
    if (bytes <= machine / 4 * 3) choice(tr("%1 GB").arg(gigabytes), bytes, bytes);
  }
  if (chosen > 0) options_.memoryBytes = chosen;
}

void Bench::setMemory(std::size_t bytes) {
  options_.memoryBytes = bytes;
  player_->setBudget(bytes);
  refreshPicture();
  refreshTransport();
}

void Bench::fillRecent() {
  recent_->clear();
  for (const QString& path : QSettings().value("recent").toStringList())
    recent_->addAction(QFileInfo(path).fileName(), this, [this, path] { openPath(path); })->setToolTip(path);
  recent_->setToolTipsVisible(true);
  if (recent_->isEmpty()) recent_->addAction(tr("none yet"))->setEnabled(false);
}

}  // namespace molten

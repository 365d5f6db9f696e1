#include "app/bench/bench.h"

#include <QAction>
#include <QCloseEvent>
#include <QGuiApplication>
#include <QMenu>
#include <QMenuBar>
#include <QMimeData>
#include <QMimeDatabase>
#include <QPointer>
#include <QScrollArea>
#include <QSettings>
#include <QStackedWidget>
#include <QStandardPaths>
#include <QVBoxLayout>
#include <algorithm>

#include "app/bench/deck_split.h"
#include "app/bench/help_menu.h"
#include "app/bench/view_menu.h"
#include "app/bench/welcome.h"
#include "app/chain/chain_actions.h"
#include "app/chain/chain_bar.h"
#include "app/chain/chain_tiles.h"
#include "app/chart/key_hands.h"
#include "app/chart/pace_menu.h"
#include "app/chart/pace_on_chart.h"
#include "app/chart/small_pictures.h"
#include "app/chart/deck.h"
#include "app/commands/commands.h"
#include "app/dials/dials.h"
#include "app/dials/dials_pages.h"
#include "app/dials/footage_dials.h"
#include "app/dials/output_dials.h"
#include "app/dials/spans_hands.h"
#include "app/files/clean_up.h"
#include "app/files/file_actions.h"
#include "app/files/missing_finder.h"
#include "app/files/source_actions.h"
#include "app/findings/findings.h"
#include "app/findings/footage_notices.h"
#include "app/live/clean_window.h"
#include "app/live/live_call.h"
#include "app/live/live_keeping.h"
#include "app/live/live_panel.h"
#include "app/live/live_room.h"
#include "app/log/log_view.h"
#include "app/picture/comparison.h"
#include "app/picture/painting_hand.h"
#include "app/picture/picture_hands.h"
#include "app/picture/selected_sides.h"
#include "app/picture/viewing.h"
#include "app/session/followed_shots.h"
#include "app/playback/memory_menu.h"
#include "app/playback/playback.h"
#include "app/playback/player.h"
#include "app/playback/transport.h"
#include "app/reel/reel_actions.h"
#include "app/reel/reel_strip.h"
#include "app/render/render_actions.h"
#include "app/settings/settings_view.h"
#include "app/sections/bands.h"
#include "app/sections/sections.h"
#include "app/sound/hearing.h"
#include "app/sound/level_meter.h"
#include "app/sound/sound_hands.h"
#include "app/starters/starter_actions.h"
#include "app/theme/parts.h"
#include "app/trouble/application.h"

namespace molten {
namespace {

/// Of the window's width, in pixels.
constexpr double dialsShare = 0.31;
constexpr int leastDials = 340, mostDials = 480;
constexpr const char* starterSetting = "starter folder";

QString starterFolder(const BenchOptions& options) {
  if (!options.starterFolder.isEmpty()) return options.starterFolder;
  return QSettings().value(starterSetting, QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/starters").toString();
}

QHBoxLayout* sideBySide(std::initializer_list<QWidget*> widgets) {
  auto* row = new QHBoxLayout;
  row->setSpacing(0);
  row->setContentsMargins(0, 0, 0, 0);
  for (QWidget* const widget : widgets) row->addWidget(widget);
  return row;
}

}  // namespace

Bench::Bench(const BenchOptions& options, QWidget* parent) : QMainWindow(parent), options_(options) {
  session_ = new Session(options.autosaveFolder, this);
  commands_ = new Commands(*session_, this);
  makeViews();
  makeRooms();
  connectRooms();
  buildMenus();
  if (!restoreGeometry(QSettings().value("window").toByteArray())) {
    theme::resizeWithinScreen(*this, {1280, 800});
  }
  layOut();
  emit session_->changed();
  welcome_->setFocus();
}

Bench::~Bench() {
  // Rooms refer to views, and to rooms that were made before them; all of them refer to the session. So what was made last goes first:
  // rooms, then views, then the session.
  for (const bool widgets : {false, true}) {
    std::vector<QPointer<QObject>> all;
    for (QObject* const child : children())
      if (child->isWidgetType() == widgets && child != session_ && child != layout()) all.emplace_back(child);
    for (auto at = all.rbegin(); at != all.rend(); ++at) delete at->data();
  }
}

void Bench::makeViews() {
  player_ = new Player(this);
  reel_ = new ReelStrip;
  chain_ = new ChainBar;
  picture_ = new PictureView;
  picture_->setFocusPolicy(Qt::ClickFocus);
  welcome_ = new Welcome;
  pictureOrWelcome_ = new QStackedWidget;
  pictureOrWelcome_->addWidget(welcome_);
  pictureOrWelcome_->addWidget(picture_);
  dials_ = new Dials;
  outputDials_ = new OutputDials;
  footageDials_ = new FootageDials;
  dialsPages_ = new QStackedWidget;
  for (QWidget* const page :
       {static_cast<QWidget*>(dials_), static_cast<QWidget*>(outputDials_), static_cast<QWidget*>(footageDials_)})
    dialsPages_->addWidget(page);
  dialsFrame_ = new QScrollArea;
  dialsFrame_->setWidget(dialsPages_);
  dialsFrame_->setWidgetResizable(true);
  dialsFrame_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  dialsFrame_->setFocusPolicy(Qt::NoFocus);
  dialsFrame_->setObjectName("dialsFrame");
  across_ = new SectionView(SectionView::Way::Across);
  down_ = new SectionView(SectionView::Way::Down);
  bands_ = new Bands(pictureOrWelcome_, across_, down_);
  deck_ = new Deck;
  split_ = new DeckSplit(bands_, deck_);
  livePanel_ = new LivePanel;
  livePanel_->hide();
  transport_ = new Transport;
  log_ = new LogView(this);
  auto* centre = new QWidget;
  auto* column = new QVBoxLayout(centre);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  auto* const middle = sideBySide({split_, dialsFrame_});
  middle->setStretch(0, 1);
  column->addWidget(reel_);
  column->addWidget(chain_);
  column->addLayout(middle, 1);
  column->addWidget(livePanel_);
  column->addWidget(transport_);
  setCentralWidget(centre);
  setAcceptDrops(true);
  setMinimumSize(900, 480);
}

/// In the order in which they are told what has changed.
void Bench::makeRooms() {
  auto* pictures = new SmallPictureMaker(this);
  ChartPlot* const plot = deck_->plot();
  plot->setPictures(&pictures->pictures());
  connect(plot, &ChartPlot::picturesWanted, pictures,
          [pictures](const std::vector<std::int32_t>& frames) { pictures->want(0, frames); });
  connect(pictures, &SmallPictureMaker::arrived, plot, &ChartPlot::picturesChanged);

  auto* const followed = new FollowedShots(*session_, *player_, this);
  const Ask ask = options_.ask ? options_.ask : askOver(this);
  const Ask asksOrNot = options_.askQuestions || options_.ask ? ask : Ask();
  viewing_ = new Viewing(*session_, *player_, *picture_, this);
  tiles_ = new ChainTiles(*session_, *player_, *chain_, this);
  hands_ = new PictureHands(*session_, *player_, *picture_, *viewing_, this);
  new SelectedSides(*session_, *player_, *picture_, *viewing_, *dials_, this);
  new PaintingHand(*session_, *dials_->paint(), *picture_, *viewing_, this);
  comparison_ = new Comparison(*session_, *picture_, *viewing_, this);
  findings_ = new Findings(*session_, *player_, *dials_, *hands_, this);
  auto* const dialsPages =
      new DialsPages(*session_, *followed, *pictures, {*dialsPages_, *dials_, *outputDials_, *footageDials_}, this);
  connect(dialsPages, &DialsPages::stageShown, findings_, &Findings::refresh);
  pace_ = new PaceOnChart(*session_, *deck_, this);
  spans_ = new SpansHands(document(), *dials_, *deck_, *pace_, this);
  new KeyHands(*session_, *followed, *deck_, this);
  heardShot_ = new HeardShot(*session_, *player_, this);
  hearing_ = new Hearing(*session_, *player_, *heardShot_, SoundDevice::open(), this);
  sounds_ = new SoundHands(*session_, *heardShot_, *hearing_, *pace_, *deck_, this);
  // The small pictures end before the player does, and begin when it has the footage.
  connect(session_, &Session::footageLeaves, pictures, [pictures] { pictures->setFrames(nullptr); });
  deferredKeys_ = new DeferredKeys(*session_, this);
  playback_ = new Playback(*session_, *player_, *deferredKeys_, {*deck_->scrubber(), *transport_}, chosenMemory(options_.memoryBytes), this);
  connect(session_, &Session::footageInSight, pictures, [this, pictures] { pictures->setFrames(player_->sources()->feed()); });
  sections_ = new Sections(*session_, *player_, *viewing_, {*picture_, *across_, *down_, *bands_, *plot}, this);
  new FootageNotices(*session_, *playback_, *log_, *this);
  reelActions_ = new ReelActions(*session_, *reel_, *this);
  chainActions_ = new ChainActions(*session_, *chain_, *this);
  starters_ = new StarterActions(*session_, *player_, starterFolder(options_), asksOrNot, *this);
  files_ = new FileActions(*session_, options_.autosaveFolder, ask, options_.askQuestions, *this);
  sources_ = new SourceActions(*session_, *this);
  missing_ = new MissingFinder(*session_, *this);
  cleanUp_ = new CleanUp(*session_, ask, *this);
  render_ = new RenderActions(*session_, *player_, *playback_, asksOrNot, options_.queueFolder, *this);
  live_ = new LiveRoom(*session_, *player_, *viewing_, {*picture_, *livePanel_}, playback_->memory(), *this);
}

void Bench::connectRooms() {
  connect(session_, &Session::said, this, &Bench::say);
  if (const auto* const application = qobject_cast<Application*>(qApp))
    connect(application, &Application::troubled, this, [this](const QString& sentence) {
      document().autosaveNow();
      say(document().modified() ? tr("%1 What is not saved is kept for the next start.").arg(sentence) : sentence);
    });
  connect(heardShot_, &HeardShot::said, this, &Bench::say);
  connect(hearing_, &Hearing::said, this, &Bench::say);
  connect(sounds_, &SoundHands::said, this, &Bench::say);
  transport_->meter()->setLevels([this] { return hearing_->levels(); });
  connect(heardShot_, &HeardShot::changed, transport_, [this] { transport_->setHears(heardShot_->hearsSomething()); });
  connect(session_, &Session::changed, this, &Bench::showTitle);
  connect(session_, &Session::changed, this, [this] {
    if (reel_->isVisibleTo(this) != reelInSight()) layOut();
  });
  connect(&document(), &Document::titleChanged, this, &Bench::showTitle);
  connect(session_, &Session::footageLeaves, this, [this] {
    welcome_->setTrouble({});
    welcome_->setReplacing(false);
    if (session_->project().source.path.empty()) pictureOrWelcome_->setCurrentWidget(welcome_);
    layOut();
  });
  connect(session_, &Session::firstPicture, this, [this](const QImage& image, const PictureShape& shape) {
    picture_->setPictureShape(shape.size, shape.pixelAspect.toDouble());
    picture_->setImage(image);
    pictureOrWelcome_->setCurrentWidget(picture_);
    layOut();
    emit pictureShown();
  });
  connect(session_, &Session::footageArrived, this, [this] {
    const PictureShape& shape = footage()->shape();
    picture_->setPictureShape(shape.size, shape.pixelAspect.toDouble());
    pictureOrWelcome_->setCurrentWidget(picture_);
    layOut();
    if (!session_->changesShot()) picture_->setFocus();
  });
  connect(session_, &Session::footageFailed, this, [this](const QString& sentence) {
    welcome_->setTrouble(sentence);
    welcome_->setReplacing(true);
    pictureOrWelcome_->setCurrentWidget(welcome_);
    layOut();
  });
  connect(playback_, &Playback::bypassed, viewing_, &Viewing::bypass);
  connect(playback_, &Playback::memoryChanged, viewing_, &Viewing::refresh);
  connect(viewing_, &Viewing::shown, this, &Bench::pictureShown);
  connect(viewing_, &Viewing::shownInFull, tiles_, &ChainTiles::measureCosts);
  connect(sections_, &Sections::widthsMeasured, findings_, &Findings::tellSteps);
  connect(sections_, &Sections::inSightChanged, this, &Bench::layOut);
  connect(dials_, &Dials::built, this, &Bench::orderTabs);
  connect(deck_->plot(), &ChartPlot::remedyChosen, dials_, [this] { emit dials_->remedyChosen(Figure::Outside); });
  connect(dials_, &Dials::manualWanted, this, [this] { act(tr("Manual")); });
  connect(welcome_, &Welcome::openRequested, this,
          [this] { session_->project().source.path.empty() ? files_->openDialog() : files_->replaceDialog(); });
  connect(welcome_, &Welcome::demoRequested, files_, &FileActions::openDemo);
  connect(files_, &FileActions::starterOpened, starters_, &StarterActions::open);
  connect(files_, &FileActions::soundsChosen, sounds_, &SoundHands::layInHere);
  connect(sounds_, &SoundHands::filesWanted, files_, &FileActions::soundsDialog);
  connect(chainActions_, &ChainActions::replaceRequested, files_, &FileActions::replaceDialog);
  connect(chainActions_, &ChainActions::renderRequested, render_, &RenderActions::open);
  connect(transport_, &Transport::renderRequested, render_, &RenderActions::open);
  connect(transport_, &Transport::renderQueueRequested, render_, &RenderActions::openQueue);
  connect(render_, &RenderActions::told, transport_, &Transport::setRendering);
  connect(render_, &RenderActions::footageWanted, files_, &FileActions::openAnew);
  connect(sources_, &SourceActions::projectWanted, files_, &FileActions::open);
  connect(sources_, &SourceActions::keepWanted, render_, &RenderActions::keep);
  connect(live_, &LiveRoom::switched, this, [this](bool on) {
    playback_->shareMemory(Playback::Sharer::Camera, on);
    pictureOrWelcome_->setCurrentWidget(live_->on() || footage() ? static_cast<QWidget*>(picture_) : welcome_);
    layOut();
  });
  connect(playback_, &Playback::memoryChanged, live_, [this] { live_->setMemory(playback_->memory()); });
  connect(live_, &LiveRoom::pictureShown, this, &Bench::pictureShown);
}

// ---- menus

SettingsOf Bench::settingsOf() {
  SettingsOf of;
  const std::size_t usual = options_.memoryBytes;
  for (const std::size_t choice : memoryChoices()) of.memory.push_back({memoryName(choice, usual), choice});
  of.chosenMemory = memoryChoice;
  of.chooseMemory = [this, usual](std::size_t choice) { chooseMemory(choice, usual, *playback_); };
  of.folders = {{tr("Starters"), starterFolder(options_), starterSetting},
                {tr("Work not saved"), options_.autosaveFolder},
                {tr("List of renders"), options_.queueFolder.isEmpty() ? QString::fromStdString(RenderStore::usualFolder()) : options_.queueFolder}};
  return of;
}

void Bench::buildMenus() {
  QMenu* project = menuBar()->addMenu(tr("&Project"));
  files_->fillProject(*commands_, project);
  missing_->fill(*commands_, project);
  cleanUp_->fill(*commands_, project);
  project->addSeparator();
  auto* settings = new SettingsView(*commands_, settingsOf(), this);
  commands_->add(project, tr("Settings…"), QKeySequence("Ctrl+,"), [settings] { settings->bringUp(); });
  fillMemoryMenu(project->addMenu(tr("Memory budget")), options_.memoryBytes, *playback_);
  project->addSeparator();
  commands_->add(project, tr("Quit"), QKeySequence::Quit, [this] { close(); });

  QMenu* edit = menuBar()->addMenu(tr("&Edit"));
  QAction* undo = document().undoStack().createUndoAction(this, tr("Undo"));
  undo->setShortcut(QKeySequence::Undo);
  QAction* redo = document().undoStack().createRedoAction(this, tr("Redo"));
  redo->setShortcut(QKeySequence("Ctrl+Shift+Z"));
  edit->addActions({undo, redo});

  QMenu* footageMenu = menuBar()->addMenu(tr("&Footage"));
  files_->fillFootage(*commands_, footageMenu);
  footageMenu->addSeparator();
  sources_->fill(*commands_, footageMenu);
  footageMenu->addSeparator();
  playback_->fill(*commands_, footageMenu);

  reelActions_->fill(*commands_, menuBar()->addMenu(tr("Ree&l")));

  QMenu* stage = menuBar()->addMenu(tr("&Stage"));
  chainActions_->fillAdding(*commands_, stage);
  stage->addSeparator();
  starters_->fill(*commands_, stage);
  stage->addSeparator();
  chainActions_->fillActing(*commands_, stage);

  auto* pace = new PaceMenu(*session_, *pace_, *deck_, *commands_, menuBar()->addMenu(tr("P&ace")), this);
  connect(spans_, &SpansHands::markWanted, pace, &PaceMenu::dropMark);
  connect(pace_, &PaceOnChart::begun, this, [this] { split_->setTall(true); });
  connect(pace, &PaceMenu::chartNeeded, this, [this] {
    if (fillAction_->isChecked()) fillAction_->trigger();
  });

  sounds_->fill(*commands_, menuBar()->addMenu(tr("S&ound")));
  live_->fill(*commands_, menuBar()->addMenu(tr("L&ive")));
  fillAction_ = fillViewMenu(*commands_, menuBar()->addMenu(tr("&View")), {*session_, *viewing_, *picture_, *across_, *down_, *sections_, *comparison_, *deck_, *split_, *log_},
                             [this] { fillWindow(); }, this);
  render_->fill(*commands_, menuBar()->addMenu(tr("&Render")));
  fillHelpMenu(*commands_, menuBar()->addMenu(tr("&Help")), *session_, {chain_, picture_, dialsFrame_, deck_, transport_}, this);

  for (QMenu* menu : menuBar()->findChildren<QMenu*>()) addActions(menu->actions());
}

// ---- the window as a whole

void Bench::layOut() {
  const bool filled = fillAction_ && fillAction_->isChecked(), live = live_ && live_->on();
  // Nothing is an empty pane: before there is a picture, the middle is all the invitation's.
  const bool picture = pictureOrWelcome_->currentWidget() == picture_;
  dialsFrame_->setFixedWidth(std::clamp(static_cast<int>(width() * dialsShare), leastDials, mostDials));
  dialsFrame_->setVisible(picture && !filled);
  deck_->setVisible(picture && !filled && !live);
  livePanel_->setVisible(live && !filled);
  transport_->setVisible(!live);
  bands_->setShown(picture && sections_->inSight() && !filled && !live);
  reel_->setVisible(reelInSight());
  chain_->setVisible(!filled);
  menuBar()->setVisible(!filled);
}

bool Bench::reelInSight() const {
  return session_->isReel() && !(fillAction_ && fillAction_->isChecked());
}

void Bench::fillWindow() {
  layOut();
  picture_->setFocus();
}

void Bench::orderTabs() {
  QWidget* last = picture_;
  setTabOrder(reel_, chain_);
  setTabOrder(chain_, picture_);
  for (QWidget* const part : {static_cast<QWidget*>(dialsFrame_), static_cast<QWidget*>(deck_),
                              static_cast<QWidget*>(transport_)})
    for (QWidget* const widget : part->findChildren<QWidget*>())
      // What a box of choices opens is a window of its own.
      if (widget->window() == this && (widget->focusPolicy() & Qt::TabFocus)) {
        setTabOrder(last, widget);
        last = widget;
      }
}

void Bench::showTitle() {
  const QString state = document().path().isEmpty() ? QString()
                        : document().modified()     ? tr(" — changed")
                                                    : tr(" — saved");
  setWindowTitle(tr("%1%2 — Molten Clock").arg(document().title(), state));
}

void Bench::say(const QString& sentence) {
  if (pictureOrWelcome_->currentWidget() == welcome_)
    welcome_->setTrouble(sentence);
  else
    viewing_->remark(sentence);
}

void Bench::openPath(const QString& path) {
  files_->open(path);
}

void Bench::beginLive(const Call& call) {
  live_->begin(*call.camera);
  CleanWindow& clean = live_->cleanWindow();
  clean.setMirrored(call.mirrored);
  clean.setTurned(call.turned);
  if (const auto screens = QGuiApplication::screens(); call.screen >= 0 && call.screen < screens.size()) clean.setOwnScreen(screens[call.screen]);
  if (call.fullScreen) live_->fillScreen();
  if (!call.record.isEmpty()) live_->keeping().record(LiveKeeping::What::Shown, true, call.record);
  if (!call.recordCamera.isEmpty()) live_->keeping().record(LiveKeeping::What::Incoming, true, call.recordCamera);
}

void Bench::act(const QString& entry) {
  for (QAction* const action : actions())
    if (action->text() == entry) action->trigger();
}

void Bench::offerLostWork() {
  files_->offerLostWork();
}

void Bench::addTimeMap(const QString& path) {
  chainActions_->addTimeMap(path);
}

bool Bench::save() {
  return files_->save();
}

void Bench::endNow() {
  document().keepForNextStart();
  render_->end();
  options_.askQuestions = false;
  files_->stopAskingToSave();
  close();
}

void Bench::closeEvent(QCloseEvent* event) {
  const Ask ask = options_.ask ? options_.ask : askOver(this);
  const RenderQueue& renders = render_->queue();
  if (renders.busy() && options_.askQuestions &&
      ask(tr("Still rendering"),
          renders.waiting() > 0
              ? tr("A render is going on and %1 wait. Closing stops them; they go on where they were when Molten Clock is opened again, or by molten-render --queue.")
                    .arg(renders.waiting())
              : tr("A render is going on. Closing stops it; it goes on where it was when Molten Clock is opened again, or by molten-render --queue."),
          {tr("Stop and close"), tr("Go on rendering")}) != 0)
    return event->ignore();
  if (!files_->settleChanges()) return event->ignore();
  QSettings().setValue("window", saveGeometry());
  event->accept();
}

void Bench::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void Bench::dropEvent(QDropEvent* event) {
  const auto urls = event->mimeData()->urls();
  if (urls.isEmpty()) return;
  if (!urls[0].isLocalFile()) return say(tr("Only files of this computer can be opened."));
  event->acceptProposedAction();
  QStringList sounds;
  for (const QUrl& url : urls)
    if (QMimeDatabase().mimeTypeForFile(url.toLocalFile()).name().startsWith("audio/")) sounds.push_back(url.toLocalFile());
  if (!sounds.isEmpty() && footage()) return sounds_->layInHere(sounds);
  // Several are shots in a row.
  if (urls.size() == 1) return openPath(urls[0].toLocalFile());
  QStringList shots;
  for (const QUrl& url : urls) shots << url.toLocalFile();
  reelActions_->add(shots);
}

void Bench::keyPressEvent(QKeyEvent* event) {
  if (!live_->on() && playback_->takePress(*event)) return;
  if (session_->isOpening())
    if (QAction* const action = commands_->lackingFootage(event->keyCombination())) {
      if (!event->isAutoRepeat()) deferredKeys_->run([action] { action->trigger(); });
      return;
    }
  if (event->key() == Qt::Key_Escape) {
    if (!hands_->stopPicking() && fillAction_->isChecked()) fillAction_->trigger();
    return;
  }
  if (event->key() >= Qt::Key_1 && event->key() <= Qt::Key_9 && !(event->modifiers() & Qt::ControlModifier)) {
    const auto stage = static_cast<std::size_t>(event->key() - Qt::Key_0);
    if (stage <= session_->project().chain.size()) session_->select(stage);
    return;
  }
  QMainWindow::keyPressEvent(event);
}

void Bench::keyReleaseEvent(QKeyEvent* event) {
  if (!playback_->takeRelease(*event)) QMainWindow::keyReleaseEvent(event);
}

void Bench::changeEvent(QEvent* event) {
  // A key released in another window would never be seen here.
  if (event->type() == QEvent::ActivationChange && !isActiveWindow() && viewing_) viewing_->bypass(false);
  QMainWindow::changeEvent(event);
}

void Bench::resizeEvent(QResizeEvent* event) {
  QMainWindow::resizeEvent(event);
  layOut();
}

}  // namespace molten

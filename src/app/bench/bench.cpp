#include "app/bench/bench.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QMenu>
#include <QMimeData>
#include <QScrollArea>
#include <QSettings>
#include <QSplitter>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <cmath>

#include "app/bench/footage_loader.h"
#include "app/bench/loop_finder.h"
#include "app/bench/player.h"
#include "app/bench/scrubber.h"
#include "app/bench/transport.h"
#include "app/bench/welcome.h"
#include "app/chain/chain_bar.h"
#include "app/chain/stage_costs.h"
#include "app/chart/small_pictures.h"
#include "app/chart/time_chart.h"
#include "app/dials/dials.h"
#include "app/dials/footage_dials.h"
#include "app/dials/output_dials.h"
#include "app/log/log_view.h"
#include "app/picture/picture_view.h"
#include "app/render/render_dialog.h"
#include "app/sections/section_view.h"
#include "app/sections/slices.h"
#include "app/sections/tracer.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

QString text(const std::string& s) {
  return QString::fromStdString(s);
}

}  // namespace

Bench::Bench(const BenchOptions& options, QWidget* parent) : QMainWindow(parent), options_(options) {
  document_ = new Document(options.autosaveFolder, this);
  loader_ = new FootageLoader(this);
  player_ = new Player(this);
  chain_ = new ChainBar;
  picture_ = new PictureView;
  welcome_ = new Welcome;
  dials_ = new Dials;
  scrubber_ = new Scrubber;
  transport_ = new Transport;
  stage_ = new QStackedWidget;
  stage_->addWidget(welcome_);
  stage_->addWidget(picture_);
  auto* scroll = new QScrollArea;
  outputDials_ = new OutputDials;
  footageDials_ = new FootageDials;
  dialsPages_ = new QStackedWidget;
  dialsPages_->addWidget(dials_);
  dialsPages_->addWidget(outputDials_);
  dialsPages_->addWidget(footageDials_);
  loops_ = new LoopFinder(this);
  costs_ = new StageCosts(this);
  log_ = new LogView(this);
  connect(log_, &LogView::whereAsked, this, &Bench::showWhere);
  connect(costs_, &StageCosts::measured, this, &Bench::refreshChain);
  scroll->setWidget(dialsPages_);
  scroll->setWidgetResizable(true);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll->setFocusPolicy(Qt::NoFocus);
  dialsFrame_ = scroll;
  auto* middle = new QHBoxLayout;
  middle->setSpacing(0);
  across_ = new SectionView(SectionView::Way::Across);
  down_ = new SectionView(SectionView::Way::Down);
  slices_ = new Slices(this);
  tracer_ = new Tracer(this);
  middle->addWidget(stage_, 1);
  middle->addWidget(down_);
  middle->addWidget(scroll);
  middle->setContentsMargins(0, 0, 0, 0);
  auto* upper = new QWidget;  // picture and dials, above the chart
  upper->setLayout(middle);
  chart_ = new TimeChart;
  smallPictures_ = new SmallPictureMaker(this);
  auto* below = new QHBoxLayout;
  below->setSpacing(0);
  below->setContentsMargins(0, 0, 0, 0);
  below->addWidget(across_, 1);
  below->addWidget(chart_, 1);
  auto* lower = new QWidget;
  lower->setLayout(below);
  lower_ = lower;
  auto* split = new QSplitter(Qt::Vertical);
  split->setObjectName("chartSplit");
  split->setChildrenCollapsible(false);
  split->setHandleWidth(4);
  split->addWidget(upper);
  split->addWidget(lower);
  split->setStretchFactor(0, 5);
  split->setStretchFactor(1, 3);
  split->setSizes({370, 250});
  connect(split, &QSplitter::splitterMoved, this, &Bench::refreshSections);
  auto* centre = new QWidget;
  auto* column = new QVBoxLayout(centre);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  column->addWidget(chain_);
  column->addWidget(split, 1);
  column->addWidget(scrubber_);
  column->addWidget(transport_);
  setCentralWidget(centre);
  picture_->setFocusPolicy(Qt::StrongFocus);
  setAcceptDrops(true);
  setMinimumSize(960, 600);
  sectionsShown_ = QSettings().value("sections", true).toBool();
  buildMenus();
  connectViews();
  measureTimer_.setInterval(500);
  connect(&measureTimer_, &QTimer::timeout, this, [this] {
    refreshTransport();
    noticeFaults();
  });
  measureTimer_.start();
  remarkTimer_.setSingleShot(true);
  connect(&remarkTimer_, &QTimer::timeout, this, [this] {
    remark_.clear();
    refreshPicture();
  });
  QSettings settings;
  if (!restoreGeometry(settings.value("window").toByteArray())) resize(1280, 800);
  layOut();
  player_->setLoop(settings.value("loop", true).toBool());
  projectReplaced();
  welcome_->setFocus();
}

Bench::~Bench() {
  // Whatever still works for this window ends before the window goes.
  render_.reset();
  loops_->cancel();
  costs_->cancel();
  loader_->cancel();
  player_->clear();
}

void Bench::connectViews() {
  connect(document_, &Document::changed, this, &Bench::projectChanged);
  connect(document_, &Document::replaced, this, &Bench::projectReplaced);
  connect(document_, &Document::titleChanged, this, &Bench::refreshTitle);
  connect(document_, &Document::autosaveFailed, this, &Bench::say);

  connect(loader_, &FootageLoader::opened, this, &Bench::footageOpened);
  connect(loader_, &FootageLoader::failed, this, &Bench::footageFailed);
  connect(loader_, &FootageLoader::indexed, this, [this](double part) {
    indexing_ = part;
    refreshChain();
  });
  connect(loader_, &FootageLoader::firstPicture, this, [this](const QImage& image, const PictureShape& shape) {
    picture_->setPictureShape(shape.size, shape.pixelAspect.toDouble());
    picture_->setImage(image);
    stage_->setCurrentWidget(picture_);
    emit pictureShown();
  });

  connect(player_, &Player::pictureReady, this, [this](const QImage& image, const QImage& other, const Shown& about) {
    picture_->setImage(image);
    picture_->setOther(other);
    if (!trouble_.isEmpty() || smallerForMemory_ != about.forMemory) {
      trouble_.clear();
      smallerForMemory_ = about.forMemory;
      refreshPicture();
    }
    if (!about.forSpeed) refreshCosts();
    emit pictureShown();
  });
  connect(player_, &Player::frameReached, this, [this](std::int64_t frame) {
    frame_ = frame;
    showPlayhead();
    picture_->setState(pictureState());
    askReads();
    chart_->setFrame(chartFrame());
    refreshTransport();
  });
  connect(player_, &Player::stopped, this, &Bench::refreshTransport);
  connect(player_, &Player::failed, this, [this](const QString& sentence) {
    trouble_ = sentence;
    player_->stop();
    refreshPicture();
  });

  connect(welcome_, &Welcome::openRequested, this,
          [this] { document_->project().source.path.empty() ? openDialog() : replaceDialog(); });
  connect(welcome_, &Welcome::demoRequested, this, &Bench::openDemo);

  connectPicture();
  connectSections();
  connect(dials_, &Dials::valueChanged, this, [this](std::size_t parameter, const ParameterValue& value, bool gesture) {
    const auto stage = selectedStage();
    if (!stage) return;
    if (!gesture) document_->endGesture();
    setDial(parameter, value);
    gesture ? document_->endGestureSoon() : document_->endGesture();
  });
  connect(dials_, &Dials::keyToggled, this, &Bench::toggleKey);
  connect(dials_, &Dials::keysRemoved, this, &Bench::removeKeys);
  connect(dials_, &Dials::gestureEnded, document_, &Document::endGesture);
  connect(dials_, &Dials::refused, this, &Bench::say);
  connect(dials_, &Dials::smoothChosen, this, [this] {
    apply(setInBetween(document_->project(), InBetween::Flow));
    document_->endGesture();
  });
  connect(dials_, &Dials::remedyChosen, this, [this] {
    if (const auto edit = trimToFootage(document_->project(), video()))
      apply(*edit);
    else
      say(tr("The reach is longer than the clip: no picture would be left. Shorten back or ahead."));
  });

  connect(chain_, &ChainBar::selected, this, &Bench::select);
  connect(chain_, &ChainBar::addRequested, this, &Bench::addStageMenu);
  connect(chain_, &ChainBar::menuRequested, this, &Bench::stageMenu);
  connect(chain_, &ChainBar::switched, this, [this](std::size_t tile) {
    select(tile);
    switchSelected();
  });
  connect(chain_, &ChainBar::moved, this, [this](std::size_t from, std::size_t to) {
    apply(moveStage(document_->project(), from - 1, to - 1));
    select(to);
  });
  connect(chain_, &ChainBar::renameRequested, this, [this](std::size_t tile) {
    select(tile);
    renameSelected();
  });
  connect(chain_, &ChainBar::activated, this, [this](std::size_t tile) {
    if (tile == 0) replaceDialog();
    if (tile == document_->project().chain.size() + 1) renderDialog();
  });

  connectChart();
  connect(scrubber_, &Scrubber::scrubbed, this, &Bench::seek);
  connect(scrubber_, &Scrubber::spanDragged, this, [this](std::int64_t first, std::int64_t last) {
    Edit edit = setSpan(document_->project(), first, last, "In and out");
    edit.mergeKey = "span";
    apply(edit);
  });
  connect(scrubber_, &Scrubber::spanReleased, document_, &Document::endGesture);

  connect(transport_, &Transport::toStart, this, [this] { seek(span().first); });
  connect(transport_, &Transport::toEnd, this, [this] { seek(span().last); });
  connect(transport_, &Transport::stepped, this, [this](int frames) { seek(frame_ + frames); });
  connect(transport_, &Transport::playToggled, this, &Bench::togglePlay);
  connect(transport_, &Transport::before, this, &Bench::showBefore);
  connect(transport_, &Transport::loopToggled, this, [this](bool on) {
    player_->setLoop(on);
    QSettings().setValue("loop", on);
    refreshTransport();
  });
  connect(transport_, &Transport::renderRequested, this, &Bench::renderDialog);
}

// ---- footage

void Bench::useFootage(const QString& path) {
  const QString absolute = QFileInfo(path).absoluteFilePath();
  // The same path again: what stands there now may be readable.
  if (absolute.toStdString() == asked_ && !footage_) return loadFootage();
  if (footage_) heldBefore_ = whatHolds();
  apply(replaceFootage(document_->project(), absolute.toStdString(), QFileInfo(path).fileName().toStdString()));
}

Bench::Holding Bench::whatHolds() const {
  const Project& project = document_->project();
  Holding now{piece_.endless, project.in || project.out, {}};
  for (std::size_t k = 0; k < project.chain.size(); ++k) {
    const Stage& stage = project.chain[k];
    if (!stage.on) continue;
    for (const StageNote& note : stage.kind->notes(stage.widestValues(), videoInto(k), piece_.rate))
      now.notes << text(titleOf(stage) + ": " + note.text);
  }
  if (const QString outside = outsideSentence(); !outside.isEmpty()) now.notes << outside;
  return now;
}

/// After other footage has come in place of what there was: the chain stays, but not all that was true of it.
void Bench::tellWhatNoLongerFits() {
  const Holding before = *std::exchange(heldBefore_, std::nullopt), now = whatHolds();
  QStringList all;
  if (before.endless && !now.endless) all << tr("The piece is no loop any more.");
  if (before.trimmed && !now.trimmed) all << tr("In and out were the old clip's: all of the new one is played.");
  for (const QString& note : now.notes)
    if (!before.notes.contains(note)) all << note;
  const std::size_t last = document_->project().chain.size();
  for (std::size_t k = 0; k < last; ++k) {
    const Stage& stage = document_->project().chain[k];
    const Rational end = videoInto(k).seconds();
    std::size_t beyond = 0;
    for (const auto& [parameter, track] : stage.keys)
      beyond += static_cast<std::size_t>(
          std::count_if(track.begin(), track.end(), [&](const Key& key) { return key.at > end; }));
    if (beyond > 0)
      all << tr("%1: keys lie past the end of the new clip (%2).").arg(text(titleOf(stage))).arg(beyond);
  }
  if (all.isEmpty()) return;
  const QString words = all.join(' ');
  log_->put({"replaced", words, {}});
  say(words);
}

void Bench::setFootageRate(Rational rate) {
  apply(setSourceRate(document_->project(), rate));
}

void Bench::loadFootage() {
  footage_.reset();
  player_->clear();
  smallPictures_->setFootage(nullptr);
  slices_->setFootage(nullptr);
  tracer_->setFootage(nullptr, nullptr);
  acrossReads_.clear(), downReads_.clear();
  loops_->cancel();
  costs_->cancel();
  trouble_.clear();
  welcome_->setTrouble({});
  indexing_ = -1;
  const Project& project = document_->project();
  asked_ = project.source.path;
  askedRate_ = project.source.rate;
  if (project.source.path.empty()) {
    loader_->cancel();
    welcome_->setReplacing(false);
    stage_->setCurrentWidget(welcome_);
    return;
  }
  indexing_ = 0;
  loader_->load(text(project.source.path), project.source.rate);
}

void Bench::footageOpened(const std::shared_ptr<const Footage>& footage) {
  footage_ = footage;
  indexing_ = -1;
  const PictureShape& shape = footage->shape();
  picture_->setPictureShape(shape.size, shape.pixelAspect.toDouble());
  stage_->setCurrentWidget(picture_);
  player_->setFootage(footage, options_.memoryBytes);
  smallPictures_->setFootage(footage);
  slices_->setFootage(footage);
  tracer_->setFootage(footage, player_->feed()->budget());
  log_->clear();
  shownWhere_.clear();
  for (const auto& warning : footage->warnings()) {
    log_->put({text(warning), text(warning), {}});
    say(text(warning));
  }
  projectChanged();
  if (heldBefore_) tellWhatNoLongerFits();
  picture_->setFocus();
}

/// Frames that turn out to be damaged are said once, whoever has read them.
void Bench::noticeFaults() {
  if (!footage_) return;
  const FrameFaults& faults = footage_->faults();
  for (const FrameFault fault : {FrameFault::Damaged, FrameFault::Missing, FrameFault::Changed}) {
    const auto frames = faults.frames(fault);
    if (frames.empty()) continue;
    const QString about = "faults " + QString::number(static_cast<int>(fault));
    const QString sentence = text(faults.sentence(fault, footage_->name()));
    const bool first = std::none_of(log_->lines().begin(), log_->lines().end(),
                                    [&](const LogLine& line) { return line.about == about; });
    log_->put({about, sentence, frames});
    if (first) say(tr("%1 The Log (Ctrl+L) shows where.").arg(sentence));
  }
}

/// Marks the pictures that show one of these frames of the footage, and goes to the first of them.
void Bench::showWhere(const std::vector<std::int32_t>& frames) {
  shownWhere_.clear();
  if (!footage_ || !reading_) return;
  for (std::int64_t n = 0; n < length(); ++n) {
    const MomentReads reads = reading_->at(piece_.moment(n).pictures());
    const auto least = static_cast<std::int32_t>(std::floor(reads.least)),
               most = static_cast<std::int32_t>(std::ceil(reads.most));
    const auto first = std::lower_bound(frames.begin(), frames.end(), least);
    if (first != frames.end() && *first <= most) shownWhere_.push_back(n);
  }
  if (shownWhere_.empty())
    say(tr("No picture of the result reads these frames."));
  else
    seek(shownWhere_.front());
  refreshTransport();
}

void Bench::footageFailed(const QString& sentence) {
  heldBefore_.reset();
  indexing_ = -1;
  footage_.reset();
  player_->clear();
  welcome_->setTrouble(sentence);
  welcome_->setReplacing(true);
  stage_->setCurrentWidget(welcome_);
  projectChanged();
}

void Bench::showTrouble(const QString& sentence) {
  welcome_->setTrouble(sentence);
}

void Bench::closeEvent(QCloseEvent* event) {
  if (render_ && render_->running() && options_.askQuestions) {
    if (ask(tr("Still rendering"), tr("A render is going on. Closing cancels it; nothing will be written."),
            {tr("Cancel the render and close"), tr("Go on rendering")}) != 0)
      return event->ignore();
  }
  if (!mayLeave()) return event->ignore();
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
  openPath(urls[0].toLocalFile());
}

}  // namespace molten

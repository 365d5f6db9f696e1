#include "app/live/live_room.h"

#include <QAction>
#include <QActionGroup>
#include <QGuiApplication>
#include <QJsonDocument>
#include <QJsonObject>
#include <QMenu>
#include <QScreen>
#include <cmath>

#include "app/commands/commands.h"
#include "app/live/clean_window.h"
#include "app/live/live_keeping.h"
#include "app/live/live_panel.h"
#include "app/picture/picture_view.h"
#include "app/picture/viewing.h"
#include "app/playback/player.h"
#include "core/picture/blank.h"
#include "core/project/reel.h"

namespace molten {
namespace {

constexpr int tellEvery = 200;  // milliseconds

/// A picture of the screen's pixels, as large as fits.
QImage imageOf(Converter& converter, const Picture& picture, Size room) {
  const PictureShape& shape = picture.shape();
  const double aspect = shape.pixelAspect.toDouble() * shape.size.width / shape.size.height;
  Size size = room;
  if (size.width > size.height * aspect)
    size.width = std::max(1, static_cast<int>(size.height * aspect + 0.5));
  else
    size.height = std::max(1, static_cast<int>(size.width / aspect + 0.5));
  auto image = toScreen(converter, picture, size, Scaling::Screen);
  if (!image) return {};
  auto* const held = new ScreenImage(std::move(*image));
  return QImage(
      reinterpret_cast<const uchar*>(held->pixels.data()), held->size.width, held->size.height, held->size.width * 4, QImage::Format_ARGB32_Premultiplied,
      [](void* of) { delete static_cast<ScreenImage*>(of); }, held);
}

}  // namespace

LiveRoom::LiveRoom(Session& session, Player& player, Viewing& viewing, const Views& views, std::size_t memoryBytes, QWidget& window)
    : QObject(&window),
      session_(session),
      player_(player),
      viewing_(viewing),
      views_(views),
      window_(window),
      clean_(new CleanWindow),
      keeping_(new LiveKeeping(session, this)) {
  setMemory(memoryBytes);
  telling_.setInterval(tellEvery);
  connect(&telling_, &QTimer::timeout, this, &LiveRoom::tell);
  connect(&session_, &Session::changed, this, &LiveRoom::setChain);
  connect(&views_.panel, &LivePanel::cameraChosen, this, &LiveRoom::begin);
  connect(&views_.panel, &LivePanel::ringChosen, this, [this](const RingSettings& settings) {
    ring_ = settings;
    if (run_) run_->setRing(ring_);
    tell();
  });
  connect(&views_.panel, &LivePanel::endWanted, this, &LiveRoom::end);
  connect(&views_.panel, &LivePanel::fullScreenWanted, this, &LiveRoom::fillScreen);
  connect(&views_.panel, &LivePanel::recordWanted, this, [this](LiveKeeping::What what, bool on) {
    keeping_->record(what, on);
    tell();
  });
  connect(&views_.panel, &LivePanel::keepWanted, keeping_, &LiveKeeping::keepLast);
  connect(&views_.panel, &LivePanel::stillWanted, keeping_, &LiveKeeping::still);
  connect(keeping_, &LiveKeeping::said, &session_, &Session::said);
  connect(keeping_, &LiveKeeping::changed, this, &LiveRoom::tell);
  connect(keeping_, &LiveKeeping::kept, this, [this](const QString& clip) {
    end();
    session_.useFootage(clip);
  });
  connect(&player_, &Player::begins, this, [this] {
    if (on()) player_.stop();
  });
  connect(&session_, &Session::footageInSight, this, [this] { player_.rest(on()); });
  connect(clean_, &CleanWindow::sizeWanted, this, [this](Size size) {
    {
      const std::scoped_lock lock(mutex_);
      cleanWanted_ = size;
    }
    want();
  });
  connect(&views_.picture, &PictureView::viewChanged, this, &LiveRoom::want);
}

LiveRoom::~LiveRoom() {
  run_.reset();
  keeping_->stopAll();
  delete clean_;
}

void LiveRoom::fill(Commands& commands, QMenu* menu) {
  onAction_ = commands.add(menu, tr("Live on a camera"), QKeySequence("Ctrl+G"), [this] { on() ? end() : begin(camera_); });
  onAction_->setCheckable(true);
  commands.add(menu, tr("Full screen"), QKeySequence("F11"), [this] { fillScreen(); });
  QMenu* const screens = menu->addMenu(tr("On the screen"));
  connect(screens, &QMenu::aboutToShow, this, [this, screens] {
    screens->clear();
    for (QScreen* const screen : QGuiApplication::screens()) {
      QAction* const one = screens->addAction(tr("%1, %2 × %3").arg(screen->name()).arg(screen->size().width()).arg(screen->size().height()));
      connect(one, &QAction::triggered, this, [this, screen] {
        clean_->setOwnScreen(screen);
        fillScreen();
      });
    }
  });
  menu->addSeparator();
  QAction* const mirrored = commands.add(menu, tr("Mirrored"), {}, [this] { clean_->setMirrored(!clean_->mirrored()); });
  mirrored->setCheckable(true);
  QMenu* const turns = menu->addMenu(tr("Turned"));
  auto* const group = new QActionGroup(turns);
  for (const int degrees : {0, 90, 180, 270}) {
    QAction* const turn = turns->addAction(degrees == 0 ? tr("Not turned") : tr("By %1° to the right").arg(degrees));
    turn->setCheckable(true);
    turn->setChecked(degrees == 0);
    group->addAction(turn);
    connect(turn, &QAction::triggered, this, [this, degrees] { clean_->setTurned(degrees); });
  }
  menu->addSeparator();
  commands.add(menu, tr("Record what is shown"), {}, [this] { keeping_->record(LiveKeeping::What::Shown, !keeping_->records(LiveKeeping::What::Shown)); });
  commands.add(menu, tr("Record what comes in"), {}, [this] { keeping_->record(LiveKeeping::What::Incoming, !keeping_->records(LiveKeeping::What::Incoming)); });
  commands.add(menu, tr("Keep the last seconds as footage"), {}, [this] { keeping_->keepLast(); });
  commands.add(menu, tr("A still of now"), {}, [this] { keeping_->still(); });
  commands.tell("Esc", tr("leaves the full screen of Live"));
}

void LiveRoom::setMemory(std::size_t bytes) {
  memoryBytes_ = bytes;
  // The clip keeps one half, and what pictures are made of some of the other.
  ring_.bytes = bytes / 3;
  if (run_) run_->setRing(ring_);
}

LiveChain LiveRoom::chain() const {
  const Project whole = session_.isReel() ? shotAt(session_.whole(), session_.shot()) : session_.whole();
  LiveChain live{whole.chain, whole.source.between};
  const Chain& after = session_.whole().reelChain;
  if (session_.isReel()) live.stages.insert(live.stages.end(), after.begin(), after.end());
  return live;
}

void LiveRoom::setChain() {
  if (run_) run_->setChain(chain());
}

void LiveRoom::begin(const CameraChoice& camera) {
  camera_ = camera;
  if (run_) {
    run_->setCamera(camera);
    return tell();
  }
  if (session_.whole().source.path.empty()) {
    Blank blank;
    blank.size = camera.size.value_or(Size{1280, 720});
    blank.rate = camera.rate.value_or(Rational(30));
    session_.useFootage(QString::fromStdString(blankPath(blank)));
  }
  player_.rest(true);
  session_.setOnCamera(true);
  viewing_.suspend(true);
  {
    const std::scoped_lock lock(mutex_);
    newest_.reset();
    posted_ = false;
  }
  want();
  LiveOptions options;
  options.budget = std::make_shared<MemoryBudget>(memoryBytes_ / 2);
  run_ = std::make_unique<LiveRun>(
      camera_, ring_, chain(), options, [this](const LivePicture& picture) { arrived(picture); },
      [this](const CameraFrame& frame, std::int32_t number, Rational rate) { keeping_->came(frame, number, rate); });
  keeping_->setRun(run_.get());
  telling_.start();
  if (onAction_) onAction_->setChecked(true);
  emit switched(true);
  tell();
}

void LiveRoom::end() {
  if (onAction_) onAction_->setChecked(false);
  if (!run_) return;
  telling_.stop();
  clean_->leave();
  run_.reset();
  keeping_->setRun(nullptr);
  keeping_->record(LiveKeeping::What::Shown, false);
  keeping_->record(LiveKeeping::What::Incoming, false);
  player_.rest(false);
  session_.setOnCamera(false);
  viewing_.suspend(false);
  emit switched(false);
}

void LiveRoom::fillScreen() {
  if (clean_->isVisible()) return clean_->leave();
  if (!run_) begin(camera_);
  clean_->fill(window_.screen());
}

/// How large pictures are wanted on the Bench: not at all where the clean window covers it.
void LiveRoom::want() {
  const bool covered = clean_->isVisible() && clean_->screen() == window_.screen();
  const std::scoped_lock lock(mutex_);
  wanted_ = covered ? Size() : views_.picture.wantedSize();
}

/// On the thread that makes pictures.
void LiveRoom::arrived(const LivePicture& picture) {
  Size wanted, clean;
  {
    const std::scoped_lock lock(mutex_);
    wanted = wanted_;
    clean = cleanWanted_;
  }
  Arrived next{picture, {}, {}};
  if (wanted.width > 0 && wanted.height > 0) next.image = imageOf(converter_, picture.picture, wanted);
  if (clean.width > 0 && clean.height > 0) next.clean = imageOf(converter_, picture.picture, clean);
  keeping_->made(picture);
  const std::scoped_lock lock(mutex_);
  newest_ = std::move(next);
  if (std::exchange(posted_, true)) return;
  inbox_.post([this] { showNewest(); });
}

void LiveRoom::showNewest() {
  std::optional<Arrived> next;
  {
    const std::scoped_lock lock(mutex_);
    next = std::exchange(newest_, std::nullopt);
    posted_ = false;
  }
  if (!run_ || !next) return;
  const PictureShape& shape = next->live.picture.shape();
  if (!next->image.isNull()) {
    views_.picture.setPictureShape({shape.size.width * next->live.scale, shape.size.height * next->live.scale}, shape.pixelAspect.toDouble());
    views_.picture.setImage(next->image);
  }
  if (clean_->isVisible() && !next->clean.isNull())
    clean_->showNow(next->clean);
  else
    views_.picture.repaint();
  run_->shown(next->live);
  emit pictureShown();
}

QString LiveRoom::stateLine() const {
  if (!run_) return tr("Live is off.");
  const LiveState state = run_->state();
  return tr("%1 × %2 at %3 · shown %4 · late %5 · lost %6 · passed over %7 · %8 ms from arrival to the screen%9")
      .arg(state.size.width)
      .arg(state.size.height)
      .arg(QString::fromStdString(rateText(state.rate)))
      .arg(state.shown)
      .arg(state.late)
      .arg(state.lost)
      .arg(state.passedOver)
      .arg(state.toScreen * 1000, 0, 'f', 0)
      .arg(state.reach.ahead > 0 ? tr(" and %1 s that the chain reaches ahead").arg(state.reach.ahead, 0, 'g', 3) : QString());
}

QString LiveRoom::troubles(const LiveState& state) const {
  QStringList all;
  for (const std::string& sentence : {state.trouble, state.chainTrouble})
    if (!sentence.empty()) all << QString::fromStdString(sentence);
  for (const std::string& sentence : state.leftOut) all << tr("Left out: %1").arg(QString::fromStdString(sentence));
  return all.join(" ");
}

std::optional<LiveState> LiveRoom::state() const {
  return run_ ? std::optional(run_->state()) : std::nullopt;
}

QByteArray LiveRoom::statusJson() const {
  QJsonObject json{{"running", run_ != nullptr}};
  if (run_) {
    const LiveState state = run_->state();
    const auto count = [](std::int64_t frames) { return static_cast<qint64>(frames); };
    json["camera"] = QJsonObject{{"there", state.there}, {"width", state.size.width}, {"height", state.size.height}, {"rate", state.rate.toDouble()}, {"found-again", count(state.found)}};
    json["seconds"] = state.seconds;
    json["frames"] = QJsonObject{{"taken", count(state.taken())}, {"shown", count(state.shown)}, {"late", count(state.late)}, {"lost", count(state.lost)},
                                 {"passed-over", count(state.passedOver)}, {"on-the-way", count(state.onTheWay)}};
    json["milliseconds-to-screen"] = std::round(state.toScreen * 1e5) / 100;
    json["held"] = QJsonObject{{"seconds", state.ring.held}, {"wanted-seconds", state.ring.wanted}, {"fitting-seconds", state.ring.fits}, {"bytes", count(static_cast<std::int64_t>(state.ring.bytes))}};
    json["troubles"] = troubles(state);
  }
  json["recording"] = keeping_->line();
  return QJsonDocument(json).toJson(QJsonDocument::Compact);
}

QString LiveRoom::logLine() const {
  QStringList parts{stateLine()};
  if (run_) parts << troubles(run_->state());
  parts << keeping_->line();
  parts.removeAll(QString());
  return parts.join(" · ");
}

void LiveRoom::tell() {
  if (!run_) return;
  const LiveState state = run_->state();
  views_.panel.tell({camera_, ring_, state, stateLine(), troubles(state), keeping_->line(), keeping_->records(LiveKeeping::What::Shown),
                     keeping_->records(LiveKeeping::What::Incoming), keeping_->keeping()});
}

}  // namespace molten

#include "app/live/live_panel.h"

#include <QBoxLayout>
#include <QAbstractItemView>
#include <QComboBox>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QSignalBlocker>
#include <QToolButton>

#include "app/files/file_choice.h"
#include "app/live/ring_bar.h"
#include "app/theme/parts.h"
#include "app/theme/value_field.h"

namespace molten {
namespace {

const Size usualSizes[] = {{640, 360}, {960, 540}, {1280, 720}, {1920, 1080}};
const Rational usualRates[] = {24, 25, 30, 50, 60};
constexpr const char* clipEntry = "a clip";

QComboBox* choices(const QString& name, const QString& help, const QStringList& entries = {}) {
  auto* const box = new QComboBox;
  box->setAccessibleName(name);
  box->setToolTip(help);
  box->addItems(entries);
  box->setFocusPolicy(Qt::StrongFocus);
  return box;
}

QPushButton* button(const QString& name, const QString& help, bool checkable = false) {
  auto* const made = new QPushButton(name);
  made->setToolTip(help);
  made->setCheckable(checkable);
  return made;
}

QString sizeText(Size size) {
  return QString("%1 × %2").arg(size.width).arg(size.height);
}

QLabel* label(const QString& words) {
  auto* const made = new QLabel(words);
  made->setProperty("dim", true);
  return made;
}

QHBoxLayout* row() {
  auto* const made = new QHBoxLayout;
  made->setSpacing(6);
  return made;
}

}  // namespace

LivePanel::LivePanel(QWidget* parent)
    : QWidget(parent),
      looking_([](int, std::stop_token) { return listCameras(); },
               [this](const std::vector<CameraOffer>& offers) {
                 offers_ = offers;
                 fillCameras();
               }) {
  setObjectName("livePanel");
  auto* const column = new QVBoxLayout(this);
  column->setContentsMargins(12, 8, 12, 8);
  column->setSpacing(6);
  auto* const first = row();
  auto* const second = row();
  auto* const third = row();
  makeCameraRow(first);
  makeRingRow(second);
  makeKeepingRow(third);
  ring_ = new RingBar;
  // It has a place of its own, so that nothing moves when there is something to say.
  trouble_ = new theme::OneLine;
  trouble_->setObjectName("liveTrouble");
  trouble_->setProperty("notice", true);
  line_ = new theme::OneLine;
  line_->setObjectName("liveLine");
  column->addLayout(first);
  column->addWidget(ring_);
  column->addLayout(second);
  column->addLayout(third);
  column->addWidget(line_);
  column->addWidget(trouble_);
  offers_ = {{std::string(simulatedCamera), "Simulated camera", {}}};
  fillCameras();
}

QSize LivePanel::sizeHint() const {
  return {600, 190};
}

void LivePanel::makeCameraRow(QLayout* into) {
  cameras_ = choices(tr("Camera"), tr("What the chain runs on"));
  cameras_->setMinimumWidth(180);
  sizes_ = choices(tr("Size"), tr("Of the camera's pictures"));
  rates_ = choices(tr("Rate"), tr("Frames a second of the camera"));
  troubles_ = new QToolButton;
  troubles_->setText(tr("Troubles"));
  troubles_->setProperty("small", true);
  troubles_->setToolTip(tr("What goes wrong with the simulated camera, to rehearse it"));
  troubles_->setPopupMode(QToolButton::InstantPopup);
  troublesMenu_ = new QMenu(troubles_);
  troubles_->setMenu(troublesMenu_);
  auto* const fill = button(tr("Full screen"), tr("The picture alone on a whole screen (F11); Esc leaves"));
  fill->setObjectName("fullScreen");
  auto* const end = button(tr("End live"), tr("Back to the clip (Ctrl+G)"));
  end->setObjectName("endLive");
  auto* const line = static_cast<QHBoxLayout*>(into);
  line->addWidget(label(tr("Camera")));
  line->addWidget(cameras_);
  line->addWidget(sizes_);
  line->addWidget(rates_);
  line->addWidget(troubles_);
  line->addStretch(1);
  line->addWidget(fill);
  line->addWidget(end);
  connect(fill, &QPushButton::clicked, this, &LivePanel::fullScreenWanted);
  connect(end, &QPushButton::clicked, this, &LivePanel::endWanted);
  connect(cameras_, &QComboBox::activated, this, [this](int at) {
    if (cameras_->itemData(at).toString() == clipEntry) return chooseClip();
    choose([&](CameraChoice& camera) {
      const std::string id = cameras_->itemData(at).toString().toStdString();
      if (id != camera.id) camera = CameraChoice{id};
    });
  });
  connect(sizes_, &QComboBox::activated, this, [this](int at) {
    choose([&](CameraChoice& camera) {
      const QSize size = sizes_->itemData(at).toSize();
      camera.size = size.isEmpty() ? std::nullopt : std::optional<Size>({size.width(), size.height()});
    });
  });
  connect(rates_, &QComboBox::activated, this, [this](int at) {
    choose([&](CameraChoice& camera) { camera.rate = parseRational(rates_->itemData(at).toString().toStdString()); });
  });
  connect(troublesMenu_, &QMenu::aboutToShow, this, &LivePanel::fillTroubles);
}

void LivePanel::makeRingRow(QLayout* into) {
  seconds_ = new ValueField([this](const QString& words) -> Taken {
    bool ok = false;
    QString number = words;
    const double seconds = number.remove('s').trimmed().replace(',', '.').toDouble(&ok);
    if (!ok || !(seconds >= 0.1) || seconds > 3600) return {false, tr("Seconds, from 0.1 to 3600")};
    chooseRing([&](RingSettings& ring) { ring.seconds = seconds; });
    return {};
  });
  seconds_->setAccessibleName(tr("Holds"));
  seconds_->setToolTip(tr("How many seconds the ring is to hold, if they fit"));
  seconds_->setObjectName("ringSeconds");
  seconds_->setFixedWidth(64);
  connect(seconds_, &ValueField::stepped, this, [this](int steps) { chooseRing([&](RingSettings& ring) { ring.seconds = std::clamp(ring.seconds + steps, 1.0, 3600.0); }); });
  every_ = choices(tr("Keeps"), tr("Which frames stay in the ring; now is always now"), {tr("every frame"), tr("every 2nd frame"), tr("every 3rd frame"), tr("every 4th frame")});
  smaller_ = choices(tr("As large"), tr("How large frames stay in the ring"), {tr("full size"), tr("half the size"), tr("a quarter of the size")});
  colour_ = choices(tr("Colour"), tr("How colours stay in the ring"), {tr("colour as it comes"), tr("colour in 4:2:0")});
  auto* const line = static_cast<QHBoxLayout*>(into);
  line->addWidget(label(tr("Ring holds")));
  line->addWidget(seconds_);
  line->addWidget(label(tr("keeps")));
  line->addWidget(every_);
  line->addWidget(smaller_);
  line->addWidget(colour_);
  line->addStretch(1);
  connect(every_, &QComboBox::activated, this, [this](int at) { chooseRing([&](RingSettings& ring) { ring.everyNth = at + 1; }); });
  connect(smaller_, &QComboBox::activated, this, [this](int at) { chooseRing([&](RingSettings& ring) { ring.smaller = 1 << at; }); });
  connect(colour_, &QComboBox::activated, this, [this](int at) { chooseRing([&](RingSettings& ring) { ring.lessColour = at == 1; }); });
}

void LivePanel::makeKeepingRow(QLayout* into) {
  shown_ = button(tr("Record what is shown"), tr("Into a new file, which can be played up to the last half second whatever happens"), true);
  shown_->setObjectName("recordShown");
  incoming_ = button(tr("Record what comes in"), tr("The camera's own pictures, before the chain"), true);
  incoming_->setObjectName("recordIncoming");
  keep_ = button({}, tr("What the ring holds becomes a clip, and the Bench goes on with that"));
  keep_->setObjectName("keepLast");
  auto* const still = button(tr("Still of now"), tr("The picture that is shown, as a PNG"));
  still->setObjectName("still");
  kept_ = new theme::OneLine;
  auto* const line = static_cast<QHBoxLayout*>(into);
  for (QPushButton* const one : {shown_, incoming_, keep_, still}) line->addWidget(one);
  line->addWidget(kept_, 1);
  connect(shown_, &QPushButton::clicked, this, [this](bool on) { emit recordWanted(LiveKeeping::What::Shown, on); });
  connect(incoming_, &QPushButton::clicked, this, [this](bool on) { emit recordWanted(LiveKeeping::What::Incoming, on); });
  connect(keep_, &QPushButton::clicked, this, &LivePanel::keepWanted);
  connect(still, &QPushButton::clicked, this, &LivePanel::stillWanted);
}

void LivePanel::showEvent(QShowEvent*) {
  // Cameras come and go.
  looking_.ask(0);
}

void LivePanel::fillCameras() {
  const QSignalBlocker blocked(cameras_);
  cameras_->clear();
  for (const CameraOffer& offer : offers_)
    cameras_->addItem(offer.id == simulatedCamera ? tr("Simulated camera") : QString::fromStdString(offer.name), QString::fromStdString(offer.id));
  const QString chosen = QString::fromStdString(told_.camera.id);
  if (cameras_->findData(chosen) < 0) cameras_->addItem(chosen.section('/', -1), chosen);
  cameras_->addItem(tr("A clip as camera…"), QString(clipEntry));
  cameras_->setCurrentIndex(cameras_->findData(chosen));
  fillModes();
}

void LivePanel::fillModes() {
  const QSignalBlocker blockedSizes(sizes_), blockedRates(rates_);
  sizes_->clear();
  rates_->clear();
  const auto offer = std::find_if(offers_.begin(), offers_.end(), [&](const CameraOffer& one) { return one.id == told_.camera.id; });
  const bool any = offer != offers_.end() && offer->modes.empty(), clip = offer == offers_.end();
  sizes_->addItem(told_.state.size.width > 0 ? sizeText(told_.state.size) : tr("its own size"), QSize());
  rates_->addItem(told_.state.there ? tr("%1 fps").arg(QString::fromStdString(rateText(told_.state.rate))) : tr("its own rate"), QString());
  const auto addSize = [&](Size size) {
    if (!(size == told_.state.size)) sizes_->addItem(sizeText(size), QSize(size.width, size.height));
  };
  const auto addRate = [&](Rational rate) {
    if (rate != told_.state.rate) rates_->addItem(tr("%1 fps").arg(QString::fromStdString(rateText(rate))), QString::fromStdString(rationalText(rate)));
  };
  if (any) {
    for (const Size size : usualSizes) addSize(size);
    for (const Rational rate : usualRates) addRate(rate);
  } else if (!clip) {
    for (const CameraMode& mode : offer->modes) addSize(mode.size);
    for (const CameraMode& mode : offer->modes)
      if (mode.size == told_.state.size)
        for (const Rational rate : mode.rates) addRate(rate);
  }
  sizes_->setEnabled(!clip);
  rates_->setEnabled(!clip);
  troubles_->setVisible(told_.camera.id == simulatedCamera);
}

void LivePanel::fillTroubles() {
  troublesMenu_->clear();
  const auto add = [this](const QString& words, bool on, const std::function<void(CameraTroubles&)>& change) {
    QAction* const action = troublesMenu_->addAction(words);
    action->setCheckable(true);
    action->setChecked(on);
    connect(action, &QAction::triggered, this, [this, change] { choose([&](CameraChoice& camera) { change(camera.troubles); }); });
  };
  const CameraTroubles& now = told_.camera.troubles;
  add(tr("One frame in ten comes late"), now.late > 0, [](CameraTroubles& its) { its.late = its.late > 0 ? 0 : 0.1; });
  add(tr("One frame in twenty is lost"), now.lost > 0, [](CameraTroubles& its) { its.lost = its.lost > 0 ? 0 : 0.05; });
  add(tr("Frames are taken irregularly"), now.irregular, [](CameraTroubles& its) { its.irregular = !its.irregular; });
  add(tr("It comes off every ten seconds"), now.comesOffAfter > 0, [](CameraTroubles& its) { its.comesOffAfter = its.comesOffAfter > 0 ? 0 : 10; });
  troublesMenu_->addSeparator();
  add(tr("Its frames carry their numbers"), now.numbered, [](CameraTroubles& its) { its.numbered = !its.numbered; });
}

void LivePanel::chooseClip() {
  const QString clip = chooseFile(this, tr("A clip that plays as a camera"));
  fillCameras();
  if (!clip.isEmpty()) emit cameraChosen(CameraChoice{clip.toStdString()});
}

void LivePanel::choose(const std::function<void(CameraChoice&)>& change) {
  CameraChoice camera = told_.camera;
  change(camera);
  if (!(camera == told_.camera)) emit cameraChosen(camera);
}

void LivePanel::chooseRing(const std::function<void(RingSettings&)>& change) {
  RingSettings ring = told_.ring;
  change(ring);
  if (!(ring == told_.ring)) emit ringChosen(ring);
}

void LivePanel::tell(const Told& told) {
  const bool other = !(told.camera == told_.camera) || !(told.state.size == told_.state.size) || told.state.rate != told_.state.rate || told.state.there != told_.state.there;
  told_ = told;
  // Not under an open list.
  if (other && !cameras_->view()->isVisible() && !sizes_->view()->isVisible() && !rates_->view()->isVisible()) fillCameras();
  ring_->tell(told.state);
  seconds_->setValueText(tr("%1 s").arg(told.ring.seconds, 0, 'g', 4));
  every_->setCurrentIndex(told.ring.everyNth - 1);
  smaller_->setCurrentIndex(told.ring.smaller / 2);
  colour_->setCurrentIndex(told.ring.lessColour ? 1 : 0);
  shown_->setChecked(told.recordsShown);
  shown_->setText(told.recordsShown ? tr("Stop recording what is shown") : tr("Record what is shown"));
  incoming_->setChecked(told.recordsIncoming);
  incoming_->setText(told.recordsIncoming ? tr("Stop recording what comes in") : tr("Record what comes in"));
  keep_->setText(tr("Keep the last %1 s").arg(told.state.ring.held, 0, 'f', 0));
  keep_->setEnabled(!told.keeping && told.state.ring.frames > 0);
  line_->setWords(told.line);
  kept_->setWords(told.kept);
  trouble_->setWords(told.trouble);
}

}  // namespace molten

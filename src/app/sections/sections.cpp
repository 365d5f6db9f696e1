#include "app/sections/sections.h"

#include <QSettings>
#include <cmath>
#include <utility>

#include "app/chart/chart_plot.h"
#include "app/picture/viewing.h"
#include "app/playback/player.h"
#include "app/sections/bands.h"
#include "app/sections/slices.h"
#include "app/sections/tracer.h"
#include "app/session/stage_edits.h"

namespace molten {

Sections::Sections(Session& session, Player& player, Viewing& viewing, const Views& views, QObject* parent)
    : QObject(parent),
      session_(session),
      player_(player),
      viewing_(viewing),
      views_(views),
      slices_(new Slices(this)),
      tracer_(new Tracer(this)),
      moments_(session, player) {
  wanted_ = QSettings().value("sections", true).toBool();
  stillTimer_.setSingleShot(true);
  stillTimer_.setInterval(200);
  connect(&stillTimer_, &QTimer::timeout, this, &Sections::ask);
  connect(slices_, &Slices::grown, this, &Sections::refreshSlices);
  connect(slices_, &Slices::cut, this, [this](const QImage& across, const QImage& down) {
    views_.across.setSlice(across);
    views_.down.setSlice(down);
    cutting_ = false;
    if (std::exchange(cutAgain_, false)) refreshSlices();
  });
  connect(tracer_, &Tracer::answered, this, &Sections::tell);
  connect(&session_, &Session::footageLeaves, this, [this] {
    cutting_ = cutAgain_ = false;
    slices_->setFrames(nullptr);
    tracer_->setFootage(nullptr);
    moments_.forget();
    pull_.reset();
    acrossReads_.clear(), downReads_.clear();
    zoomed_.reset();
    refresh();
  });
  connect(&session_, &Session::footageInSight, this, [this] {
    cutting_ = cutAgain_ = false;
    slices_->setFrames(player_.sources()->feed());
  });
  connect(&session_, &Session::footageArrived, this, [this] {
    tracer_->setFootage(player_.sources());
  });
  connect(&viewing_, &Viewing::refreshed, this, [this] {
    ask();
    // A frame may lie elsewhere now.
    const bool warps = session_.footage() && session_.reading()->warps();
    if (std::exchange(warped_, warps) || warps) refreshSlices();
    // While it plays, they move when it is known what is read.
    if (!player_.playing()) refresh();
  });
  connect(&views_.picture, &PictureView::marksMoved, this, &Sections::mark);
  connect(&views_.picture, &PictureView::panned, this, &Sections::refresh);
  connect(&views_.picture, &PictureView::handleMoved, this, [this] {
    if (!std::exchange(handleInHand_, true)) ask();
  });
  connect(&views_.picture, &PictureView::handleReleased, this, [this] {
    handleInHand_ = false;
    if (!fieldWanted()) views_.picture.setField({}, {});
    ask();
  });
  connect(&views_.picture, &PictureView::pointedAt, this, &Sections::pointAt);
  connect(&views_.bands, &Bands::arranged, this, &Sections::refresh);
  connectSection(views_.across);
  connectSection(views_.down);
  viewing_.lay([this](PictureState& state) { lay(state); });
}

void Sections::connectSection(SectionView& section) {
  const bool isAcross = &section == &views_.across;
  const auto place = [this, isAcross](double along) {
    return isAcross ? Place{along, marks_.y} : Place{marks_.x, along};
  };
  connect(&section, &SectionView::markMoved, this, [this, isAcross](double along) {
    mark(isAcross ? Place{along, marks_.y} : Place{marks_.x, along});
  });
  connect(&section, &SectionView::hovered, this,
          [this, place](std::optional<double> along) { pointAt(along ? std::optional(place(*along)) : std::nullopt); });
  connect(&section, &SectionView::pullBegan, this, [this, place](double along) { takeLine(place(along)); });
  connect(&section, &SectionView::pulled, this, [this](double, double seconds) { pull(seconds); });
  connect(&section, &SectionView::released, this, &Sections::letGo);
  connect(&section, &SectionView::zoomed, this, &Sections::zoom);
  connect(&section, &SectionView::wholeWanted, this, [this] {
    zoomed_.reset();
    refresh();
  });
}

void Sections::want(bool on) {
  wanted_ = on;
  QSettings().setValue("sections", on);
  viewing_.refresh();
}

void Sections::zoom(double by, double seconds) {
  constexpr double nearest = 0.05, farthest = 7200;  // seconds in sight
  const auto [first, last] = window();
  const double about = seconds - readsNow_, length = std::clamp((last - first) / by, nearest, farthest);
  const double part = (about - first) / (last - first);
  zoomed_ = {about - part * length, about + (1 - part) * length};
  refresh();
}

void Sections::showBorders(bool on) {
  bordersShown_ = on;
  viewing_.refresh();
}

void Sections::showField(bool on) {
  fieldShown_ = on;
  viewing_.refresh();
}

bool Sections::fieldWanted() const {
  const bool painting = views_.picture.state().tool == PictureTool::Paint;
  return displaces_ && !viewing_.bypassed() && (fieldShown_ || painting || handleInHand_);
}

void Sections::mark(Place marks) {
  marks_ = marks;
  refreshSlices();
  viewing_.refresh();
}

void Sections::pointAt(std::optional<Place> place) {
  pointed_ = place;
  if (!place) {
    pointedWords_.clear();
    pointedSeconds_.reset();
    viewing_.refreshLaid();
    refresh();
  }
  ask();
}

// ---- what the pixels read

void Sections::ask() {
  if (!session_.footage()) return;
  TraceQuestion question;
  question.chain = session_.reading()->stages();
  question.between = session_.project().source.between;
  question.sounds = session_.followed();
  question.moment = session_.piece().moment(session_.frame());
  question.row = marks_.y;
  question.column = marks_.x;
  question.hovered = pointed_ ? pointed_ : std::optional(marks_);
  // Measured when the hand is still: while it moves, or while it plays, there is better use for the time.
  const bool still = question.chain == askedChain_ && !player_.playing();
  askedChain_ = question.chain;
  if (!still) stillTimer_.start();
  if (bordersShown_ && !viewing_.bypassed()) question.steps = views_.picture.wantedSize();
  if (fieldWanted()) question.field = views_.picture.wantedSize();
  // While it moves it need not be sharp, but soon.
  if (question.field && (handleInHand_ || !still)) question.coarse = 4;
  const auto selected = session_.selectedStage();
  if (selected && session_.project().chain[*selected].on && still) question.stage = session_.placeOn(*selected);
  tracer_->ask(question);
}

void Sections::tell(const TraceAnswer& answer) {
  const double rate = session_.video().rate.toDouble();
  acrossReads_ = answer.across;
  downReads_ = answer.down;
  readsNow_ = answer.now / rate;
  views_.picture.setSteps(answer.steps);
  // One that is no longer wanted is not shown for the time that the next answer takes.
  std::vector<PictureLabel> labels;
  for (const FieldLabel& label : answer.field.labels)
    labels.push_back({label.place, QString::fromStdString(momentText(label.seconds))});
  views_.picture.setField(fieldWanted() ? answer.field.image : QImage(), std::move(labels));
  if (const auto place = pointed_.value_or(marks_); answer.hovered && answer.question.hovered == place) {
    const double seconds = answer.hovered->position / rate, beside = seconds - readsNow_;
    const Size size = session_.video().size;
    const QString where = tr("x %1 y %2")
                              .arg(static_cast<int>(place.x * size.width))
                              .arg(static_cast<int>(place.y * size.height)),
                  frame = answer.hovered->frame == noFrame ? tr("no frame") : tr("frame %1").arg(answer.hovered->frame),
                  moment = QString::fromStdString(momentText(beside));
    cornerWords_ = QStringList{where, frame, moment}.join('\n');
    if (pointed_) {
      pointedWords_ =
          QStringList{where, frame, QString::fromStdString(secondsText(seconds)), moment}.join(" · ");
      pointedSeconds_ = seconds;
    }
  }
  if (answer.widths) emit widthsMeasured(*answer.widths);
  viewing_.refreshLaid();
  refresh();
}

void Sections::lay(PictureState& state) const {
  // With what is being laid, not with what lies there still. Whoever paints asks for it as well.
  state.field = state.field || (displaces_ && !viewing_.bypassed() && (fieldShown_ || handleInHand_));
  if (inSight_) state.marks = marks_;
  // Where the bands meet it is said already.
  else state.pointed = pointedWords_;
  if (pointed_ && !views_.picture.underMouse()) state.ring = pointed_;
}

// ---- the line in hand

void Sections::takeLine(Place place) {
  const auto stage = session_.selectedStage();
  if (!stage) return;
  pull_ =
      Pull{session_.project().chain[*stage].keyedAt(session_.stageMoment(*stage).toDouble()), {}, {}, false, window()};
  moments_.find(*stage, place, [this](double seconds) {
    if (!pull_) return;
    pull_->at = seconds;
    if (pull_->by) pull(*pull_->by);
    if (pull_ && pull_->over) letGo();
  });
}

void Sections::pull(double seconds) {
  const auto stage = session_.selectedStage();
  if (!stage || !pull_) return;
  pull_->by = seconds;
  if (!pull_->at) return;
  const StageKind& kind = *session_.project().chain[*stage].kind;
  changeStage(session_, *stage, kind.pulled(pull_->from, *pull_->at, seconds), "pull");
}

void Sections::letGo() {
  // What was pulled before it was known from where is still to come.
  if (pull_ && pull_->by && !pull_->at) {
    pull_->over = true;
    return;
  }
  pull_.reset();
  session_.document().endGesture();
  refresh();
}

// ---- Across and Down

void Sections::refreshSlices() {
  const QSize size = slices_->size();
  if (size.isEmpty() || !inSight_) return;
  // One after another: while it plays, the newest alone would never be ready.
  if (cutting_) {
    cutAgain_ = true;
    return;
  }
  cutting_ = true;
  // Where the footage shows what stands along the marked row and column.
  const ChainReading& reading = *session_.reading();
  const Moment moment = session_.piece().moment(session_.frame());
  const auto along = [&](int count, bool row) {
    std::vector<Place> places;
    for (int i = 0; i < count; ++i) {
      const double at = (i + 0.5) / count;
      places.push_back(reading.placeInto(0, row ? Place{at, marks_.y} : Place{marks_.x, at}, moment));
    }
    return places;
  };
  slices_->ask(along(size.width(), true), along(size.height(), false));
}

std::pair<double, double> Sections::window() const {
  if (pull_) return pull_->window;
  if (zoomed_) return *zoomed_;
  // What is read, with some room on both sides.
  constexpr double leastRoom = 0.15, share = 0.25;
  const double rate = session_.video().rate.toDouble();
  const MomentReads reads = session_.reading()->at(session_.piece().moment(session_.frame()).pictures());
  const double first = std::min(0.0, (reads.least - reads.now) / rate), last = std::max(0.0, (reads.most - reads.now) / rate);
  const double room = std::max(leastRoom, (last - first) * share);
  return {first - room, last + room};
}

void Sections::refresh() {
  const bool footage = session_.footage() != nullptr;
  displaces_ = false;
  for (std::size_t k = 0; footage && k < session_.reading()->size(); ++k)
    displaces_ |= session_.reading()->map(k).displacing() != nullptr;
  if (const bool on = displaces_ && wanted_; on != inSight_) {
    inSight_ = on;
    emit inSightChanged(on);
    refreshSlices();
  }
  if (footage) views_.plot.setRing(pointed_ && pointedSeconds_ ? pointedSeconds_ : std::nullopt);
  if (!inSight_) return;
  const double rate = session_.video().rate.toDouble();
  SectionState common;
  common.length = session_.video().seconds().toDouble();
  common.now = readsNow_;
  common.frame = 1 / rate;
  const auto [first, last] = window();
  common.first = readsNow_ + first, common.last = readsNow_ + last;
  const auto selected = session_.selectedStage();
  common.mayPull = selected && session_.project().chain[*selected].on &&
                   session_.reading()->map(session_.placeOn(*selected)).displacing();
  common.dimmed = !common.mayPull;
  SectionState down = common;
  const QRectF target = views_.picture.target();
  down.title = tr("Down");
  down.from = target.top();
  down.to = target.bottom();
  down.marked = marks_.y;
  for (const double position : downReads_) down.reads.push_back(position / rate);
  if (pointed_ && pointedSeconds_) down.ring = {pointed_->y, *pointedSeconds_};
  views_.across.setState(across(common));
  views_.down.setState(down);
  views_.bands.setCorner(cornerWords_);
}

SectionState Sections::across(const SectionState& common) const {
  SectionState state = common;
  const VideoDescription clip = session_.video();
  state.title = tr("Across · row %1 · %2 of %3 s")
                    .arg(static_cast<int>(marks_.y * session_.reading()->outgoing().size.height))
                    .arg(common.last - common.first, 0, 'f', 1)
                    .arg(common.length, 0, 'f', 1);
  const QRectF target = views_.picture.target();
  state.from = target.left();
  state.to = target.right();
  state.marked = marks_.x;
  for (const double position : acrossReads_) state.reads.push_back(position / clip.rate.toDouble());
  if (pointed_ && pointedSeconds_) state.ring = {pointed_->x, *pointedSeconds_};
  return state;
}

}  // namespace molten

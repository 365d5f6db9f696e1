// The Bench: Across and Down, what the pixels read, and comparing.
#include <QAction>
#include <QActionGroup>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <QSettings>
#include <cmath>

#include "app/bench/bench.h"
#include "app/bench/player.h"
#include "app/chart/time_chart.h"
#include "app/dials/dials.h"
#include "app/sections/section_view.h"
#include "app/sections/slices.h"
#include "app/sections/tracer.h"

namespace molten {
namespace {

constexpr double dialsShare = 0.385;
constexpr int leastDials = 424, mostDials = 680;

}  // namespace

void Bench::connectSections() {
  stillTimer_.setSingleShot(true);
  stillTimer_.setInterval(200);
  connect(&stillTimer_, &QTimer::timeout, this, &Bench::askReads);
  connect(slices_, &Slices::grown, this, &Bench::refreshSlices);
  connect(tracer_, &Tracer::answered, this, &Bench::tellReads);
  connect(picture_, &PictureView::marksMoved, this, [this](Place marks) {
    marks_ = marks;
    refreshSlices();
    refreshPicture();
  });
  connect(picture_, &PictureView::panned, this, &Bench::refreshSections);
  connect(picture_, &PictureView::pointedAt, this, [this](std::optional<Place> place) {
    pointed_ = place;
    if (!place) clearPointed();
    askReads();
  });
  connect(chart_->plot(), &ChartPlot::viewChanged, this, &Bench::refreshSections);
  for (SectionView* section : {across_, down_}) {
    const bool across = section == across_;
    connect(section, &SectionView::markMoved, this, [this, across](double along) {
      (across ? marks_.x : marks_.y) = along;
      refreshSlices();
      refreshPicture();
    });
    connect(section, &SectionView::hovered, this, [this, across](std::optional<double> along) {
      if (along)
        pointed_ = across ? Place{*along, marks_.y} : Place{marks_.x, *along};
      else
        pointed_.reset();
      if (!along) clearPointed();
      askReads();
    });
    connect(section, &SectionView::pullBegan, this, [this, across](double along) {
      const auto stage = selectedStage();
      if (!stage) return;
      pulledFrom_ = document_->project().chain[*stage].valuesAt(stageMoment(*stage).toDouble());
      pulledAt_ = momentAt(*stage, across ? Place{along, marks_.y} : Place{marks_.x, along});
    });
    connect(section, &SectionView::pulled, this, [this](double, double seconds) {
      const auto stage = selectedStage();
      if (!stage || pulledFrom_.empty()) return;
      const Stage& held = document_->project().chain[*stage];
      const Rational at = stageMoment(*stage);
      const StageValues values = held.kind->pulled(pulledFrom_, pulledAt_, seconds);
      apply(setValuesAt(document_->project(), *stage, values, at, changeName(held, values, at),
                        "pull@" + rationalText(at)));
    });
    connect(section, &SectionView::released, document_, &Document::endGesture);
  }
}

/// Picture and Across are as wide as each other, so that their columns stand in line.
void Bench::layOut() {
  const bool filled = fillAction_ && fillAction_->isChecked(), sections = sectionsShown_ && !filled;
  const int dials = std::clamp(static_cast<int>(width() * dialsShare), leastDials, mostDials);
  dialsFrame_->setFixedWidth(dials);
  down_->setVisible(sections);
  across_->setVisible(sections);
  if (sections) {
    chart_->setMinimumWidth(dials + down_->width());
    chart_->setMaximumWidth(dials + down_->width());
  } else {
    chart_->setMinimumWidth(0);
    chart_->setMaximumWidth(QWIDGETSIZE_MAX);
  }
}

void Bench::resizeEvent(QResizeEvent* event) {
  QMainWindow::resizeEvent(event);
  layOut();
}

void Bench::showSections(bool on) {
  sectionsShown_ = on;
  QSettings().setValue("sections", on);
  layOut();
  refreshPicture();
}

// ---- what the pixels read

void Bench::askReads() {
  if (!footage_) return;
  TraceQuestion question;
  for (const Stage& stage : document_->project().chain)
    if (stage.on) question.chain.push_back(stage);
  question.between = document_->project().source.between;
  question.moment = piece_.moment(frame_);
  question.row = marks_.y;
  question.column = marks_.x;
  question.hovered = pointed_;
  if (stepsShown_ && !before_) question.steps = picture_->wantedSize();
  const auto selected = selectedStage();
  // Measured when the hand is still: while it moves, or while it plays, there is better use for the time.
  const bool still = question.chain == askedChain_ && !player_->playing();
  askedChain_ = question.chain;
  if (!still) stillTimer_.start();
  if (selected && document_->project().chain[*selected].on && still) {
    const std::size_t on = placeOn(*selected);
    question.stage = on;
  }
  tracer_->ask(question);
}

void Bench::tellReads(const TraceAnswer& answer) {
  const double rate = video().rate.toDouble();
  acrossReads_ = answer.across;
  downReads_ = answer.down;
  readsNow_ = answer.now / rate;
  picture_->setSteps(answer.steps);
  if (answer.hovered && pointed_ && answer.question.hovered == pointed_) {
    const double seconds = answer.hovered->position / rate, beside = seconds - readsNow_;
    const Size size = video().size;
    pointedWords_ = tr("x %1  y %2 · frame %3 · %4 · %5")
                        .arg(static_cast<int>(pointed_->x * size.width))
                        .arg(static_cast<int>(pointed_->y * size.height))
                        .arg(answer.hovered->frame == noFrame ? tr("none") : QString::number(answer.hovered->frame))
                        .arg(QString::fromStdString(secondsText(seconds)), QString::fromStdString(momentText(beside)));
    pointedSeconds_ = seconds;
  }
  if (answer.widths) tellSteps(*answer.widths);
  picture_->setState(pictureState());
  refreshSections();
}

void Bench::clearPointed() {
  pointedWords_.clear();
  pointedSeconds_.reset();
  picture_->setState(pictureState());
  refreshSections();
}

/// How smooth the selected stage's field is, and what would make it smoother.
void Bench::tellSteps(const StepWidths& widths) {
  const auto selected = selectedStage();
  if (!selected) return;
  const Stage& stage = document_->project().chain[*selected];
  const StageDescription& described = stage.kind->description();
  const std::size_t dither = parameterIndex(described, "dither");
  const InBetween chosen = document_->project().source.between;
  const double frames = dither < described.parameters.size() ? std::get<double>(stage.values[dither]) : 0;
  const auto px = [](double width) {
    return width < 9.5 ? QString::number(width, 'f', 1) : QString::number(width, 'f', 0);
  };
  QString words;
  if (widths.jump > 1)
    words = tr("Pixels beside each other are up to %1 frames apart: what moves is torn there%2.")
                .arg(widths.jump, 0, 'f', 0)
                .arg(widths.torn > 0.1 ? tr(", nearly everywhere") : QString());
  if (widths.widest == 0 && widths.jump > 1)
    words += tr(" Between these borders nothing rises.");
  else if (widths.widest == 0)
    words = tr("Nothing rises gradually here: there are no steps to smooth.");
  else if (widths.widest < 1.5 && widths.jump <= 1)
    words = tr("One frame's step is one pixel wide at most: smooth.");
  else if (widths.widest >= 1.5)
    words += (words.isEmpty() ? "" : " ") + tr("One frame's step is %1 px wide where it is widest, %2 px mostly.")
                                                .arg(px(widths.widest), px(widths.usual));
  QString remedy;
  if (widths.widest >= 1.5) {
    if (chosen == InBetween::Flow)
      words += tr(" Flow makes what moves smooth to a pixel.");
    else if (chosen == InBetween::Mixed)
      words += tr(" Mixed frames fade each into the next: edges are doubled where they move.");
    else if (frames > 0)
      words += tr(" Dither scatters each border over %1 px.").arg(px(2 * frames * widths.widest));
    else
      words += tr(" Whole frames show them as they are.");
    if (chosen != InBetween::Flow) remedy = tr("Smooth it with Flow");
  }
  dials_->setGauge(words, remedy);
}

// ---- Across and Down

void Bench::refreshSlices() {
  across_->setSlice(slices_->alongRow(marks_.y));
  down_->setSlice(slices_->alongColumn(marks_.x));
}

void Bench::refreshSections() {
  if (!footage_ || !sectionsShown_) return;
  const QRectF t = picture_->target();
  const VideoDescription clip = video();
  const double rate = clip.rate.toDouble();
  SectionState state;
  state.length = clip.seconds().toDouble();
  state.now = readsNow_;
  state.frame = 1 / rate;
  state.mayPull = mayPull_;
  const auto inSeconds = [&](const std::vector<double>& positions) {
    std::vector<double> seconds;
    for (const double position : positions) seconds.push_back(position / rate);
    return seconds;
  };
  SectionState across = state, down = state;
  across.title = tr("Across · what each column reads, row %1").arg(static_cast<int>(marks_.y * clip.size.height));
  across.from = picture_->mapTo(this, t.topLeft().toPoint()).x() - across_->mapTo(this, QPoint(0, 0)).x();
  across.to = across.from + t.width();
  across.marked = marks_.x;
  across.reads = inSeconds(acrossReads_);
  const ChartPlot* plot = chart_->plot();
  // In line with the chart, unless that leaves it little room.
  if (plot->up() == ChartUp::Source && plot->view().area.height() > 0.55 * across_->height()) {
    const int offset = plot->mapTo(this, QPoint(0, 0)).y() - across_->mapTo(this, QPoint(0, 0)).y();
    across.bottom = plot->view().bottom, across.top = plot->view().top;
    across.lower = offset + plot->view().area.bottom(), across.upper = offset + plot->view().area.top();
  }
  down.title = tr("Down");
  down.from = t.top();
  down.to = t.bottom();
  down.marked = marks_.y;
  down.reads = inSeconds(downReads_);
  if (pointed_ && pointedSeconds_) {
    across.ring = {pointed_->x, *pointedSeconds_};
    down.ring = {pointed_->y, *pointedSeconds_};
  }
  across_->setState(across);
  down_->setState(down);
  chart_->plot()->setRing(pointed_ && pointedSeconds_ ? pointedSeconds_ : std::nullopt);
}

// ---- comparing

void Bench::buildCompareMenu(QMenu* view) {
  QMenu* menu = view->addMenu(tr("Compare"));
  auto* how = new QActionGroup(menu);
  const struct {
    QString name;
    Comparing comparing;
    const char* keys;
  } hows[] = {{tr("Off"), Comparing::Off, "Shift+0"},
              {tr("Wipe"), Comparing::Wipe, "W"},
              {tr("Side by side"), Comparing::SideBySide, "Shift+W"},
              {tr("Difference"), Comparing::Difference, "Shift+D"}};
  for (const auto& choice : hows) {
    QAction* action = add(menu, choice.name, QKeySequence(choice.keys), [this, value = choice.comparing] {
      // The same again switches it off.
      comparing_ = comparing_ == value ? Comparing::Off : value;
      refreshCompare();
    });
    action->setCheckable(true);
    how->addAction(action);
    needFootage_.push_back(action);
    compareActions_[static_cast<std::size_t>(choice.comparing)] = action;
  }
  compareActions_[0]->setChecked(true);
  menu->addSeparator();
  auto* with = new QActionGroup(menu);
  const struct {
    QString name;
    ComparedWith with;
  } withs[] = {{tr("With the footage"), ComparedWith::Footage},
               {tr("With the chain without the selected stage"), ComparedWith::WithoutStage},
               {tr("With version B"), ComparedWith::VersionB}};
  for (const auto& choice : withs) {
    QAction* action = add(menu, choice.name, {}, [this, value = choice.with] {
      comparedWith_ = value;
      if (comparing_ == Comparing::Off) comparing_ = Comparing::Wipe;
      refreshCompare();
    });
    action->setCheckable(true);
    action->setChecked(choice.with == ComparedWith::Footage);
    with->addAction(action);
    needFootage_.push_back(action);
    withActions_[static_cast<std::size_t>(choice.with)] = action;
  }
  menu->addSeparator();
  needFootage_.push_back(add(menu, tr("Keep these settings as version B"), QKeySequence("Ctrl+Shift+B"), [this] {
    apply(keepVersion(document_->project()));
    say(tr("These settings are kept as version B; Shift+B changes the two over."));
  }));
  swapAction_ = add(menu, tr("Change A and B over"), QKeySequence("Shift+B"), [this] {
    if (document_->project().versionB) apply(swapVersions(document_->project()));
  });
}

std::optional<Chain> Bench::otherChain() const {
  const Project& project = document_->project();
  if (comparedWith_ == ComparedWith::VersionB && project.versionB) return project.versionB;
  if (comparedWith_ == ComparedWith::WithoutStage && selectedStage()) {
    Chain chain = project.chain;
    chain[*selectedStage()].on = false;
    return chain;
  }
  return Chain{};
}

QString Bench::otherName() const {
  const Project& project = document_->project();
  if (comparedWith_ == ComparedWith::VersionB && project.versionB) return tr("version B");
  if (comparedWith_ == ComparedWith::WithoutStage && selectedStage())
    return tr("without %1").arg(QString::fromStdString(project.chain[*selectedStage()].kind->description().label));
  return tr("the footage");
}

void Bench::refreshCompare() {
  compareActions_[static_cast<std::size_t>(comparing_)]->setChecked(true);
  withActions_[static_cast<std::size_t>(comparedWith_)]->setChecked(true);
  if (comparedWith_ == ComparedWith::VersionB && !document_->project().versionB && comparing_ != Comparing::Off)
    say(tr("No version B is kept yet: Ctrl+Shift+B keeps these settings as it. Compared with the footage."));
  if (comparing_ == Comparing::Off) picture_->setOther({});
  refreshPicture();
}

}  // namespace molten

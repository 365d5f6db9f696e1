// The Bench: what its views show of the project, and what is done to it from them.
#include <QAction>
#include <QEvent>
#include <QFileInfo>
#include <QKeyEvent>
#include <QMenu>
#include <QMenuBar>
#include <QScrollArea>
#include <QStackedWidget>
#include <algorithm>
#include <cmath>

#include "app/bench/bench.h"
#include "app/bench/loop_finder.h"
#include "app/bench/player.h"
#include "app/bench/scrubber.h"
#include "app/bench/transport.h"
#include "app/chain/chain_bar.h"
#include "app/chain/stage_costs.h"
#include "app/chart/time_chart.h"
#include "app/dials/dials.h"
#include "app/dials/footage_dials.h"
#include "app/dials/output_dials.h"
#include "app/picture/picture_view.h"
#include "app/render/render_dialog.h"

namespace molten {
namespace {

QString text(const std::string& s) {
  return QString::fromStdString(s);
}
/// ` Stand still: the end frame stands still.`
QString whatHappensThere(const Stage& stage) {
  const StageDescription& described = stage.kind->description();
  const std::size_t i = parameterIndex(described, "past-the-ends");
  if (i == described.parameters.size()) return {};
  const auto& choice =
      std::get<ChoicesDescription>(described.parameters[i].kind).choices[std::get<std::size_t>(stage.values[i])];
  return " " + text(choice.label) + ": " + text(choice.help.substr(0, 1)).toLower() + text(choice.help.substr(1));
}

QString seconds(double s) {
  return text(secondsText(s, 2));
}

}  // namespace

VideoDescription Bench::video() const {
  return footage_ ? footage_->video(document_->project().source.between) : VideoDescription{{16, 9}, 1, 25, 1};
}

VideoDescription Bench::videoInto(std::size_t stage) const {
  return reading_ ? reading_->video(placeOn(stage)) : video();
}

std::size_t Bench::placeOn(std::size_t stage) const {
  const Chain& chain = document_->project().chain;
  return static_cast<std::size_t>(std::count_if(chain.begin(), chain.begin() + static_cast<std::ptrdiff_t>(stage),
                                                [](const Stage& one) { return one.on; }));
}

Span Bench::span() const {
  return footage_ ? spanOf(document_->project(), length()) : Span{0, 0};
}

std::optional<std::size_t> Bench::selectedStage() const {
  if (selected_ == 0 || selected_ > document_->project().chain.size()) return std::nullopt;
  return selected_ - 1;
}

/// `The first 0.80 s reads before the clip.`
QString Bench::outsideSentence() const {
  if (outside_.empty()) return {};
  const auto lasting = [&](std::int64_t pictures) { return seconds((Rational(pictures) / piece_.rate).toDouble()); };
  std::int64_t all = 0;
  for (const OutsideRun& run : outside_) all += run.count();
  if (all >= span().count()) return tr("Every picture reads outside the clip.");
  const OutsideRun &first = outside_.front(), &last = outside_.back();
  const bool atStart = first.first == span().first && first.before && !first.after,
             atEnd = last.last == span().last && last.after && !last.before;
  if (outside_.size() == 2 && atStart && atEnd)
    return tr("The first %1 reads before the clip, the last %2 past its end.")
        .arg(lasting(first.count()), lasting(last.count()));
  if (outside_.size() == 1 && atStart) return tr("The first %1 reads before the clip.").arg(lasting(all));
  if (outside_.size() == 1 && atEnd) return tr("The last %1 reads past the end of the clip.").arg(lasting(all));
  if (outside_.size() == 1)
    return first.before ? tr("%1 in the middle reads before the clip.").arg(lasting(all))
                        : tr("%1 in the middle reads past the end of the clip.").arg(lasting(all));
  return tr("%1 in %2 places reads outside the clip.").arg(lasting(all)).arg(outside_.size());
}

void Bench::refreshPiece() {
  const Project& project = document_->project();
  reading_ = std::make_shared<ChainReading>(project.chain, video(), nullptr, Chain{},
                                            footage_ ? std::optional(footage_->clock()) : std::nullopt);
  piece_ = pieceOf(reading_->outgoing(), project.output);
  outside_ = footage_ ? outsideRuns(*reading_, piece_, span()) : std::vector<OutsideRun>{};
  frame_ = std::clamp<std::int64_t>(frame_, 0, std::max<std::int64_t>(0, length() - 1));
}

void Bench::projectReplaced() {
  frame_ = 0;
  player_->stop();
  selected_ = document_->project().chain.empty() ? 0 : 1;
  loadFootage();
  projectChanged();
}

void Bench::projectChanged() {
  const Project& project = document_->project();
  // A step of undo may bring other footage back.
  if (asked_ != project.source.path || (footage_ && footage_->hasFreeRate() && askedRate_ != project.source.rate))
    loadFootage();
  selected_ = std::min(selected_, project.chain.size() + 1);
  shownWhere_.clear();  // other pictures read those frames now
  refreshPiece();
  refreshChain();
  refreshDials();
  refreshChart();
  refreshPicture();
  refreshTransport();
  refreshTitle();
}

void Bench::refreshTitle() {
  const QString state = document_->path().isEmpty() ? QString()
                        : document_->modified()     ? tr(" — changed")
                                                    : tr(" — saved");
  setWindowTitle(tr("%1%2 — Molten Clock").arg(document_->title(), state));
  titleLabel_->setText(document_->title() + state);
}

void Bench::refreshChain() {
  const Project& project = document_->project();
  std::vector<ChainTile> tiles;
  ChainTile first;
  first.title = tr("Footage");
  if (footage_) {
    const PictureShape& shape = footage_->shape();
    first.lines[0] = text(footage_->name());
    first.lines[1] = tr("%1×%2 · %3 fps · %4 s")
                         .arg(shape.size.width)
                         .arg(shape.size.height)
                         .arg(text(rateText(video().rate)))
                         .arg(video().seconds().toDouble(), 0, 'f', 1);
    QStringList corner;
    if (footage_->clock().varying()) corner << tr("rate varies");
    if (project.source.between != InBetween::Whole)
      corner << text(inBetweenChoices()[static_cast<std::size_t>(project.source.between)].label);
    first.corner = corner.join(" · ");
  } else if (!project.source.path.empty()) {
    first.lines[0] = QFileInfo(text(project.source.path)).fileName();
    first.lines[1] =
        indexing_ >= 0 ? tr("finding its frames, %1 %").arg(static_cast<int>(indexing_ * 100)) : tr("cannot be read");
    first.progress = indexing_;
  } else {
    first.lines[0] = tr("none yet");
    first.lines[1] = tr("drop it on the window");
  }
  tiles.push_back(first);
  VideoDescription in = video();
  mayPull_ = false;
  const std::vector<double> costs = costs_->costs(stagesOn());
  std::size_t costed = 0, placed = 0;
  for (const Stage& stage : project.chain) {
    ChainTile tile;
    tile.title = text(titleOf(stage));
    tile.lines[0] =
        text(stage.kind->summary(stage.widestValues(), in)) + (stage.keys.empty() ? QString() : tr(" · keyed"));
    tile.isStage = true;
    tile.on = stage.on;
    if (stage.on) {
      const TimeMap& map = reading_->map(placed);
      if (tiles.size() == selected_) mayPull_ = !map.wholePicture();
      if (!map.wholePicture() || map.mixing())
        tile.reach = {map.reach().least / in.rate.toDouble(), map.reach().most / in.rate.toDouble()};
    }
    if (stage.on && costed < costs.size()) tile.cost = tr("%1 ms").arg(costs[costed], 0, 'f', 1);
    costed += stage.on;
    if (stage.on) in = reading_->video(++placed);
    tiles.push_back(tile);
  }
  ChainTile last;
  last.title = tr("Output");
  if (footage_) {
    const Size size = project.output.size.value_or(in.size);
    last.lines[0] = tr("%1×%2 · %3 fps · %4 s")
                        .arg(size.width)
                        .arg(size.height)
                        .arg(text(rateText(piece_.rate)))
                        .arg((Rational(span().count()) / piece_.rate).toDouble(), 0, 'f', 1);
    last.notice = !outside_.empty();
    last.lines[1] = last.notice      ? tr("reads outside the clip")
                    : piece_.fixed   ? tr("length fixed")
                    : piece_.endless ? tr("a loop")
                                     : tr("as long as the chain");
  } else {
    last.lines[0] = tr("nothing to render yet");
  }
  tiles.push_back(last);
  chain_->setTiles(std::move(tiles), selected_, footage_ != nullptr);
  for (QAction* action : needFootage_) action->setEnabled(footage_ != nullptr);
  for (QAction* action : needStage_) action->setEnabled(selectedStage().has_value());
  swapAction_->setEnabled(footage_ && project.versionB.has_value());
}

void Bench::refreshDials() {
  const Project& project = document_->project();
  const bool output = footage_ && selected_ == project.chain.size() + 1;
  dialsPages_->setCurrentIndex(output ? 1 : footage_ && selected_ == 0 ? 2 : 0);
  readingInto_.reset();
  if (const auto stage = selectedStage()) {
    readingInto_ = std::make_shared<ChainReading>(
        Chain(project.chain.begin(), project.chain.begin() + static_cast<std::ptrdiff_t>(*stage)), video(), nullptr,
        Chain{}, footage_ ? std::optional(footage_->clock()) : std::nullopt);
    dials_->showStage(project.chain[*stage], footage_ ? std::optional(videoInto(*stage)) : std::nullopt, piece_.rate,
                      stageMoment(*stage));
    std::optional<Notice> notice;
    if (const QString sentence = outsideSentence(); !sentence.isEmpty() && project.chain[*stage].on)
      notice = Notice{sentence + whatHappensThere(project.chain[*stage]), tr("Trim it off")};
    dials_->setOutsideNotice(notice);
    refreshSeam();
    return;
  }
  if (!footage_)
    return dials_->showWords(
        tr("No footage yet"),
        tr("What a stage can be told stands here once there is footage and a stage in the Chain."));
  if (selected_ == 0) {
    QStringList lines{tr("%1, %2").arg(text(footage_->codec()), text(formatText(footage_->shape().format))),
                      tr("%1 frames, counted from 0").arg(footage_->clock().frameCount()),
                      QFileInfo(text(footage_->path())).absolutePath()};
    for (const auto& warning : footage_->warnings()) lines << text(warning);
    if (project.chain.empty())
      lines << tr("\nAdd a stage to the Chain above: a Time Field makes each pixel read its own moment.");
    return footageDials_->showFootage(*footage_, project.source, lines);
  }
  QStringList lines{tr("%1 pictures, from %2 to %3.").arg(span().count()).arg(span().first).arg(span().last)};
  if (piece_.endless) {
    lines << tr("A loop: after the last picture comes the first.");
    if (const double faster = piece_.faster() * 100; std::abs(faster) >= 0.005)
      lines << tr("So that its round is a whole number of pictures, time runs %1 % %2.")
                   .arg(std::abs(faster), 0, 'f', 2)
                   .arg(faster > 0 ? tr("faster") : tr("slower"));
  }
  if (const QString outside = outsideSentence(); !outside.isEmpty()) lines << outside;
  lines << tr("Size and kind of file are chosen when rendering (Ctrl+R).");
  outputDials_->showPiece(piece_, video().rate, lines.join('\n'));
}

MeasuredFootage Bench::measuredFootage() const {
  return {footage_, document_->project().source.between, player_->feed()->budget()};
}

/// How well a loop closes at the selected stage, if that is one that makes a loop.
void Bench::refreshSeam() {
  const Chain& chain = document_->project().chain;
  const auto stage = selectedStage();
  if (!footage_ || !stage || !chain[*stage].on) return;
  const bool borders = chain[*stage].kind->contrast(chain[*stage]).has_value();
  const bool closes = videoInto(*stage + 1).endless && (borders || !videoInto(*stage).endless);
  if (!borders && !closes) return;
  if (closes && !borders) dials_->setFinding("Loop length", tr("measuring the seam…"));
  loops_->measure(measuredFootage(), {chain.begin(), chain.begin() + static_cast<std::ptrdiff_t>(*stage) + 1}, closes);
}

void Bench::act(const QString& action) {
  const auto stage = selectedStage();
  if (!footage_ || !stage) return;
  for (const StageAction& known : document_->project().chain[*stage].kind->description().actions)
    if (known.picksPlace && known.id == action.toStdString()) {
      picking_ = known.id;
      return refreshPicture();
    }
  if (action != "find-a-loop") return;
  dials_->setFinding("Loop length", tr("looking for a loop…"));
  loops_->find(measuredFootage(), document_->project().chain, *stage);
}

std::int32_t Bench::footageFrame(std::int32_t frame) const {
  if (!footage_ || !readingInto_) return frame;
  return footage_->clock().frameAt(readingInto_->at(frame).now);
}

void Bench::refreshPicture() {
  picture_->setState(pictureState());
  if (!footage_) return;
  const Project& project = document_->project();
  const Chain chain = before_ ? Chain{} : project.chain;
  const VideoDescription shown = before_ ? video() : reading_->outgoing();
  picture_->setPictureShape(shown.size, shown.pixelAspect.toDouble());
  player_->setSpan(span());
  // Before: the footage at the same moment of the output, as if there were no chain.
  View view{
      chain, frame_, picture_->wantedSize(), before_ ? pieceOf(shown, project.output) : piece_, project.source.between,
      {},    {}};
  if (comparing_ != Comparing::Off && !before_) {
    view.other = otherChain();
    view.otherPiece = pieceOf(*view.other, project.output, video());
  }
  player_->setView(view);
  askReads();
  refreshSections();
}

void Bench::refreshTransport() {
  TransportState state;
  state.footage = footage_ != nullptr;
  state.playing = player_->playing();
  state.loop = player_->loop();
  state.timecode = footage_ ? text(timecode(frame_, piece_.rate)) : QString();
  state.frames = footage_ ? tr("frame %1 of %2").arg(frame_).arg(length()) : QString();
  if (footage_) {
    const QString memory = tr("memory %1 of %2 GB")
                               .arg(static_cast<double>(player_->memoryUsed()) / 1e9, 0, 'f', 1)
                               .arg(static_cast<double>(player_->memoryBudget()) / 1e9, 0, 'f', 1);
    const double rate = piece_.rate.toDouble() * std::abs(player_->speed());
    state.measure = player_->playing() ? tr("%1 of %2 shown · %3")
                                             .arg(player_->shownASecond(), 0, 'f', 1)
                                             .arg(rate, 0, 'f', rate == std::floor(rate) ? 0 : 2)
                                             .arg(memory)
                                       : memory;
  }
  transport_->setState(state);
  scrubber_->setState({length(), frame_, span(), outside_, piece_.rate, shownWhere_});
}

void Bench::say(const QString& sentence) {
  if (stage_->currentIndex() == 0) {
    showTrouble(sentence);
    return;
  }
  remark_ = sentence;
  remarkTimer_.start(8000);
  refreshPicture();
}

void Bench::apply(const Edit& edit) {
  document_->apply(edit);
}

void Bench::seek(std::int64_t frame) {
  if (!footage_) return;
  player_->stop();
  frame_ = std::clamp<std::int64_t>(frame, 0, length() - 1);
  showPlayhead();
  chart_->setFrame(chartFrame());
  refreshPicture();
  refreshTransport();
}

/// What has keys is shown as it is at the playhead.
void Bench::showPlayhead() {
  const auto stage = selectedStage();
  if (!stage || !footage_) return;
  dials_->showMoment(document_->project().chain[*stage], stageMoment(*stage));
  chart_->lanes()->setPlayhead(stageMoment(*stage));
}

void Bench::togglePlay() {
  if (!footage_) return;
  if (player_->playing())
    player_->stop();
  else
    player_->play(span(), 1);
  refreshTransport();
}

/// J and L: each press in the same direction doubles the speed, up to eight times.
void Bench::shuttle(int direction) {
  if (!footage_) return;
  const double now = player_->speed();
  const bool same = now * direction > 0;
  player_->play(span(), same ? std::clamp(now * 2, -8.0, 8.0) : direction);
  refreshTransport();
}

void Bench::showBefore(bool on) {
  if (before_ == on || !footage_) return;
  before_ = on;
  refreshPicture();
}

void Bench::select(std::size_t tile) {
  selected_ = std::min(tile, document_->project().chain.size() + 1);
  picking_.clear();
  document_->endGesture();
  refreshChain();
  refreshDials();
  refreshChart();
  refreshPicture();
}

void Bench::fillWindow(bool on) {
  for (QWidget* widget : {static_cast<QWidget*>(chain_), dialsFrame_, lower_, static_cast<QWidget*>(menuBar())})
    widget->setVisible(!on);
  layOut();
  picture_->setFocus();
}

void Bench::renderDialog() {
  if (!footage_) return;
  if (render_ && render_->running()) {
    render_->raise();
    return render_->activateWindow();
  }
  player_->stop();
  const QFileInfo clip(text(footage_->path()));
  const QFileInfo base(document_->path().isEmpty() ? clip : QFileInfo(document_->path()));
  QString name = base.completeBaseName();
  name.replace('%', '-');
  const QString ending = piece_.length == 1 ? "-molten.png" : "-molten.mp4";
  render_ = std::make_unique<RenderDialog>(footage_, document_->project(), base.absolutePath() + "/" + name + ending,
                                           mapPlace_, options_.memoryBytes / 2,
                                           options_.askQuestions || options_.ask
                                               ? [this](const QString& title, const QString& words,
                                                        const QStringList& answers) { return ask(title, words, answers); }
                                               : Ask(),
                                           this);
  connect(render_.get(), &RenderDialog::settingsChosen, document_, &Document::setOutput);
  connect(render_.get(), &RenderDialog::mapPlaceChosen, this, [this](const RenderPlace& place) { mapPlace_ = place; });
  // While it renders, the two share the budget.
  connect(render_.get(), &RenderDialog::begun, this, [this] { player_->setBudget(options_.memoryBytes / 2); });
  connect(render_.get(), &RenderDialog::finished, this, [this] {
    player_->setBudget(options_.memoryBytes);
    refreshChain();
  });
  render_->show();
}

void Bench::keyPressEvent(QKeyEvent* event) {
  const int step = event->modifiers() & Qt::ShiftModifier ? 10 : 1;
  switch (event->key()) {
    case Qt::Key_Space:
      if (!event->isAutoRepeat()) togglePlay();
      return;
    case Qt::Key_Left:
      return seek(frame_ - step);
    case Qt::Key_Right:
      return seek(frame_ + step);
    case Qt::Key_Home:
      return seek(span().first);
    case Qt::Key_End:
      return seek(span().last);
    case Qt::Key_J:
      return shuttle(-1);
    case Qt::Key_K:
      player_->stop();
      return;
    case Qt::Key_L:
      return shuttle(1);
    case Qt::Key_B:
      if (!event->isAutoRepeat()) showBefore(true);
      return;
    case Qt::Key_Escape:
      if (!std::exchange(picking_, {}).empty()) return refreshPicture();
      if (fillAction_->isChecked()) fillAction_->trigger();
      return;
    default:
      break;
  }
  if (event->key() >= Qt::Key_1 && event->key() <= Qt::Key_9 && !(event->modifiers() & Qt::ControlModifier)) {
    const auto stage = static_cast<std::size_t>(event->key() - Qt::Key_0);
    if (stage <= document_->project().chain.size()) select(stage);
    return;
  }
  QMainWindow::keyPressEvent(event);
}

void Bench::keyReleaseEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_B && !event->isAutoRepeat()) return showBefore(false);
  QMainWindow::keyReleaseEvent(event);
}

void Bench::changeEvent(QEvent* event) {
  // A key released in another window would never be seen here.
  if (event->type() == QEvent::ActivationChange && !isActiveWindow()) showBefore(false);
  QMainWindow::changeEvent(event);
}

}  // namespace molten

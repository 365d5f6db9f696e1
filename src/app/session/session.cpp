#include "app/session/session.h"

#include <QFileInfo>
#include <algorithm>

#include "app/session/footage_loader.h"
#include "core/picture/blank.h"
#include "core/project/swap.h"

namespace molten {
namespace {

/// Of the shots of a reel together, where they are footage.
constexpr const char* nameOfRow = "Reel";

}  // namespace

Session::Session(const QString& autosaveFolder, QObject* parent)
    : QObject(parent),
      document_(new Document(autosaveFolder, this)),
      reel_(new ReelReading(this)),
      loader_(new FootageLoader(this)),
      watcher_(new QFileSystemWatcher(this)),
      outsides_(
          [](const OutsideQuestion& of, const std::stop_token& stop) { return outsideRuns(*of.reading, of.piece, of.span, stop); },
          [this](const std::vector<OutsideRun>& runs) {
            outside_ = runs;
            emit outsideKnown();
          }) {
  read();
  connect(document_, &Document::changed, this, &Session::projectChanged);
  connect(document_, &Document::replaced, this, &Session::projectReplaced);
  connect(document_, &Document::autosaveFailed, this, &Session::said);
  connect(watcher_, &QFileSystemWatcher::fileChanged, this, [this](const QString& path) { fileHasChanged(path.toStdString()); });
  // Queued: whoever takes over what was found, so that it need not be opened again, does so first.
  connect(reel_, &ReelReading::found, this, [this] {
    projectChanged();
    if (!staysAtEnd_ || !inReel()) return;
    standAt(reel_->played()->piece.length - 1);
    staysAtEnd_ = !reel_->isComplete();
  }, Qt::QueuedConnection);
  connect(this, &Session::playheadTaken, this, [this] { staysAtEnd_ = false; });
  connect(reel_, &ReelReading::failed, this, &Session::said);
  connect(loader_, &FootageLoader::firstPicture, this, &Session::firstPicture);
  connect(loader_, &FootageLoader::indexed, this, [this](double part) {
    indexing_ = part;
    emit footageIndexed();
  });
  connect(loader_, &FootageLoader::opened, this, [this](const std::shared_ptr<const Footage>& footage) {
    footage_ = footage;
    indexing_ = -1;
    if (within_.empty() && !reelInHand_) reel_->know(project().source, footage);
    if (const auto frame = std::exchange(frameToCome_, std::nullopt)) frame_ = *frame;
    emit footageArrived();
    changesShot_ = false;
    projectChanged();
    emit footageInSight();
  });
  connect(loader_, &FootageLoader::failed, this, [this](const QString& sentence) {
    indexing_ = -1;
    // The reel finds out by itself why, and says it on the shot.
    reel_->expect({});
    emit footageLeaves();
    changesShot_ = false;
    emit footageFailed(sentence);
    projectChanged();
  });
}

Session::~Session() {
  loader_->cancel();
}

VideoDescription Session::video() const {
  return footage_ ? footage_->video(project().source.between) : VideoDescription{{16, 9}, 1, 25, 1};
}

Span Session::span() const {
  if (!footage_) return {0, 0};
  const auto shot = inReel();
  if (!shot) return spanOf(project(), length());
  // What the reel shows of it.
  const std::int64_t last = length() - 1;
  return {std::clamp<std::int64_t>(shot->toShot(shot->first()), 0, last), std::clamp<std::int64_t>(shot->toShot(shot->last()), 0, last)};
}

std::size_t Session::placeOn(std::size_t stage) const {
  const Chain& chain = project().chain;
  return static_cast<std::size_t>(std::count_if(chain.begin(), chain.begin() + static_cast<std::ptrdiff_t>(stage),
                                                [](const Stage& one) { return one.on; }));
}

std::optional<std::size_t> Session::selectedStage() const {
  if (selected_ == 0 || selected_ > project().chain.size()) return std::nullopt;
  return selected_ - 1;
}

void Session::selectSound(const SoundName& which) {
  if (selectedSound_ == which) return;
  selectedSound_ = which;
  document_->endGesture();
  emit selectionChanged();
}

void Session::select(std::size_t tile) {
  selected_ = std::min(tile, project().chain.size() + 1);
  selectedSound_.reset();
  document_->endGesture();
  emit selectionChanged();
}

void Session::goTo(std::int64_t frame) {
  if (!footage_) return;
  if (const auto shot = inReel()) return goToShown(shot->toReel(frame));
  emit playheadTaken();
  follow(std::clamp<std::int64_t>(frame, 0, length() - 1));
}

void Session::goToShown(std::int64_t frame) {
  if (!inReel()) return goTo(frame);
  emit playheadTaken();
  standAt(std::clamp<std::int64_t>(frame, 0, reel_->played()->piece.length - 1));
}

void Session::standAt(std::int64_t frame) {
  const std::size_t under = shotUnder(frame);
  followReel(frame);
  if (under != shot_) takeShot(under);
}

void Session::goToEnd() {
  goToShown(shownSpan().last);
  staysAtEnd_ = inReel() && !shotAlone_ && !reel_->isComplete();
}

std::int64_t Session::nearestFrame(std::int64_t frame) const {
  frame = std::max<std::int64_t>(0, frame);
  return footage_ ? std::min(frame, std::max<std::int64_t>(0, piece_.length - 1)) : frame;
}

void Session::follow(std::int64_t frame) {
  staysAtEnd_ = false;
  if (inReel()) return followReel(frame);
  frame_ = frame;
  if (reelInHand_ && within_.empty()) reelFrame_ = frame;
  emit frameChanged();
}

void Session::followReel(std::int64_t frame) {
  reelFrame_ = frame;
  frame_ = nearestFrame(inReel()->toShot(frame));
  emit frameChanged();
}

void Session::arrive() {
  if (!inReel()) return;
  if (const std::size_t under = shotUnder(reelFrame_); under != shot_) takeShot(under);
}

/// The one in hand where two are seen.
std::size_t Session::shotUnder(std::int64_t frame) const {
  const auto& played = *reel_->played();
  // What comes after the last cut may move pictures in time: where that leads is not looked for.
  const Rational seconds = Rational(frame) / played.piece.rate;
  const RowMoment at = rowMoment(*played.row, seconds);
  const std::size_t under = played.times[at.shot].shot;
  return at.next && played.times[*at.next].shot == shot_ ? shot_ : under;
}

std::optional<ShotFrames> Session::inReel() const {
  if (!within_.empty() || reelInHand_) return std::nullopt;
  const ShotTime* const time = reel_->timeOf(shot_);
  if (!time) return std::nullopt;
  return ShotFrames{*time, reel_->played()->piece.rate, piece_.rate};
}

Span Session::shownSpan() const {
  const auto shot = inReel();
  if (!shot) return span();
  return shotAlone_ ? Span{shot->first(), shot->last()} : Span{0, reel_->played()->piece.length - 1};
}

void Session::setShotAlone(bool alone) {
  shotAlone_ = alone;
  emit changed();
}

void Session::setOnCamera(bool on) {
  onCamera_ = on;
  emit outsideKnown();
}

void Session::takeReel() {
  if (reelInHand_ || !isReel()) return;
  if (!within_.empty()) within_.clear(), framesOutside_.clear();
  reelInHand_ = true;
  selectedSound_.reset();
  document_->endGesture();
  frameToCome_ = reelFrame_;
  project_ = outermost();
  selected_ = project_.chain.empty() ? 0 : 1;
  projectChanged();
  emit selectionChanged();
}

Project Session::outermost() const {
  if (reelInHand_) return reelChainOf(whole(), nameOfRow);
  return isReel() ? shotAt(whole(), shot_, soundsLater()) : whole();
}

bool Session::rowHasChanged() const {
  // What of it the row does not depend on.
  Project row = whole();
  row.reelChain = askedRow_.reelChain;
  row.stopsAtCuts = askedRow_.stopsAtCuts;
  row.output.path = askedRow_.output.path, row.output.codec = askedRow_.output.codec, row.output.quality = askedRow_.output.quality;
  if (followedSounds(row) == followedSounds(askedRow_)) row.sounds = askedRow_.sounds;
  return !(row == askedRow_);
}

void Session::takeShot(std::size_t shot) {
  reelInHand_ = false;
  shot = std::min(shot, shotCount(whole()) - 1);
  if (!within_.empty()) within_.clear(), framesOutside_.clear();
  shot_ = shot;
  selectedSound_.reset();
  document_->endGesture();
  projectChanged();
  selected_ = project().chain.empty() ? 0 : 1;
  if (const auto frames = inReel()) {
    if (reelFrame_ < frames->first() || reelFrame_ > frames->last()) {
      emit playheadTaken();
      reelFrame_ = frames->first();
    }
    followReel(reelFrame_);
  }
  emit selectionChanged();
}

void Session::applyToReel(const Edit& edit, std::size_t shot) {
  if (!within_.empty()) within_.clear(), framesOutside_.clear();
  const bool other = shot != shot_ || std::exchange(reelInHand_, false);
  shot_ = shot;
  document_->apply(edit);
  // A step that changes nothing is none.
  if (other) takeShot(shot);
}

/// By how much later sounds lie on the time of the shot in hand than on the reel's. In seconds.
double Session::soundsLater() const {
  if (reelInHand_) return 0;
  const ShotTime* const time = reel_->timeOf(shot_);
  return time ? (time->from - time->begin).toDouble() : 0;
}

FollowedSounds Session::followed() const {
  return followedSounds(*projectWithin({}));
}

std::optional<Project> Session::projectWithin(const BranchPath& path) const {
  return branchAt(outermost(), path);
}

Rational Session::stageMoment(std::size_t stage) const {
  // Down through the stages after it, to what is seen of the stage.
  const Stage& own = project().chain[stage];
  const Moment at = reading_->present(placeOn(stage) + (own.on ? 1 : 0), piece_.moment(frame_));
  const Rational off = at.off == 0 ? Rational(0) : Rational::near(at.off);
  return std::max(Rational(0), (at.exact() + off) / piece_.chainRate);
}

void Session::useFootage(const QString& path, bool everywhere) {
  if (reelInHand_ && within_.empty()) return emit said(tr("The footage of a reel is its shots: take one of them in hand first."));
  const bool blank = namesBlank(path.toStdString());
  const QString absolute = blank ? path : QFileInfo(path).absoluteFilePath();
  // The same path again: what stands there now may be readable.
  if (absolute.toStdString() == askedPath_ && !footage_) return load();
  if (footage_) emit replacing();
  if (everywhere) return document_->apply(swapFootage(whole(), project().source.path, absolute.toStdString()));
  const Edit edit = replaceFootage(project(), absolute.toStdString(), blank ? "blank" : QFileInfo(path).fileName().toStdString());
  // To open a clip is no edit: there was nothing, and nothing is lost by letting it go.
  const bool empty = project().source.path.empty() && project().chain.empty() && !document_->modified();
  empty ? document_->newProject(edit.after) : apply(edit);
}

void Session::apply(const Edit& edit) {
  if (!within_.empty() && !isOfBranch(project_, edit.after))
    return emit said(tr("%1: that is set for the whole shot. Leave this chain first.").arg(QString::fromStdString(edit.name)));
  const Edit ofShot = within_.empty() ? edit : inBranch(*projectWithin({}), within_, edit);
  if (reelInHand_ && ofReelChain(whole(), ofShot).after == whole() && !(edit.after == project_))
    return emit said(tr("%1: that is set for a shot. Take one in hand first.").arg(QString::fromStdString(edit.name)));
  document_->apply(reelInHand_ ? ofReelChain(whole(), ofShot) : isReel() ? inShot(whole(), shot_, ofShot, soundsLater()) : ofShot);
}

void Session::enter(std::size_t stage) {
  BranchPath path = within_;
  path.push_back(stage);
  const auto branch = projectWithin(path);
  if (!branch) return emit said(tr("It has no source yet: choose one in the Dials first."));
  if (branch->source.path.ends_with(".molten"))
    return emit said(tr("%1 is a project with a chain of its own: open it to change that.").arg(QFileInfo(QString::fromStdString(branch->source.path)).fileName()));
  framesOutside_.push_back(frame_);
  goWithin(path, branch->chain.empty() ? 0 : 1, 0);
}

void Session::leave() {
  if (within_.empty()) return;
  BranchPath path = within_;
  const std::size_t stage = path.back();
  path.pop_back();
  const std::int64_t frame = framesOutside_.back();
  framesOutside_.pop_back();
  goWithin(path, stage + 1, frame);
}

const Stage& Session::branching() const {
  const Chain* chain = reelInHand_ ? &whole().reelChain : shot_ == 0 ? &whole().chain : &whole().more[shot_ - 1].chain;
  for (std::size_t i = 0; i + 1 < within_.size(); ++i) chain = &(*chain)[within_[i]].branch;
  return (*chain)[within_.back()];
}

void Session::goWithin(const BranchPath& path, std::size_t selected, std::int64_t frame) {
  within_ = path;
  project_ = *projectWithin(within_);
  frame_ = frame;
  frameToCome_ = frame;
  selected_ = selected;
  selectedSound_.reset();
  document_->endGesture();
  projectChanged();
  // The same footage is there already.
  if (footage_) frameToCome_.reset();
  emit selectionChanged();
  emit frameChanged();
}

/// A file that is saved anew has another one of its name in its place, which has to be watched anew.
void Session::watch() {
  QStringList paths;
  const auto add = [&](const Chain& chain, const auto& self) -> void {
    for (const Stage& stage : chain) {
      if (const auto own = stage.kind->ownSource(stage.values); own && !namesBlank(own->use.path)) paths << QString::fromStdString(own->use.path);
      self(stage.branch, self);
    }
  };
  add(project_.chain, add);
  // What is made depends on all that it is made of.
  const auto addMade = [&](const std::shared_ptr<const Footage>& footage) {
    if (footage)
      for (const std::string& path : footage->madeFrom()) paths << QString::fromStdString(path);
  };
  addMade(footage_);
  for (const auto& [use, footage] : reel_->open()) addMade(footage);
  paths.removeDuplicates();
  // Most edits are of something else, and no file is asked about for them.
  QStringList watched = watcher_->files();
  paths.sort(), watched.sort();
  if (paths == watched) return;
  for (const QString& known : watched)
    if (!paths.removeOne(known)) watcher_->removePath(known);
  paths.removeIf([](const QString& path) { return !QFileInfo::exists(path); });
  if (!paths.isEmpty()) watcher_->addPaths(paths);
}

void Session::fileHasChanged(const std::string& path) {
  ++filesSeen_;
  reel_->forget(path);
  const bool made = footage_ && std::count(footage_->madeFrom().begin(), footage_->madeFrom().end(), path) > 0;
  if (made || (reelInHand_ && within_.empty())) {
    // It is another clip from now on, though of the same name.
    frameToCome_ = frame_;
    askedPath_.clear();
    footage_.reset();
  }
  watch();
  projectChanged();
}

void Session::load() {
  changesShot_ = footage_ && isReel();
  footage_.reset();
  outsides_.forget();
  outside_.clear();
  emit footageLeaves();
  indexing_ = -1;
  askedPath_ = project().source.path;
  askedRate_ = project().source.rate;
  if (askedPath_.empty()) return loader_->cancel();
  if (reelInHand_ && within_.empty()) {
    indexing_ = 0;
    reel_->expect({});
    askedRow_ = whole();
    return loader_->loadRow(askedRow_, nameOfRow);
  }
  if (const auto known = isReel() ? reel_->footageOf(project().source) : nullptr) {
    // What was being opened for the shot before is the reel's to open.
    loader_->cancel();
    reel_->expect({});
    reel_->read(whole());
    footage_ = known;
    emit footageArrived();
    return;
  }
  indexing_ = 0;
  reel_->expect(within_.empty() ? project().source : Source{});
  loader_->load(QString::fromStdString(askedPath_), askedRate_);
}

void Session::read() {
  reading_ = std::make_shared<ChainReading>(project().chain, video(), nullptr, Chain{},
                                            footage_ ? std::optional(footage_->clock()) : std::nullopt);
  const std::int64_t before = piece_.length;
  OutputSettings output = project().output;
  // A shot is as long as its chain makes it, at the reel's rate.
  if (isReel() && !reelInHand_) output.length.reset();
  if (within_.empty() && reel_->played()) output.rate = reel_->played()->piece.rate;
  piece_ = pieceOf(reading_->outgoing(), output);
  frame_ = nearestFrame(frame_);
  // Until it is known anew, what was known stands, unless it is about other pictures.
  if (piece_.length != before) outside_.clear();
  if (footage_) outsides_.ask({reading_, piece_, span()});
}

void Session::projectReplaced() {
  frame_ = reelFrame_ = 0;
  within_.clear(), framesOutside_.clear();
  shot_ = 0;
  shotAlone_ = reelInHand_ = false;
  reel_->forget();
  footage_.reset();
  reel_->expect(whole().source);
  reel_->read(whole());
  project_ = *projectWithin({});
  selected_ = project().chain.empty() ? 0 : 1;
  selectedSound_.reset();
  load();
  projectChanged();
}

void Session::projectChanged() {
  shot_ = std::min(shot_, shotCount(whole()) - 1);
  reelInHand_ = reelInHand_ && isReel();
  const auto before = shotRead_ == shot_ ? inReel() : std::nullopt;
  reel_->read(whole());
  // A step of undo may take away what is worked in.
  auto now = projectWithin(within_);
  while (!now) {
    selected_ = within_.back() + 1;
    within_.pop_back();
    frame_ = framesOutside_.back();
    frameToCome_ = frame_;
    framesOutside_.pop_back();
    now = projectWithin(within_);
  }
  project_ = std::move(*now);
  // A step of undo may bring other footage back.
  if (askedPath_ != project().source.path ||
      (footage_ && footage_->hasFreeRate() && askedRate_ != project().source.rate) || (reelInHand_ && within_.empty() && rowHasChanged())) {
    if (reelInHand_) frameToCome_ = frame_;
    load();
  }
  const bool arrived = footage_ && indexing_ < 0 && std::exchange(changesShot_, false);
  if (footage_) frameToCome_.reset();
  selected_ = std::min(selected_, project().chain.size() + 1);
  if (selectedSound_ && *selectedSound_ && **selectedSound_ >= project().sounds.size()) selectedSound_.reset();
  watch();
  read();
  shotRead_ = shot_;
  // The playhead stays where it is in the shot in hand, or among the reel's pictures if it is not there.
  if (const auto after = inReel()) {
    const bool there = before && reelFrame_ >= before->first() && reelFrame_ <= before->last();
    reelFrame_ = there ? after->toReel(frame_) : std::clamp<std::int64_t>(reelFrame_, 0, reel_->played()->piece.length - 1);
    frame_ = nearestFrame(after->toShot(reelFrame_));
  }
  emit changed();
  if (arrived) emit footageInSight();
}

}  // namespace molten

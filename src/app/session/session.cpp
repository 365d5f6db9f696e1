#include "app/session/session.h"

#include <QFileInfo>
#include <algorithm>

#include "app/session/footage_loader.h"

namespace molten {

Session::Session(const QString& autosaveFolder, QObject* parent)
    : QObject(parent),
      document_(new Document(autosaveFolder, this)),
      loader_(new FootageLoader(this)),
      outsides_(
          [](const OutsideQuestion& of, const std::stop_token&) { return outsideRuns(*of.reading, of.piece, of.span); },
          [this](const std::vector<OutsideRun>& runs) {
            outside_ = runs;
            emit outsideKnown();
          }) {
  read();
  connect(document_, &Document::changed, this, &Session::projectChanged);
  connect(document_, &Document::replaced, this, &Session::projectReplaced);
  connect(document_, &Document::autosaveFailed, this, &Session::said);
  connect(loader_, &FootageLoader::firstPicture, this, &Session::firstPicture);
  connect(loader_, &FootageLoader::indexed, this, [this](double part) {
    indexing_ = part;
    emit footageIndexed();
  });
  connect(loader_, &FootageLoader::opened, this, [this](const std::shared_ptr<const Footage>& footage) {
    footage_ = footage;
    indexing_ = -1;
    emit footageArrived();
    projectChanged();
  });
  connect(loader_, &FootageLoader::failed, this, [this](const QString& sentence) {
    indexing_ = -1;
    emit footageLeaves();
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
  return footage_ ? spanOf(project(), length()) : Span{0, 0};
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

void Session::select(std::size_t tile) {
  selected_ = std::min(tile, project().chain.size() + 1);
  document_->endGesture();
  emit selectionChanged();
}

void Session::goTo(std::int64_t frame) {
  if (!footage_) return;
  emit playheadTaken();
  follow(std::clamp<std::int64_t>(frame, 0, length() - 1));
}

void Session::follow(std::int64_t frame) {
  frame_ = frame;
  emit frameChanged();
}

Rational Session::stageMoment(std::size_t stage) const {
  // Down through the stages after it, to what is seen of the stage.
  const Stage& own = project().chain[stage];
  const Moment at = reading_->present(placeOn(stage) + (own.on ? 1 : 0), piece_.moment(frame_));
  const Rational off = at.off == 0 ? Rational(0) : Rational::near(at.off);
  return std::max(Rational(0), (at.exact() + off) / piece_.chainRate);
}

void Session::useFootage(const QString& path) {
  const QString absolute = QFileInfo(path).absoluteFilePath();
  // The same path again: what stands there now may be readable.
  if (absolute.toStdString() == askedPath_ && !footage_) return load();
  if (footage_) emit replacing();
  const Edit edit = replaceFootage(project(), absolute.toStdString(), QFileInfo(path).fileName().toStdString());
  // To open a clip is no edit: there was nothing, and nothing is lost by letting it go.
  const bool empty = project().source.path.empty() && project().chain.empty() && !document_->modified();
  empty ? document_->newProject(edit.after) : apply(edit);
}

void Session::load() {
  footage_.reset();
  outsides_.forget();
  outside_.clear();
  emit footageLeaves();
  indexing_ = -1;
  askedPath_ = project().source.path;
  askedRate_ = project().source.rate;
  if (askedPath_.empty()) return loader_->cancel();
  indexing_ = 0;
  loader_->load(QString::fromStdString(askedPath_), askedRate_);
}

void Session::read() {
  reading_ = std::make_shared<ChainReading>(project().chain, video(), nullptr, Chain{},
                                            footage_ ? std::optional(footage_->clock()) : std::nullopt);
  const std::int64_t before = piece_.length;
  piece_ = pieceOf(reading_->outgoing(), project().output);
  frame_ = std::clamp<std::int64_t>(frame_, 0, std::max<std::int64_t>(0, length() - 1));
  // Until it is known anew, what was known stands, unless it is about other pictures.
  if (piece_.length != before) outside_.clear();
  if (footage_) outsides_.ask({reading_, piece_, span()});
}

void Session::projectReplaced() {
  frame_ = 0;
  selected_ = project().chain.empty() ? 0 : 1;
  load();
  projectChanged();
}

void Session::projectChanged() {
  // A step of undo may bring other footage back.
  if (askedPath_ != project().source.path ||
      (footage_ && footage_->hasFreeRate() && askedRate_ != project().source.rate))
    load();
  selected_ = std::min(selected_, project().chain.size() + 1);
  read();
  emit changed();
}

}  // namespace molten

#include "app/picture/viewing.h"

#include "app/playback/player.h"
#include "core/stages/shot_row.h"
#include "core/time/frame_clock.h"

namespace molten {

Viewing::Viewing(Session& session, Player& player, PictureView& picture, QObject* parent)
    : QObject(parent), session_(session), player_(player), picture_(picture) {
  remarkTimer_.setSingleShot(true);
  connect(&remarkTimer_, &QTimer::timeout, this, [this] {
    remark_.clear();
    refreshLaid();
  });
  connect(&session_, &Session::footageLeaves, this, [this] {
    trouble_.clear();
    roughly_ = false;
  });
  connect(&session_, &Session::changed, this, &Viewing::refresh);
  connect(&session_, &Session::selectionChanged, this, &Viewing::refresh);
  connect(&session_, &Session::frameChanged, this, [this] {
    if (!player_.playing()) return refresh();
    refreshLaid();
    emit refreshed();
  });
  connect(&picture_, &PictureView::viewChanged, this, &Viewing::refresh);
  connect(&player_, &Player::pictureReady, this, [this](const QImage& image, const QImage& other, const Shown& about) {
    if (suspended_) return;
    picture_.setImage(image);
    picture_.setOther(other);
    if (!trouble_.isEmpty() || smallerForMemory_ != about.forMemory || roughly_ != about.roughly) {
      trouble_.clear();
      roughly_ = about.roughly;
      smallerForMemory_ = about.forMemory;
      refreshLaid();
    }
    if (about.view.sides && !about.roughly) emit sidesShown(about.sides);
    if (!about.forSpeed) emit shownInFull();
    emit shown();
  });
  connect(&player_, &Player::begins, this, &Viewing::refresh);
  connect(&player_, &Player::frameReached, &session_, &Session::follow);
  connect(&player_, &Player::failed, this, [this](const QString& sentence) {
    trouble_ = sentence;
    player_.stop();
    refreshLaid();
  });
}

void Viewing::bypass(bool on) {
  if (bypassed_ == on || !session_.footage()) return;
  bypassed_ = on;
  refresh();
}

void Viewing::suspend(bool on) {
  suspended_ = on;
  refresh();
}

void Viewing::remark(const QString& sentence) {
  remark_ = sentence;
  remarkTimer_.start(8000);
  refreshLaid();
}

PictureState Viewing::state() const {
  PictureState state;
  if (suspended_)
    state.title = tr("Live");
  else if (session_.footage())
    state.title = tr("Picture · %1").arg(QString::fromStdString(timecode(session_.shownFrame(), session_.shownPiece().rate)));
  else if (session_.indexing() >= 0)
    state.title = tr("Picture · first frame, the others are being found");
  if (roughly_) state.title += tr(" · one near it, until its own is decoded");
  state.bypassed = bypassed_;
  state.message = trouble_;
  if (smallerForMemory_)
    state.corner =
        tr("Shown smaller: this reach does not fit the memory budget at full size. Rendering is not affected.");
  for (const auto& part : parts_) part(state);
  // Across and Down are the clip's.
  if (suspended_) state.marks.reset();
  if (state.field) state.title += tr(" · field shown");
  // The newest sentence is what is to be read.
  if (!remark_.isEmpty()) state.corner = remark_;
  return state;
}

void Viewing::refreshLaid() {
  picture_.setState(state());
}

/// The reel; none where what is worked on is shown by itself.
std::optional<View> Viewing::ofReel() const {
  const auto shot = session_.inReel();
  if (!shot) return std::nullopt;
  const Played& played = *session_.reel().played();
  // Places of a shot of another shape are not those of what it is fitted into: while it stands still it is seen by itself.
  const auto shapeOf = [](const VideoDescription& video) { return video.pixelAspect * Rational(video.size.width, video.size.height); };
  const VideoDescription row = videoAt(played.chain, played.chain.size(), session_.video());
  if (!player_.playing() && !(shapeOf(session_.reading()->outgoing()) == shapeOf(row))) return std::nullopt;
  // The same row, with other chains.
  const auto withRow = [&](const std::function<Chain(const Chain&, bool inHand)>& chainOf, bool all) {
    auto other = std::make_shared<ShotRow>(*played.row);
    for (std::size_t k = 0; k < other->shots.size(); ++k) {
      const ShotTime& time = played.times[k];
      other->shots[k].chain = chainInRow(chainOf(shotOf(session_.whole(), time.shot).chain, time.shot == session_.shot()), time);
    }
    return all ? chainOfRow(session_.whole(), other) : Chain{shotRow(std::move(other))};
  };
  View view;
  // Before: the footage at the same moment of the reel, as if there were no chains.
  view.chain = bypassed_ ? withRow([](const Chain&, bool) { return Chain(); }, false) : played.chain;
  view.frame = session_.shownFrame();
  view.piece = played.piece;
  view.files = session_.filesSeen();
  view.sounds = followedSounds(session_.whole());
  if (bypassed_) return view;
  if (const auto other = other_()) {
    view.other = withRow(
[&](const Chain& own, bool inHand) { return inHand ? *other : own; }, true);
    view.otherPiece = played.piece;
  }
  view.sides = sides_();
  if (view.sides)
    view.sides->shot = ShotShown{session_.project().chain, {{session_.project().source.path, session_.project().source.rate}, session_.project().source.between}, session_.followed()};
  return view;
}

/// What comes after the last cut is worked on: its stages over the row of shots.
View Viewing::ofRow() const {
  const Played& played = *session_.reel().played();
  const auto over = [&](const Chain& chain) {
    Project project = session_.whole();
    project.reelChain = chain;
    return chainOfRow(project, played.row);
  };
  const auto instead = bypassed_ || player_.playing() ? std::nullopt : instead_();
  View view;
  view.chain = bypassed_ ? Chain{shotRow(played.row)} : instead ? over(instead->chain) : played.chain;
  view.frame = session_.frame();
  view.piece = played.piece;
  view.files = session_.filesSeen();
  view.sounds = session_.followed();
  if (instead) {
    view.piece = pieceOf(view.chain, {}, session_.video());
    view.frame = std::clamp<std::int64_t>((instead->at * view.piece.rate + Rational(1, 2)).floor(), 0, view.piece.length - 1);
  } else if (!bypassed_) {
    if (const auto other = other_()) view.other = over(*other), view.otherPiece = played.piece;
    // The row is a stage before theirs.
    if (!session_.whole().stopsAtCuts) view.sides = sides_();
    if (view.sides) ++view.sides->stage;
  }
  return view;
}

/// What is worked on by itself.
View Viewing::ofShot() const {
  const Project& project = session_.project();
  const auto instead = bypassed_ ? std::nullopt : instead_();
  View view;
  view.chain = project.chain;
  view.frame = session_.frame();
  view.piece = session_.piece();
  view.between = project.source.between;
  view.files = session_.filesSeen();
  view.sounds = session_.followed();
  if (session_.isReel()) view.source = SourceUse{project.source.path, project.source.rate};
  if (bypassed_) {
    // Before: the footage at the same moment of the output, as if there were no chain.
    view.chain.clear();
    view.piece = pieceOf(session_.video(), project.output);
  } else if (instead) {
    view.chain = instead->chain;
    view.piece = pieceOf(view.chain, {}, session_.video());
    view.frame = std::clamp<std::int64_t>((instead->at * view.piece.rate + Rational(1, 2)).floor(), 0, view.piece.length - 1);
  } else {
    view.other = other_();
    if (view.other) view.otherPiece = pieceOf(*view.other, project.output, session_.video());
    view.sides = sides_();
  }
  return view;
}

void Viewing::refresh() {
  refreshLaid();
  if (!session_.footage() || suspended_) return;
  const bool instead = !bypassed_ && !player_.playing() && instead_(), row = session_.reelInHand() && session_.playsReel();
  const auto reel = row ? std::optional(ofRow()) : instead ? std::nullopt : ofReel();
  View view = reel ? *reel : ofShot();
  // What is worked on has been read already.
  const bool known = !reel && !instead && !bypassed_;
  const VideoDescription shown = known ? session_.reading()->outgoing() : videoAt(view.chain, view.chain.size(), session_.video());
  picture_.setPictureShape(shown.size, shown.pixelAspect.toDouble());
  view.screen = picture_.wantedSize();
  player_.setSpan(session_.shownSpan());
  player_.setView(view);
  emit refreshed();
}

}  // namespace molten

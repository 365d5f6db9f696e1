#include "app/picture/viewing.h"

#include "app/playback/player.h"
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

void Viewing::remark(const QString& sentence) {
  remark_ = sentence;
  remarkTimer_.start(8000);
  refreshLaid();
}

PictureState Viewing::state() const {
  PictureState state;
  if (session_.footage())
    state.title = tr("Picture · %1").arg(QString::fromStdString(timecode(session_.frame(), session_.piece().rate)));
  else if (session_.indexing() >= 0)
    state.title = tr("Picture · first frame, the others are being found");
  if (roughly_) state.title += tr(" · one near it, until its own is decoded");
  state.bypassed = bypassed_;
  state.message = trouble_;
  if (smallerForMemory_)
    state.corner =
        tr("Shown smaller: this reach does not fit the memory budget at full size. Rendering is not affected.");
  for (const auto& part : parts_) part(state);
  if (state.field) state.title += tr(" · field shown");
  // The newest sentence is what is to be read.
  if (!remark_.isEmpty()) state.corner = remark_;
  return state;
}

void Viewing::refreshLaid() {
  picture_.setState(state());
}

void Viewing::refresh() {
  refreshLaid();
  if (!session_.footage()) return;
  const Project& project = session_.project();
  const auto instead = bypassed_ ? std::nullopt : instead_();
  const VideoDescription shownVideo = bypassed_ ? session_.video()
                                      : instead ? videoAt(instead->chain, instead->chain.size(), session_.video())
                                                : session_.reading()->outgoing();
  picture_.setPictureShape(shownVideo.size, shownVideo.pixelAspect.toDouble());
  player_.setSpan(session_.span());
  // Before: the footage at the same moment of the output, as if there were no chain.
  View view{bypassed_ ? Chain{} : project.chain,
            session_.frame(),
            picture_.wantedSize(),
            bypassed_ ? pieceOf(shownVideo, project.output) : session_.piece(),
            project.source.between,
            {},
            {},
            {},
            session_.filesSeen(),
            followedSounds(session_.whole())};
  if (instead) {
    view.chain = instead->chain;
    view.piece = pieceOf(shownVideo, {});
    view.frame = std::clamp<std::int64_t>((instead->at * view.piece.rate + Rational(1, 2)).floor(), 0, view.piece.length - 1);
  } else if (!bypassed_) {
    view.other = other_();
    if (view.other) view.otherPiece = pieceOf(*view.other, project.output, session_.video());
    view.sides = sides_();
  }
  player_.setView(view);
  emit refreshed();
}

}  // namespace molten

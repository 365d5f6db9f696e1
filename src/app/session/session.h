#pragma once
// The session: what is open, and where one stands in it.

#include <QFileSystemWatcher>
#include <QObject>
#include <memory>
#include <optional>
#include <vector>

#include "app/document/document.h"
#include "app/session/reel_reading.h"
#include "core/media/footage.h"
#include "core/project/branch.h"
#include "core/project/piece.h"
#include "core/project/sound_edits.h"
#include "core/stages/chain_reading.h"

namespace molten {

class FootageLoader;

/// The document, its footage, the selected tile of the Chain, the playhead, and the one reading of the chain that all
/// rooms ask. Whoever changes something changes it here; everybody else is told. Some fifty methods, since most answer
/// one question about what is open.
class Session : public QObject {
  Q_OBJECT

 public:
  explicit Session(const QString& autosaveFolder, QObject* parent = nullptr);
  ~Session() override;

  Document& document() const { return *document_; }
  /// What is worked on: the document's project; of a reel, the shot in hand as a project of its own; within a branch, that one's
  /// source and chain.
  const Project& project() const { return project_; }
  /// All of the document's.
  const Project& whole() const { return document_->project(); }
  /// One step of undo, or a part of one (Edit::mergeKey). Within a branch what it has not is refused, with a sentence.
  void apply(const Edit& edit);
  /// Likewise, of whole(): the shot in hand is then the one with that number.
  void applyToReel(const Edit& edit, std::size_t shot);

  /// Shots in a row.
  bool isReel() const { return molten::isReel(whole()); }
  const ReelReading& reel() const { return *reel_; }
  /// The shot in hand: 0 where there is one alone.
  std::size_t shot() const { return shot_; }
  /// Another one is in hand; the playhead goes to its beginning, unless it is there.
  void takeShot(std::size_t shot);
  /// All of them together are in hand: the chain that is worked on is the one after the last cut.
  bool reelInHand() const { return reelInHand_; }
  void takeReel();
  /// What is shown and played is the reel: not a shot by itself, nor a branch.
  bool playsReel() const { return inReel() || (reelInHand_ && within_.empty() && reel_->played()); }
  /// Playing goes round in the shot in hand.
  bool shotAlone() const { return shotAlone_; }
  void setShotAlone(bool alone);
  /// The sounds that values of what is worked on go by.
  FollowedSounds followed() const;
  /// True while other footage comes because another shot of the same reel is in hand.
  bool changesShot() const { return changesShot_; }
  /// The playhead of the reel has come to rest: the shot that is there is in hand.
  void arrive();
  /// The shot that is seen at a picture of the reel: the one in hand where two are.
  std::size_t shotUnder(std::int64_t frame) const;
  /// The shot in hand among the reel's pictures; none where there is no reel, it is off, or a branch is worked in.
  std::optional<ShotFrames> inReel() const;

  /// The way into the branch that is worked on; empty: the shot's own chain.
  const BranchPath& within() const { return within_; }
  /// The stage whose branch that is. Requires that there is one.
  const Stage& branching() const;
  /// Work goes on in the chain of a stage's own source, where it has one that is footage; and back out of it.
  void enter(std::size_t stage);
  void leave();

  /// None while it is opened, or where it cannot be.
  const std::shared_ptr<const Footage>& footage() const { return footage_; }
  /// How much of the footage's frames has been found while it is opened, 0…1; below 0: nothing is being opened.
  double indexing() const { return indexing_; }
  bool isOpening() const { return indexing_ >= 0; }
  /// Other footage in place of what there is; the chain stays. The same path again tries once more. `everywhere`: in all shots that have
  /// what the one in hand has.
  void useFootage(const QString& path, bool everywhere = false);

  /// A file that sources are made of has another content.
  void fileHasChanged(const std::string& path);

  /// The footage as the chain takes it; without footage, something of the same kind.
  VideoDescription video() const;
  /// Of the project's chain on that: made once per edit.
  const std::shared_ptr<const ChainReading>& reading() const { return reading_; }
  /// Of what is worked on.
  const Piece& piece() const { return piece_; }
  /// Of what is shown and played: the reel, or the same.
  const Piece& shownPiece() const { return inReel() ? reel_->played()->piece : piece_; }
  std::int64_t shownFrame() const { return inReel() ? reelFrame_ : frame_; }
  /// What is played of it.
  Span shownSpan() const;
  /// In pictures; 0 without footage.
  std::int64_t length() const { return footage_ ? piece_.length : 0; }
  /// Another number: files that stages read as sources have changed since.
  std::uint64_t filesSeen() const { return filesSeen_; }
  /// In and out.
  Span span() const;
  /// Where the piece reads outside of the clip. Found out on a thread of its own: outsideKnown() tells when.
  const std::vector<OutsideRun>& outside() const { return onCamera_ ? nothingOutside_ : outside_; }
  /// The chain runs on a camera: what it would read outside of the clip does not count.
  void setOnCamera(bool on);
  /// What enters a stage of the chain.
  VideoDescription videoInto(std::size_t stage) const { return reading_->video(placeOn(stage)); }
  /// The place among the stages that are on, of one of the chain, or of the first after it.
  std::size_t placeOn(std::size_t stage) const;

  /// A tile of the Chain: 0 is the footage, then the stages, last the output.
  std::size_t selected() const { return selected_; }
  /// The selected tile's stage; none where it is the footage or the output.
  std::optional<std::size_t> selectedStage() const;
  void select(std::size_t tile);
  /// A sound that is in hand instead of the tile; none: the tile is.
  const std::optional<SoundName>& selectedSound() const { return selectedSound_; }
  void selectSound(const SoundName& which);

  /// The playhead, in pictures of the piece.
  std::int64_t frame() const { return frame_; }
  /// A hand takes the playhead somewhere: what plays stops.
  void goTo(std::int64_t frame);
  /// Likewise, in pictures of what is shown.
  void goToShown(std::int64_t frame);
  /// A hand takes the playhead to the last frame of what is played. While the length of some shot of a reel is not known yet,
  /// it stays at the end as lengths become known, until it is taken somewhere else.
  void goToEnd();
  /// The playhead goes along with what plays, in pictures of what is shown.
  void follow(std::int64_t frame);
  /// The playhead on a stage's own output, in seconds: another one than the piece's where later stages move pictures.
  Rational stageMoment(std::size_t stage) const;

 signals:
  void changed();           ///< the project, its footage or its reading
  void outsideKnown();      ///< of the piece as it is now
  void selectionChanged();
  void playheadTaken();     ///< by a hand; frameChanged() follows
  void frameChanged();
  void footageLeaves();     ///< whatever works with it ends now
  void footageIndexed();    ///< a little more of it
  void firstPicture(const QImage& image, const PictureShape& shape);  ///< long before the rest of long footage is known
  void footageArrived();    ///< before changed()
  void footageInSight();    ///< after changed(): what is looked at beside the Picture may begin
  void footageFailed(const QString& sentence);
  void replacing();         ///< other footage is about to come in place of what is there
  void said(const QString& sentence);  ///< to whoever sits before it

 private:
  struct OutsideQuestion {
    std::shared_ptr<const ChainReading> reading;
    Piece piece;
    Span span;
  };
  void watch();
  std::optional<Project> projectWithin(const BranchPath& path) const;
  double soundsLater() const;
  void followReel(std::int64_t frame);
  /// The playhead goes to a frame of the reel, and the shot that is seen there is in hand.
  void standAt(std::int64_t frame);
  /// A frame of the output that exists; as far as that is known, which it is not before the footage is open.
  std::int64_t nearestFrame(std::int64_t frame) const;
  /// What is worked on outside of all branches.
  Project outermost() const;
  bool rowHasChanged() const;
  void goWithin(const BranchPath& path, std::size_t selected, std::int64_t frame);
  void projectReplaced();
  void projectChanged();
  void load();
  void read();

  Document* document_;
  ReelReading* reel_;
  std::size_t shot_ = 0, shotRead_ = 0;  ///< the second: of which reading and playhead are
  std::int64_t reelFrame_ = 0;  ///< the playhead, of a reel
  bool staysAtEnd_ = false;     ///< the playhead went to the end of a reel whose length is not known yet
  bool shotAlone_ = false, changesShot_ = false, reelInHand_ = false;
  Project askedRow_;  ///< whose row is the footage while the reel is in hand
  Project project_;
  BranchPath within_;
  std::optional<std::int64_t> frameToCome_;  ///< the playhead, when what is entered or left to is there
  std::vector<std::int64_t> framesOutside_;  ///< the playhead where each branch was entered
  FootageLoader* loader_;
  std::shared_ptr<const Footage> footage_;
  std::string askedPath_;              ///< of the footage that was last asked for
  QFileSystemWatcher* watcher_;        ///< of other sources
  std::uint64_t filesSeen_ = 0;
  std::optional<Rational> askedRate_;  ///< and the rate that it was to have
  double indexing_ = -1;
  std::size_t selected_ = 0;
  std::optional<SoundName> selectedSound_;
  std::int64_t frame_ = 0;
  std::shared_ptr<const ChainReading> reading_;
  Piece piece_;
  std::vector<OutsideRun> outside_;
  const std::vector<OutsideRun> nothingOutside_;
  bool onCamera_ = false;
  Newest<OutsideQuestion, std::vector<OutsideRun>> outsides_;
};

}  // namespace molten

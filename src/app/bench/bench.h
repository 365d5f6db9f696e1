#pragma once
// The Bench: the main window.

#include <QMainWindow>
#include <memory>

#include "app/ask/ask.h"
#include "app/session/session.h"

class QAction;
class QScrollArea;
class QStackedWidget;

namespace molten {

class Bands;
class ChainActions;
class ChainBar;
class ChainTiles;
class CleanUp;
class Commands;
class Comparison;
class Dials;
class FileActions;
class MissingFinder;
class SourceActions;
class Findings;
class HeardShot;
class LivePanel;
class LiveRoom;
struct Call;
class Hearing;
class FootageDials;
class LogView;
class OutputDials;
class PaceOnChart;
class PictureHands;
class ReelActions;
class ReelStrip;
class PictureView;
class Playback;
class DeferredKeys;
class Player;
class RenderActions;
class SectionView;
class Sections;
class SmallPictureMaker;
class SoundHands;
class StarterActions;
class Deck;
class DeckSplit;
class SpansHands;
class Transport;
class Viewing;
class Welcome;

struct SettingsOf;

struct BenchOptions {
  QString queueFolder;  ///< of the list of renders; empty: the user's own
  QString autosaveFolder;
  QString starterFolder = {};   ///< of the user's own; empty: among the user's data
  std::size_t memoryBytes = 0;  ///< budget where the user has set none
  bool askQuestions = true;     ///< tests answer none
  Ask ask = {};                 ///< who answers; none: the user, by a box
};

/// A frame: makes the views and the rooms that work on them, lays them out, has the menus, and hands on what comes to
/// the window as a whole. What is open, and where one stands in it, is the session's.
class Bench : public QMainWindow {
  Q_OBJECT

 public:
  explicit Bench(const BenchOptions& options, QWidget* parent = nullptr);
  ~Bench() override;

  /// A project or footage, as dropped or named on the command line.
  void openPath(const QString& path);
  /// Shows what is where.
  void lookRound() { act(tr("A look round")); }
  /// Offers work that another run left behind.
  void offerLostWork();
  /// Adds a Time Field that reads a time map.
  void addTimeMap(const QString& path);
  /// The chain runs on a camera, once what is opened is there.
  void beginLive(const Call& call);
  LiveRoom& live() { return *live_; }
  Document& document() { return session_->document(); }
  Player& player() { return *player_; }
  const std::shared_ptr<const Footage>& footage() const { return session_->footage(); }
  bool save();
  /// The run is ended from outside: work is kept for the next start, a render is called off, and the window goes.
  void endNow();

 signals:
  void pictureShown();

 protected:
  void closeEvent(QCloseEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void keyReleaseEvent(QKeyEvent* event) override;
  void changeEvent(QEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  SettingsOf settingsOf();
  void act(const QString& entry);  ///< of the menus, by its name
  void makeViews();
  void makeRooms();
  void buildMenus();
  void connectRooms();
  void layOut();
  /// Tab goes from the Chain to the Dials, then the deck, then the transport.
  void orderTabs();
  bool reelInSight() const;
  void fillWindow();
  void showTitle();
  void say(const QString& sentence);

  BenchOptions options_;
  Session* session_;
  Commands* commands_;
  // views
  Player* player_;
  ReelStrip* reel_;
  ChainBar* chain_;
  PictureView* picture_;
  Welcome* welcome_;
  QStackedWidget* pictureOrWelcome_;
  Dials* dials_;
  OutputDials* outputDials_;
  FootageDials* footageDials_;
  QStackedWidget* dialsPages_;  ///< of a stage, of the output, or of the footage
  QScrollArea* dialsFrame_;
  SectionView *across_, *down_;
  Bands* bands_;
  Deck* deck_;
  DeckSplit* split_;
  LivePanel* livePanel_;
  Transport* transport_;
  LogView* log_;
  QAction* fillAction_ = nullptr;
  // rooms
  Viewing* viewing_ = nullptr;
  DeferredKeys* deferredKeys_;
  Playback* playback_;
  PictureHands* hands_;
  Comparison* comparison_;
  PaceOnChart* pace_;
  SpansHands* spans_;
  HeardShot* heardShot_;
  Hearing* hearing_;
  SoundHands* sounds_;
  Sections* sections_;
  Findings* findings_;
  ChainTiles* tiles_;
  ReelActions* reelActions_;
  ChainActions* chainActions_;
  StarterActions* starters_;
  FileActions* files_;
  MissingFinder* missing_;
  CleanUp* cleanUp_;
  SourceActions* sources_;
  RenderActions* render_;
  LiveRoom* live_ = nullptr;
};

}  // namespace molten

#pragma once
// The Bench: the main window.

#include <QMainWindow>
#include <QTimer>
#include <functional>
#include <memory>
#include <optional>

#include "app/ask/ask.h"
#include "app/chart/chart_plot.h"
#include "app/document/document.h"
#include "app/picture/picture_view.h"
#include "app/render/render_dialog.h"
#include "core/media/footage.h"
#include "core/project/piece.h"

class QAction;
class QLabel;
class QMenu;
class QStackedWidget;

namespace molten {

class ChainBar;
class OutputDials;
class LogView;
class LoopFinder;
struct MeasuredFootage;
class Dials;
class FootageLoader;
class PaintedPicture;
class Player;
class FootageDials;
class Scrubber;
class SectionView;
class Slices;
class SmallPictureMaker;
class Stroke;
class TimeChart;
class Tracer;
struct StepWidths;
struct TraceAnswer;
class StageCosts;
class StartersView;
class Transport;
struct Starter;
class Welcome;

struct BenchOptions {
  QString autosaveFolder;
  QString starterFolder = {};   ///< of the user's own; empty: among the user's data
  std::size_t memoryBytes = 0;  ///< budget where the user has set none
  bool askQuestions = true;     ///< tests answer none
  Ask ask = {};                 ///< who answers; none: the user, by a box
};

class Bench : public QMainWindow {
  Q_OBJECT

 public:
  explicit Bench(const BenchOptions& options, QWidget* parent = nullptr);
  ~Bench() override;

  /// A project or footage, as dropped or named on the command line.
  void openPath(const QString& path);
  /// Offers work that another run left behind.
  void offerLostWork();
  /// Adds a Time Field that reads a time map.
  void addTimeMap(const QString& path);
  Document& document() { return *document_; }
  Player& player() { return *player_; }
  const std::shared_ptr<const Footage>& footage() const { return footage_; }
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
  void buildMenus();
  void connectViews();
  void connectChart();
  void connectPicture();
  void connectSections();
  void connectFindings();
  QAction* add(QMenu* menu, const QString& text, const QKeySequence& keys, const std::function<void()>& act);

  // project and footage
  bool mayLeave();
  void newProject();
  void openDialog();
  void openFolder();
  void openAnew(const QString& path);
  QString demoFolder() const;
  void openDemo();
  bool saveAs();
  void replaceDialog();
  void useFootage(const QString& path);
  void setFootageRate(Rational rate);
  void loadFootage();
  void footageOpened(const std::shared_ptr<const Footage>& footage);
  void footageFailed(const QString& sentence);
  void remember(const QString& path);
  void fillRecent();
  void buildMemoryMenu(QMenu* menu);
  void setMemory(std::size_t bytes);
  void showTrouble(const QString& sentence);
  bool saveTo(const QString& path);
  bool settleChangedFile();
  void noticeFaults();
  void tellWhatNoLongerFits();
  void showWhere(const std::vector<std::int32_t>& frames);
  int ask(const QString& title, const QString& sentence, const QStringList& answers);

  // what is shown
  void projectReplaced();
  void projectChanged();
  void refreshPiece();
  void refreshChain();
  void refreshDials();
  MeasuredFootage measuredFootage() const;
  void refreshSeam();
  void act(const QString& action);
  /// Frames that enter the selected stage as frames of the footage, as nearly as whole pictures tell.
  std::int32_t footageFrame(std::int32_t frame) const;
  /// The playhead in pictures of what the chart shows.
  std::int64_t chartFrame() const;
  void refreshPicture();
  void showPlayhead();
  void refreshTransport();
  void refreshTitle();
  PictureState pictureState() const;
  VideoDescription video() const;
  /// What enters a stage of the chain: asked of the chain's reading.
  VideoDescription videoInto(std::size_t stage) const;
  /// The place among the stages that are on, of one of the chain, or of the first after it.
  std::size_t placeOn(std::size_t stage) const;
  std::int64_t length() const { return footage_ ? piece_.length : 0; }
  Span span() const;
  std::optional<std::size_t> selectedStage() const;
  QString outsideSentence() const;
  void say(const QString& sentence);

  // what is done
  void apply(const Edit& edit);
  void seek(std::int64_t frame);
  void shuttle(int direction);
  void togglePlay();
  void showBefore(bool on);
  void select(std::size_t tile);
  void addKind(const StageKind& kind);
  void addStageMenu(const QPoint& at);
  void stageMenu(std::size_t tile, const QPoint& at);
  void renameSelected();
  void copyStages();
  void pasteStages();
  void refreshCosts();
  Chain stagesOn() const;
  QString starterFolder() const;
  void showStarters();
  void saveStarterDialog();
  void useStarter(const Starter& starter);
  void openStarter(const QString& path);
  void removeSelected();
  void duplicateSelected();
  void moveSelected(int by);
  void switchSelected();
  void fillWindow(bool on);

  // hands on the Picture, and keys
  void setDial(std::size_t parameter, const ParameterValue& value);
  void toggleKey(std::size_t parameter);
  void removeKeys(std::size_t parameter);
  void refreshLanes();
  void connectLanes();
  std::string changeName(const Stage& stage, const StageValues& values, Rational at) const;
  void pickPlace(Place place);
  /// What a stage reads at a place of its picture, in seconds beside that picture's moment.
  double momentAt(std::size_t stage, Place place) const;
  std::optional<std::size_t> paintedParameter() const;
  std::shared_ptr<const PaintedPicture> paintingInHand() const;
  void setPainting(std::shared_ptr<const PaintedPicture> picture, const std::string& name);
  void paintTo(Place place);
  void fillLasso();
  void addPaths(PictureState& state, const Stage& stage, const VideoDescription& in) const;

  // Across and Down, what the pixels read, and comparing
  void layOut();
  void showSections(bool on);
  void askReads();
  void tellReads(const TraceAnswer& answer);
  void tellSteps(const StepWidths& widths);
  void clearPointed();
  void refreshSlices();
  void refreshSections();
  void buildCompareMenu(QMenu* view);
  void refreshCompare();
  std::optional<Chain> otherChain() const;
  QString otherName() const;

  // the Pace on the Time Chart
  void buildPaceMenu(QMenu* menu);
  void refreshChart();
  ChartState chartState() const;
  /// The stage that the chart edits: the selected Pace, or the first one.
  std::optional<std::size_t> paceStage() const;
  /// What the Pace is, or would be if one were added at the footage.
  PaceSetting pace() const;
  /// True if chart and chain tell the same time: nothing after the Pace moves pictures, and nothing before it.
  bool paceTellsOutputTime(std::size_t stage) const;
  void setPace(const PaceSetting& pace, const QString& name, const QString& mergeKey);
  /// The playhead on the Pace's own output: another one than the piece's where later stages move pictures.
  Rational playhead() const;
  /// The playhead on a stage's own output, in seconds: another one than the piece's where later stages move pictures.
  Rational stageMoment(std::size_t stage) const;
  std::size_t spanInHand() const;
  std::optional<std::size_t> markInHand() const;
  void dropMark();
  void lineUp();
  void goToMark(int direction);
  void typePace(const QString& question, const QString& text, const QString& name, ChartPlot::TypedEdit edit);
  QAction* addPace(QMenu* menu, const QString& text, const QKeySequence& keys, const std::function<void()>& act);
  void renderDialog();

  BenchOptions options_;
  Document* document_;
  FootageLoader* loader_;
  Player* player_;
  std::shared_ptr<const Footage> footage_;
  ChainBar* chain_;
  PictureView* picture_;
  Welcome* welcome_;
  QStackedWidget* stage_;  ///< welcome or picture
  Dials* dials_;
  OutputDials* outputDials_;
  FootageDials* footageDials_;
  QStackedWidget* dialsPages_;  ///< of a stage, of the output, or of the footage
  QWidget *dialsFrame_, *lower_;
  LoopFinder* loops_;
  StageCosts* costs_;
  LogView* log_;
  StartersView* starters_ = nullptr;
  TimeChart* chart_;
  SmallPictureMaker* smallPictures_;
  QMenu* paceMenu_ = nullptr;
  Scrubber* scrubber_;
  Transport* transport_;
  QMenu* recent_;
  QAction* fillAction_ = nullptr;
  QAction *switchAction_, *renameAction_, *duplicateAction_, *copyAction_, *pasteAction_, *leftAction_, *rightAction_,
      *removeAction_;
  QLabel* titleLabel_;
  std::vector<QAction*> needFootage_, needStage_;
  std::unique_ptr<RenderDialog> render_;
  /// What was so on the footage that is being replaced.
  struct Holding {
    bool endless = false, trimmed = false;
    QStringList notes;
  };
  Holding whatHolds() const;
  std::optional<Holding> heldBefore_;  ///< none: nothing is being replaced
  RenderPlace mapPlace_;  ///< where a time map was rendered to last
  std::size_t selected_ = 0;                         ///< tile
  Piece piece_;                                      ///< of the project on its footage
  std::shared_ptr<const ChainReading> reading_;      ///< of the project's chain; made once per edit
  std::shared_ptr<const ChainReading> readingInto_;  ///< of the stages before the selected one
  std::vector<OutsideRun> outside_;
  std::vector<std::int64_t> shownWhere_;  ///< pictures that the Log was asked to show
  std::int64_t frame_ = 0;
  bool before_ = false;
  double indexing_ = -1;               ///< 0…1 while footage is opened
  std::string asked_;                  ///< path of the footage that was last asked for
  std::optional<Rational> askedRate_;  ///< and the rate that it was to have
  QString trouble_;                    ///< why there is no picture
  QString remark_;                     ///< said at the picture's lower edge for a while
  bool smallerForMemory_ = false;
  SectionView *across_, *down_;
  Slices* slices_;
  Tracer* tracer_;
  bool sectionsShown_ = true, stepsShown_ = false;
  Place marks_{0.5, 0.5};         ///< the column and the row that Down and Across show
  std::optional<Place> pointed_;  ///< the pixel that is pointed at
  QString pointedWords_;
  std::optional<double> pointedSeconds_;         ///< what it reads
  std::vector<double> acrossReads_, downReads_;  ///< in frames of the footage
  double readsNow_ = 0;                          ///< in seconds
  Chain askedChain_;                             ///< whose reads were last asked for
  QTimer stillTimer_;
  StageValues pulledFrom_;  ///< the selected stage's when its line was taken hold of
  bool mayPull_ = false;    ///< the selected stage displaces pixels
  double pulledAt_ = 0;
  enum class ComparedWith { Footage, WithoutStage, VersionB };
  Comparing comparing_ = Comparing::Off;
  ComparedWith comparedWith_ = ComparedWith::Footage;
  QAction *compareActions_[4] = {}, *withActions_[3] = {}, *swapAction_ = nullptr;
  std::string picking_;             ///< the action that waits for a place of the Picture
  std::unique_ptr<Stroke> stroke_;  ///< that is being drawn
  std::vector<Place> lasso_;        ///< likewise, in pixels of the painting
  QTimer measureTimer_, remarkTimer_;
};

}  // namespace molten

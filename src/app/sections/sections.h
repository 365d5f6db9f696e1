#pragma once
// Across and Down, and what the pixels read.

#include <QObject>
#include <QTimer>
#include <optional>
#include <vector>

#include "app/picture/moment_finder.h"
#include "app/picture/picture_view.h"
#include "app/sections/section_view.h"

namespace molten {

class Bands;
class ChartPlot;
class Slices;
class Tracer;
class Viewing;
struct StepWidths;
struct TraceAnswer;

/// Asks what the pixels at the marked row and column read, and the one that is pointed at; tells it in Across, in Down,
/// on the Picture and on the chart; and makes edits of a section's line that is pulled.
class Sections : public QObject {
  Q_OBJECT

 public:
  struct Views {
    PictureView& picture;
    SectionView &across, &down;
    Bands& bands;
    ChartPlot& plot;
  };
  Sections(Session& session, Player& player, Viewing& viewing, const Views& views, QObject* parent = nullptr);

  /// Across and Down are wanted; they are in sight where a stage of the chain displaces pixels.
  bool wanted() const { return wanted_; }
  void want(bool on);
  bool inSight() const { return inSight_; }
  /// The borders between frames are drawn on the Picture.
  void showBorders(bool on);
  bool bordersShown() const { return bordersShown_; }
  /// The field is laid over the Picture; without being asked for, while it is painted or its handles are in hand.
  void showField(bool on);
  bool fieldShown() const { return fieldShown_; }
  void refresh();

 signals:
  void inSightChanged(bool on);
  void widthsMeasured(const StepWidths& widths);  ///< of the selected stage's steps

 private:
  void connectSection(SectionView& section);
  void ask();
  void tell(const TraceAnswer& answer);
  void pointAt(std::optional<Place> place);
  void mark(Place marks);
  void takeLine(Place place);
  void pull(double seconds);
  void letGo();
  void refreshSlices();
  void lay(PictureState& state) const;
  bool fieldWanted() const;
  void zoom(double by, double seconds);
  /// What of the footage's time is in sight, in seconds beside now.
  std::pair<double, double> window() const;
  SectionState across(const SectionState& common) const;

  Session& session_;
  Player& player_;
  Viewing& viewing_;
  Views views_;
  Slices* slices_;
  Tracer* tracer_;
  MomentFinder moments_;
  bool wanted_ = true, inSight_ = false, bordersShown_ = false, fieldShown_ = false;
  bool cutting_ = false, cutAgain_ = false;  ///< slices are on their way; and are to be cut anew then
  bool warped_ = false;  ///< the slices lie as a stage lays pictures out
  bool displaces_ = false;  ///< a stage that is on
  bool handleInHand_ = false;
  Place marks_{0.5, 0.5};         ///< the column and the row that Down and Across show
  std::optional<Place> pointed_;  ///< the pixel that is pointed at
  QString pointedWords_;
  std::optional<double> pointedSeconds_;         ///< what it reads
  QString cornerWords_;
  std::optional<std::pair<double, double>> zoomed_;  ///< the window as the hand has made it; none: what is read
  std::vector<double> acrossReads_, downReads_;  ///< in frames of the footage
  double readsNow_ = 0;                          ///< in seconds
  Chain askedChain_;                             ///< whose reads were last asked for
  QTimer stillTimer_;
  /// A section's line in hand.
  struct Pull {
    StageValues from;                ///< the stage's when it was taken hold of
    std::optional<double> at;        ///< what is read there, in seconds beside now; none: not known yet
    std::optional<double> by;        ///< how far it was pulled last
    bool over = false;               ///< it was let go
    std::pair<double, double> window = {};  ///< which stays still under the hand
  };
  std::optional<Pull> pull_;
};

}  // namespace molten

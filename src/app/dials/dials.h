#pragma once
// The Dials: the selected stage's parameters on titled cards in one column. Built from the stage's description.

#include <QWidget>
#include <functional>
#include <map>
#include <optional>
#include <vector>

#include "app/dials/dial_kinds.h"
#include "core/picture/brightness.h"
#include "core/stages/stage.h"

class QImage;
class QLabel;
class QToolButton;
class QVBoxLayout;

namespace molten {

class BrightnessGauge;
class DialCard;
class MovementButton;
class MovementPanel;
class OrderEditor;
class PaintDials;
class SpansEditor;

class Dials : public QWidget {
  Q_OBJECT

 public:
  explicit Dials(QWidget* parent = nullptr);

  /// What is shown instead of a stage.
  void showWords(const QString& title, const QString& words);
  /// `video`: what enters the stage; none while there is no footage. `outputRate`: of the piece, in pictures a second.
  /// `at`: the playhead on the stage's own output, in seconds. `followed`: what moves its values; none: nothing known.
  void showStage(const Stage& stage, const std::optional<VideoDescription>& video, Rational outputRate, Rational at,
                 const Followed* followed = nullptr);
  /// A name instead of the kind's, until something is shown again.
  void setTitle(const QString& title);
  /// Only the playhead has moved: what moves is shown as it is there.
  void showMoment(const Stage& stage, Rational at, const Followed* followed);
  /// The tools of a painting; there all the time, in sight where something is painted.
  PaintDials* paint() { return paint_; }
  /// What was measured of the stage, on the card that it is about; empty: nothing. `remedy`: words to click that mend
  /// it. Goes when another stage is shown.
  void setFinding(Figure figure, const QString& sentence, const QString& remedy = {});
  /// How bright pictures are before the stage and after it, on the card that shows it; none: not known.
  void setBrightness(const std::optional<Brightness>& before, const std::optional<Brightness>& after);
  /// What is shown there is of another picture than the one that is looked at.
  void setBrightnessOld();
  /// Small pictures of the frames that enter the stage; null where there is none yet.
  void setPictures(std::function<QImage(std::int32_t)> pictures);
  void picturesChanged();
  /// The spans of a Pace as a table; none where the stage has none.
  SpansEditor* spans() { return spans_; }

 signals:
  void valueChanged(std::size_t parameter, const ParameterValue& value, bool gesture);
  void keyToggled(std::size_t parameter);
  void keysRemoved(std::size_t parameter);
  void drivesChanged(std::size_t parameter, const Drives& drives, const QString& name, bool gesture);
  void gestureEnded();
  void remedyChosen(Figure figure);
  void actionChosen(const QString& id);
  void picturesWanted(const std::vector<std::int32_t>& frames);
  void manualWanted();    ///< the page of what is shown
  void movementOpened();  ///< what moves a value is to be shown
  void built();           ///< there are other dials

 protected:
  void resizeEvent(QResizeEvent* event) override;

 private:
  void build(const Stage& stage);
  DialCard* cardFor(const std::string& title);
  void addDial(std::size_t parameter);
  void addActions();
  void addSwitches();
  void addSaid(const std::string& title, DialCard& card);
  QWidget* orderEditor(std::size_t parameter);
  void addSpans(std::size_t parameter, QWidget* text);
  QWidget* withMovement(std::size_t parameter, QWidget* dial);
  void openMovement(std::size_t parameter);
  void closeMovement();
  void placeMovement();
  void showNotes(const Stage& stage, const std::optional<VideoDescription>& video, Rational outputRate);
  void clear();

  QLabel* title_;
  QToolButton* manual_;
  QLabel* help_;
  QLabel* words_;  ///< what is said instead of cards
  QVBoxLayout* cards_;
  const StageKind* kind_ = nullptr;
  Rational rate_ = 25;
  std::vector<std::function<void(const ParameterValue&)>> setters_;
  std::vector<QWidget*> rows_;                        ///< of each parameter
  std::map<std::size_t, MovementButton*> movements_;  ///< of those that can move
  MovementPanel* panel_ = nullptr;  ///< if it is open
  std::size_t moved_ = 0;           ///< the parameter that it is about
  PaintDials* paint_;
  std::map<std::string, DialCard*> cardsByTitle_;
  std::map<std::string, std::vector<QWidget*>> switches_;  ///< and actions, by card
  std::map<std::string, QLabel*> notes_;      ///< by card
  std::map<Figure, QLabel*> findings_;
  BrightnessGauge* brightness_ = nullptr;  ///< where a card shows it
  OrderEditor* order_ = nullptr;
  SpansEditor* spans_ = nullptr;
  std::int64_t frames_ = 1;  ///< of the incoming video
  std::function<QImage(std::int32_t)> pictures_;
};

}  // namespace molten

#pragma once
// The Dials: the selected stage's parameters on small titled cards, two across. Built from the stage's description.

#include <QWidget>
#include <functional>
#include <map>
#include <optional>
#include <vector>

#include "core/stages/stage.h"

class QBoxLayout;
class QGridLayout;
class QImage;
class QLabel;
class QVBoxLayout;

namespace molten {

/// A notice on a card, with something that can be done about it.
class MovementButton;
class OrderEditor;
class PaintDials;

class Dials : public QWidget {
  Q_OBJECT

 public:
  explicit Dials(QWidget* parent = nullptr);

  /// What is shown instead of a stage.
  void showWords(const QString& title, const QString& words);
  /// `video`: what enters the stage; none while there is no footage. `outputRate`: of the piece, in pictures a second.
  /// `at`: the playhead on the stage's own output, in seconds.
  void showStage(const Stage& stage, const std::optional<VideoDescription>& video, Rational outputRate, Rational at);
  /// Only the playhead has moved: what has keys is shown as it is there.
  void showMoment(const Stage& stage, Rational at);
  /// The tools of a painting; there all the time, in sight where something is painted.
  PaintDials* paint() { return paint_; }
  /// What was measured of the stage, on the card that it is about; empty: nothing. `remedy`: words to click that mend
  /// it. Goes when another stage is shown.
  void setFinding(Figure figure, const QString& sentence, const QString& remedy = {});
  /// Small pictures of the frames that enter the stage; null where there is none yet.
  void setPictures(std::function<QImage(std::int32_t)> pictures);
  void picturesChanged();

 signals:
  void valueChanged(std::size_t parameter, const ParameterValue& value, bool gesture);
  void keyToggled(std::size_t parameter);
  void keysRemoved(std::size_t parameter);
  void gestureEnded();
  void remedyChosen(Figure figure);
  void refused(const QString& sentence);
  void actionChosen(const QString& id);
  void picturesWanted(const std::vector<std::int32_t>& frames);

 private:
  void build(const Stage& stage);
  void buildFindings(const StageDescription& described, const std::string& card, QBoxLayout& layout);
  QWidget* orderEditor(std::size_t parameter);
  QWidget* dialFor(std::size_t parameter, const ParameterDescription& described);
  QWidget* withMovement(std::size_t parameter, const ParameterDescription& described, QWidget* dial);
  QWidget* fileDial(std::size_t parameter, const ParameterDescription& described);
  static int cardHeight(const Stage& stage, const std::string& card);
  QWidget* colourDial(std::size_t index, const ParameterDescription& parameter);
  QWidget* choicesDial(std::size_t parameter, const ParameterDescription& described);
  QWidget* curveDial(std::size_t index, const ParameterDescription& parameter);
  QWidget* numberDial(std::size_t index, const ParameterDescription& parameter);
  QWidget* toggleDial(std::size_t index, const ParameterDescription& parameter);
  QWidget* textDial(std::size_t index, const ParameterDescription& parameter);
  void clear();

  QLabel* title_;
  QLabel* help_;
  QGridLayout* cards_;
  QWidget* cardsHolder_;
  const StageKind* kind_ = nullptr;
  Rational rate_ = 25;
  std::vector<std::function<void(const ParameterValue&)>> setters_;
  std::vector<QWidget*> rows_;                        ///< of each parameter
  std::map<std::size_t, MovementButton*> movements_;  ///< of those that can move
  PaintDials* paint_;
  std::map<std::string, QLabel*> notes_;  ///< by card
  std::map<std::string, QWidget*> cardFrames_;
  std::map<Figure, QLabel*> findings_;
  OrderEditor* order_ = nullptr;
  std::int64_t frames_ = 1;  ///< of the incoming video
  std::function<QImage(std::int32_t)> pictures_;
};

}  // namespace molten

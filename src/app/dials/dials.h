#pragma once
// The Dials: the selected stage's parameters on small titled cards, two across. Built from the stage's description.

#include <QWidget>
#include <functional>
#include <map>
#include <optional>
#include <vector>

#include "core/stages/stage.h"

class QGridLayout;
class QLabel;
class QVBoxLayout;

namespace molten {

/// A notice on a card, with something that can be done about it.
struct Notice {
  QString text;
  QString remedy;  ///< words to click, or empty
};

class Dials : public QWidget {
  Q_OBJECT

 public:
  explicit Dials(QWidget* parent = nullptr);

  /// What is shown instead of a stage.
  void showWords(const QString& title, const QString& words);
  /// `video`: what enters the stage; none while there is no footage. `outputRate`: of the piece, in pictures a second.
  void showStage(const Stage& stage, const std::optional<VideoDescription>& video, Rational outputRate);
  /// About reads outside the clip; stands on the card of that name.
  void setOutsideNotice(const std::optional<Notice>& notice);

 signals:
  void valueChanged(std::size_t parameter, const ParameterValue& value, bool gesture);
  void gestureEnded();
  void remedyChosen();
  void refused(const QString& sentence);

 private:
  void build(const Stage& stage);
  QWidget* dialFor(std::size_t parameter, const ParameterDescription& described);
  void clear();

  QLabel* title_;
  QLabel* help_;
  QGridLayout* cards_;
  QWidget* cardsHolder_;
  const StageKind* kind_ = nullptr;
  Rational rate_ = 25;
  std::vector<std::function<void(const ParameterValue&)>> setters_;
  std::map<std::string, QLabel*> notes_;  ///< by card
  QLabel* outside_ = nullptr;
};

}  // namespace molten

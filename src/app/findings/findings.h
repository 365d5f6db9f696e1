#pragma once
// What is found out about the selected stage by looking at pictures.

#include <QObject>

#include "app/findings/loop_finder.h"
#include "app/session/session.h"

namespace molten {

class Dials;
class PictureHands;
class Player;
struct StepWidths;

/// Measures seams, the balance of borders and the steps of a field, and says them in the Dials; looks for loops; and
/// begins the other actions that a stage describes.
class Findings : public QObject {
  Q_OBJECT

 public:
  Findings(Session& session, const Player& player, Dials& dials, PictureHands& hands, QObject* parent = nullptr);

  /// How smooth the selected stage's field is, and what would make it smoother.
  void tellSteps(const StepWidths& widths);
  /// Measures what the selected stage has to be measured.
  void refresh();

 private:
  void act(const QString& action);
  void tell(const LoopFinder::Measures& measures);
  void take(const Result<FoundLoop>& loop);
  MeasuredFootage footage() const;

  Session& session_;
  const Player& player_;
  Dials& dials_;
  PictureHands& hands_;
  LoopFinder* loops_;
  std::string looksFor_;  ///< the label of the action that is under way
};

}  // namespace molten

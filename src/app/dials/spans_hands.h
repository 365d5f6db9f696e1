#pragma once
// The table of a Pace's spans, beside the same spans on the Time Chart.

#include <QObject>

#include "core/time/pace_edits.h"

namespace molten {

class Deck;
class Dials;
class Document;
class PaceOnChart;

/// What is set in the table becomes an edit; the span in hand is the same in both, and so is how edits act.
class SpansHands : public QObject {
  Q_OBJECT

 public:
  SpansHands(Document& document, Dials& dials, Deck& deck, PaceOnChart& pace, QObject* parent = nullptr);

 signals:
  void markWanted();  ///< at the playhead

 private:
  void take();
  void showSelected();

  Document& document_;
  Dials& dials_;
  Deck& deck_;
  PaceOnChart& pace_;
  Keeping keeping_ = Keeping::Footage;
  Along along_ = Along::Output;
};

}  // namespace molten

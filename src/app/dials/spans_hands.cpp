#include "app/dials/spans_hands.h"

#include "app/chart/deck.h"
#include "app/chart/pace_on_chart.h"
#include "app/dials/dials.h"
#include "app/dials/spans_editor.h"
#include "app/document/document.h"

namespace molten {

SpansHands::SpansHands(Document& document, Dials& dials, Deck& deck, PaceOnChart& pace, QObject* parent)
    : QObject(parent), document_(document), dials_(dials), deck_(deck), pace_(pace) {
  connect(&dials_, &Dials::built, this, &SpansHands::take);
  connect(deck_.plot(), &ChartPlot::selectionChanged, this, &SpansHands::showSelected);
}

/// Another table stands there.
void SpansHands::take() {
  SpansEditor* const spans = dials_.spans();
  if (!spans) return;
  spans->setHow(keeping_, along_);
  showSelected();
  connect(spans, &SpansEditor::paceChanged, this,
          [this](const PaceSetting& pace, const QString& name, const QString& mergeKey) {
            if (mergeKey.isEmpty()) document_.endGesture();
            pace_.set(pace, name, mergeKey);
            mergeKey.isEmpty() ? document_.endGesture() : document_.endGestureSoon();
          });
  connect(spans, &SpansEditor::spanChosen, this, [this](std::size_t span) {
    if (deck_.plot()->sight().span != span) deck_.plot()->selectSpan(span);
  });
  connect(spans, &SpansEditor::markWanted, this, &SpansHands::markWanted);
  connect(spans, &SpansEditor::howChosen, this, [this](Keeping keeping, Along along) {
    keeping_ = keeping, along_ = along;
    dials_.spans()->setHow(keeping, along);
    deck_.plot()->setKeeping(keeping);
    deck_.plot()->setAlong(along);
  });
}

void SpansHands::showSelected() {
  if (SpansEditor* const spans = dials_.spans()) spans->setSelected(deck_.plot()->sight().span);
}

}  // namespace molten

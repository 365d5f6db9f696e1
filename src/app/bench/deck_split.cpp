#include "app/bench/deck_split.h"

#include <QSettings>
#include <algorithm>

namespace molten {
namespace {

QString keyOf(bool tall) {
  return tall ? "deck/tall" : "deck/low";
}

}  // namespace

DeckSplit::DeckSplit(QWidget* above, QWidget* deck, QWidget* parent) : QSplitter(Qt::Vertical, parent) {
  setObjectName("deckSplit");
  setChildrenCollapsible(false);
  setHandleWidth(4);
  addWidget(above);
  addWidget(deck);
  setStretchFactor(0, 1);
  setStretchFactor(1, 0);
  tall_ = QSettings().value("deck/isTall", false).toBool();
  connect(this, &QSplitter::splitterMoved, this, [this] { QSettings().setValue(keyOf(tall_), sizes()[1]); });
}

int DeckSplit::deckHeight() const {
  // Of what chain and transport leave of the window.
  const double all = height();
  const int usual = tall_ ? std::clamp(static_cast<int>(all * 0.325), 150, 480)
                          : std::clamp(static_cast<int>(all * 0.215), 100, 260);
  return std::min(QSettings().value(keyOf(tall_), usual).toInt(), static_cast<int>(all * 0.7));
}

void DeckSplit::apply() {
  const int deck = deckHeight();
  setSizes({height() - handleWidth() - deck, deck});
}

void DeckSplit::setTall(bool tall) {
  if (tall == tall_) return;
  tall_ = tall;
  QSettings().setValue("deck/isTall", tall);
  apply();
  emit tallChanged(tall);
}

void DeckSplit::resizeEvent(QResizeEvent* event) {
  QSplitter::resizeEvent(event);
  apply();
}

void DeckSplit::showEvent(QShowEvent* event) {
  QSplitter::showEvent(event);
  apply();
}

}  // namespace molten

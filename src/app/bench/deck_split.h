#pragma once
// What stands above the deck, and the deck, which is low or tall.

#include <QSplitter>

namespace molten {

/// Remembers both of the deck's heights; nothing but a hand, and what is asked for here, moves it.
class DeckSplit : public QSplitter {
  Q_OBJECT

 public:
  DeckSplit(QWidget* above, QWidget* deck, QWidget* parent = nullptr);
  bool tall() const { return tall_; }
  void setTall(bool tall);

 signals:
  void tallChanged(bool tall);

 protected:
  void resizeEvent(QResizeEvent* event) override;
  void showEvent(QShowEvent* event) override;

 private:
  /// The deck's height, in pixels: as it was last made, or by the window's.
  int deckHeight() const;
  void apply();

  bool tall_ = false;
};

}  // namespace molten

#pragma once
// Small parts that panels and dialogs share.

#include <QLabel>
#include <QSize>
#include <QString>
#include <string>

namespace molten::theme {

/// Words of the core for the screen.
QString shown(const std::string& words);
/// A note or a label beside what matters: dim, broken into lines.
QLabel* note(const QString& content = {});
/// The line above a card.
QWidget* rule();

/// As large as is wanted, and never larger than the screen.
void resizeWithinScreen(QWidget& window, const QSize& wanted);

/// Words in one line that give way where there is no room; whole in the tool tip.
class OneLine : public QLabel {
 public:
  explicit OneLine(const QString& words = {}, QWidget* parent = nullptr);
  void setWords(const QString& words);
  QSize minimumSizeHint() const override { return {20, QLabel::minimumSizeHint().height()}; }

 protected:
  void paintEvent(QPaintEvent*) override;
};

}  // namespace molten::theme

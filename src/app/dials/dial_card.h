#pragma once
// A card of the Dials: its title, its rows, and a place for what is said on it.

#include <QAbstractButton>
#include <QWidget>

class QLabel;
class QVBoxLayout;

namespace molten {

/// The line above a card. Of a card that folds it is a button that opens it and says how it stands.
class CardHeader : public QAbstractButton {
  Q_OBJECT

 public:
  CardHeader(const QString& title, bool folds, QWidget* parent = nullptr);
  void setWords(const QString& words);
  const QString& words() const { return words_; }
  QSize sizeHint() const override;

 protected:
  void paintEvent(QPaintEvent*) override;
  void enterEvent(QEnterEvent*) override { update(); }
  void leaveEvent(QEvent*) override { update(); }

 private:
  bool folds_;
  QString words_;
};

class DialCard : public QWidget {
  Q_OBJECT

 public:
  /// `lines`: of what is said on it; their place is there whether it is used or not.
  DialCard(const QString& title, bool folds, int lines, QWidget* parent = nullptr);
  void addRow(QWidget* row);
  void addSaid(QLabel* label);
  /// How its values stand, in one line; seen while it is folded.
  void setWords(const QString& words) { header_->setWords(words); }
  QString words() const { return header_->words(); }
  bool open() const { return header_->isChecked(); }
  void setOpen(bool open) { header_->setChecked(open); }
  CardHeader* header() const { return header_; }
  /// True if there is no room for all that is said.
  bool saysTooMuch() const;

 signals:
  void opened(bool on);

 private:
  CardHeader* header_;
  QWidget *body_, *said_;
  QVBoxLayout *rows_, *sentences_;
};

}  // namespace molten

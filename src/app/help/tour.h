#pragma once
// A first look round: what is where, step by step. It can be left at any of them.

#include <QPointer>
#include <QWidget>
#include <vector>

class QLabel;
class QPushButton;

namespace molten {

struct TourStep {
  QPointer<QWidget> at;  ///< what is spoken of
  QString words;
};

/// A card over a window, beside what it speaks of, which has a line round it. All else goes on working.
class Tour : public QWidget {
  Q_OBJECT

 public:
  explicit Tour(QWidget* window);
  /// Nothing happens while it goes on.
  void begin(std::vector<TourStep> steps);
  bool goesOn() const { return isVisible(); }

 signals:
  void left();  ///< at the end, or before

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
  void paintEvent(QPaintEvent* event) override;

 private:
  void step();
  void leave();
  void place();

  std::vector<TourStep> steps_;
  std::size_t at_ = 0;
  QWidget* frame_;
  QLabel *count_, *words_;
  QPushButton *next_, *leave_;
};

}  // namespace molten

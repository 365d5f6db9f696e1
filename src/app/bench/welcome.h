#pragma once
// What a first start shows in place of a picture: what to do, in one glance.

#include <QWidget>

class QLabel;

namespace molten {

class Welcome : public QWidget {
  Q_OBJECT

 public:
  explicit Welcome(QWidget* parent = nullptr);
  /// A sentence about what went wrong, above the rest; empty: nothing did.
  void setTrouble(const QString& sentence);
  /// The choice of other footage for a project whose footage is gone.
  void setReplacing(bool replacing);

 signals:
  void openRequested();
  void demoRequested();

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  QLabel* trouble_;
  QLabel* headline_;
};

}  // namespace molten

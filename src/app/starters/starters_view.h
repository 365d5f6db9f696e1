#pragma once
// Starters: a gallery of ready chains, each shown as what it makes of the present footage.

#include <QDialog>
#include <vector>

#include "core/engine/seam.h"
#include "core/project/starter.h"

class QGridLayout;
class QLabel;
class QToolButton;

namespace molten {

class StarterPictures;

class StartersView : public QDialog {
  Q_OBJECT

 public:
  /// `folder`: where the user's own are kept.
  StartersView(const QString& folder, QWidget* parent);
  /// Those of the program and of the folder, with pictures of this footage.
  void showFor(const MeasuredFootage& from);
  const std::vector<Starter>& starters() const { return starters_; }

 signals:
  void chosen(const Starter& starter);

 protected:
  void hideEvent(QHideEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  void build();
  void place();

  QString folder_;
  std::vector<Starter> starters_;
  std::vector<QToolButton*> tiles_;
  QWidget* holder_;
  QGridLayout* grid_;
  QLabel* words_;
  StarterPictures* pictures_;
};

}  // namespace molten

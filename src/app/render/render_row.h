#pragma once
// One render in the list.

#include <QWidget>

#include "app/render/render_queue.h"

class QLabel;
class QProgressBar;
class QPushButton;

namespace molten {

namespace theme {
class OneLine;
}

class RenderRow : public QWidget {
  Q_OBJECT

 public:
  explicit RenderRow(QWidget* parent = nullptr);
  void tell(const RenderEntry& entry);

 signals:
  void cancelAsked();
  void pauseAsked();
  void resumeAsked();
  void moveAsked(int by);  ///< −1: earlier
  void openAsked();
  void folderAsked();
  void footageAsked();
  void againAsked();
  void removeAsked();

 private:
  /// Where the control that had the focus is gone, another one of this row has it.
  void keepFocus(QWidget* held);

  theme::OneLine *state_, *summary_;
  QProgressBar* bar_;
  QLabel* detail_;
  bool goesOn_ = false;  ///< what pause_ does now
  QPushButton *cancel_, *pause_, *earlier_, *later_, *open_, *openFolder_, *openAsFootage_, *again_, *remove_;
};

}  // namespace molten

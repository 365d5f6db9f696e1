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

 private:
  theme::OneLine *state_, *summary_;
  QProgressBar* bar_;
  QLabel* detail_;
  QPushButton *cancel_, *pause_, *resume_, *earlier_, *later_, *open_, *openFolder_, *openAsFootage_, *again_;
};

}  // namespace molten

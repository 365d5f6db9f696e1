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
  void folderAsked();
  void footageAsked();
  void againAsked();

 private:
  theme::OneLine *state_, *summary_;
  QProgressBar* bar_;
  QLabel* detail_;
  QPushButton *cancel_, *openFolder_, *openAsFootage_, *again_;
};

}  // namespace molten

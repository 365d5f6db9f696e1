#pragma once
// The list of renders: what runs and waits, and the way to the results.

#include <QDialog>
#include <map>

#include "app/render/render_queue.h"

class QLabel;
class QPushButton;
class QScrollArea;
class QVBoxLayout;

namespace molten {

class RenderRow;

/// Beside the Bench, which goes on being worked in.
class RenderList : public QDialog {
  Q_OBJECT

 public:
  explicit RenderList(RenderQueue& queue, QWidget* parent = nullptr);
  /// In front, with its newest row in sight.
  void bringUp();

 signals:
  void footageWanted(const QString& path);
  /// What failed or was cancelled is to be rendered after all.
  void againWanted(const RenderEntry& entry);

 private:
  void refresh();
  RenderRow* makeRow(const RenderEntry& entry);

  RenderQueue& queue_;
  std::map<std::uint64_t, RenderRow*> rows_;
  QLabel* none_;
  QScrollArea* scroll_;
  QVBoxLayout* column_;
  QPushButton* clear_;
};

}  // namespace molten

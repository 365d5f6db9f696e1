#pragma once
// What does not fit after other footage has come, each with what can be done about it.

#include <QDialog>
#include <vector>

#include "core/project/swap.h"

class QVBoxLayout;

namespace molten {

/// Beside the Bench, which goes on being worked in. Gone when everything fits.
class MisfitView : public QDialog {
  Q_OBJECT

 public:
  explicit MisfitView(QWidget* parent);
  void setMisfits(const std::vector<Misfit>& misfits);
  /// In front; keys go on doing what they do in the window behind it.
  void bringUp();

 signals:
  void remedyWanted(const Edit& edit);

 private:
  QVBoxLayout* rows_;
};

}  // namespace molten

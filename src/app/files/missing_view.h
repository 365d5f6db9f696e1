#pragma once
// The list of files that the project names and that are not there.

#include <QDialog>
#include <vector>

#include "core/project/missing_files.h"

class QLabel;
class QVBoxLayout;

namespace molten {

/// Beside the Bench, which goes on being worked in. Gone when nothing is missing any more.
class MissingView : public QDialog {
  Q_OBJECT

 public:
  explicit MissingView(QWidget* parent);
  /// What is missing now.
  void setFiles(const std::vector<MissingFile>& files);
  /// In front; `takesKeys`: otherwise keys go on doing what they do in the window behind it.
  void bringUp(bool takesKeys);

 signals:
  void findWanted(const QString& path);

 private:
  QLabel* words_;
  QVBoxLayout* rows_;
};

}  // namespace molten

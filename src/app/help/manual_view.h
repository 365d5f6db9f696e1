#pragma once
// The manual in a window beside the Bench.

#include <QDialog>

class QLineEdit;
class QListWidget;
class QTextBrowser;

namespace molten {

class ManualView : public QDialog {
  Q_OBJECT

 public:
  explicit ManualView(QWidget* parent = nullptr);
  /// In front, at a page.
  void openAt(const QString& page);

 private:
  void list();
  void read(const QString& page);

  QLineEdit* wanted_;
  QListWidget* pages_;
  QTextBrowser* words_;
};

}  // namespace molten

#pragma once
// Values as a table, in a window of its own beside which one goes on.

#include <QDialog>
#include <QTimer>
#include <functional>
#include <vector>

#include "app/mailbox/newest.h"
#include "app/values/value_tables.h"

class QComboBox;
class QLabel;
class QTableView;

namespace molten {

struct CopiedValues {
  ValueTable table;
  std::vector<int> rows;
};

class ValuesView : public QDialog {
  Q_OBJECT

 public:
  /// `tables`: as things stand; asked for when it is opened and refreshed. Those without rows are not offered.
  ValuesView(std::function<std::vector<ValueTable>()> tables, QWidget* parent = nullptr);
  void bringUp();
  /// While it is in sight.
  void refresh();

 private:
  void list();
  /// What is selected, or all of it, as lines of columns between tabs.
  void copy();

  std::function<std::vector<ValueTable>()> tables_;
  QComboBox* which_;
  QTableView* table_;
  QLabel* none_;
  QTimer again_;
  Newest<CopiedValues, QString> copying_;  ///< a long piece has many rows
};

}  // namespace molten

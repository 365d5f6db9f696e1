#include "app/values/values_view.h"

#include <QAbstractTableModel>
#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QShortcut>
#include <QTableView>
#include <QVBoxLayout>

#include "app/theme/parts.h"

namespace molten {
namespace {

class TableModel : public QAbstractTableModel {
 public:
  explicit TableModel(QObject* parent) : QAbstractTableModel(parent) {}
  /// What is selected stays so where the table stays as long.
  void take(ValueTable table) {
    const bool other = table.name != table_.name || table.rows != table_.rows || table.columns != table_.columns;
    if (other) beginResetModel();
    table_ = std::move(table);
    known_ = -1;
    if (other) return endResetModel();
    if (table_.rows > 0) emit dataChanged(index(0, 0), index(table_.rows - 1, static_cast<int>(table_.columns.size()) - 1));
  }
  const ValueTable& table() const { return table_; }
  int rowCount(const QModelIndex& of = {}) const override { return of.isValid() ? 0 : table_.rows; }
  int columnCount(const QModelIndex& of = {}) const override { return of.isValid() ? 0 : static_cast<int>(table_.columns.size()); }
  QVariant headerData(int section, Qt::Orientation way, int role) const override {
    if (way != Qt::Horizontal || section >= table_.columns.size()) return {};
    if (role == Qt::TextAlignmentRole) return sideOf(section);
    return role == Qt::DisplayRole ? table_.columns[section] : QVariant();
  }
  QVariant data(const QModelIndex& at, int role) const override {
    if (role == Qt::TextAlignmentRole) return sideOf(at.column());
    return role == Qt::DisplayRole && at.isValid() ? cells(at.row()).value(at.column()) : QVariant();
  }

 private:
  /// Words stand at the left of the last column, which is as wide as there is room; numbers at the right of the others.
  QVariant sideOf(int column) const { return QVariant((column + 1 == table_.columns.size() ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter); }
  /// A view asks for a row's cells one after another.
  const QStringList& cells(int row) const {
    if (known_ != row) cells_ = table_.row(row);
    known_ = row;
    return cells_;
  }

  ValueTable table_;
  mutable QStringList cells_;
  mutable int known_ = -1;  ///< the row whose cells are known
};

QString textOf(const CopiedValues& values, const std::stop_token& stop) {
  QString text = values.table.columns.join('\t') + '\n';
  for (const int row : values.rows) {
    if (stop.stop_requested()) return {};
    text += values.table.row(row).join('\t') + '\n';
  }
  return text;
}

}  // namespace

ValuesView::ValuesView(std::function<std::vector<ValueTable>()> tables, QWidget* parent)
    : QDialog(parent), tables_(std::move(tables)), copying_(textOf, [](const QString& text) { QApplication::clipboard()->setText(text); }) {
  setObjectName("values");
  setWindowTitle(tr("Values as a table"));
  theme::resizeWithinScreen(*this, {720, 480});
  which_ = new QComboBox;
  which_->setObjectName("which");
  which_->setAccessibleName(tr("Values of"));
  table_ = new QTableView;
  table_->setObjectName("table");
  table_->setAccessibleName(tr("Values"));
  table_->setModel(new TableModel(this));
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setShowGrid(false);
  table_->setAlternatingRowColors(false);
  table_->verticalHeader()->hide();
  table_->horizontalHeader()->setStretchLastSection(true);
  table_->horizontalHeader()->setDefaultSectionSize(86);
  table_->verticalHeader()->setDefaultSectionSize(22);
  none_ = theme::note(tr("There are none yet: open footage, and add a stage that moves time."));
  auto* copying = new QPushButton(tr("Copy"));
  copying->setToolTip(tr("The selected rows, or all of them, to be pasted into a sheet (Ctrl+C)"));
  copying->setObjectName("copy");
  auto* close = new QPushButton(tr("Close"));
  for (auto* button : {copying, close}) button->setAutoDefault(false);
  auto* buttons = new QHBoxLayout;
  buttons->addWidget(copying);
  buttons->addStretch(1);
  buttons->addWidget(close);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, 18, 20, 16);
  column->setSpacing(12);
  column->addWidget(which_);
  column->addWidget(none_);
  column->addWidget(table_, 1);
  column->addLayout(buttons);
  again_.setSingleShot(true);
  constexpr int often = 100;  // milliseconds
  again_.setInterval(often);
  connect(&again_, &QTimer::timeout, this, &ValuesView::list);
  connect(which_, &QComboBox::activated, this, &ValuesView::list);
  connect(copying, &QPushButton::clicked, this, &ValuesView::copy);
  // Before the table takes it for one cell.
  connect(new QShortcut(QKeySequence::Copy, this), &QShortcut::activated, this, &ValuesView::copy);
  connect(close, &QPushButton::clicked, this, &QDialog::accept);
}

void ValuesView::bringUp() {
  show();
  raise();
  activateWindow();
  list();
  auto& model = static_cast<TableModel&>(*table_->model());
  if (const int here = model.table().here; here >= 0 && here < model.rowCount()) table_->setCurrentIndex(model.index(here, 0));
  table_->setFocus();
}

void ValuesView::refresh() {
  // Once all have been told, and no more often than one can read.
  if (isVisible() && !again_.isActive()) again_.start();
}

void ValuesView::list() {
  std::vector<ValueTable> all = tables_();
  std::erase_if(all, [](const ValueTable& table) { return table.rows == 0; });
  const QString wanted = which_->currentText();
  QStringList names, there;
  for (const ValueTable& table : all) names << table.name;
  for (int i = 0; i < which_->count(); ++i) there << which_->itemText(i);
  if (names != there) {
    which_->clear();
    which_->addItems(names);
    which_->setCurrentIndex(std::max(0, static_cast<int>(names.indexOf(wanted))));
  }
  none_->setVisible(all.empty());
  which_->setEnabled(!all.empty());
  static_cast<TableModel&>(*table_->model()).take(all.empty() ? ValueTable() : std::move(all[static_cast<std::size_t>(which_->currentIndex())]));
}

void ValuesView::copy() {
  const auto& table = static_cast<TableModel&>(*table_->model()).table();
  CopiedValues values{table, {}};
  const auto* const selection = table_->selectionModel();
  const bool all = selection->selectedRows().size() < 2;
  for (int row = 0; row < table.rows; ++row) {
    if (all || selection->isRowSelected(row)) values.rows.push_back(row);
  }
  copying_.ask(std::move(values));
}

}  // namespace molten

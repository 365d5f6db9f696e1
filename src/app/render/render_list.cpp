#include "app/render/render_list.h"

#include <QDesktopServices>
#include <QFileInfo>
#include <QScrollArea>
#include <QScrollBar>
#include <QTimer>
#include <QUrl>
#include <algorithm>

#include "app/render/render_row.h"
#include "app/theme/parts.h"

namespace molten {

RenderList::RenderList(RenderQueue& queue, QWidget* parent) : QDialog(parent), queue_(queue) {
  setWindowTitle(tr("Render queue"));
  theme::resizeWithinScreen(*this, {640, 340});
  none_ = theme::note(
      tr("Nothing is being rendered. Render… (Ctrl+R) puts the result into this list and goes on working."));
  auto* holder = new QWidget;
  column_ = new QVBoxLayout(holder);
  column_->setContentsMargins(0, 0, 8, 0);
  column_->setSpacing(0);
  column_->addStretch(1);
  scroll_ = new QScrollArea;
  scroll_->setWidgetResizable(true);
  scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll_->setWidget(holder);
  clear_ = new QPushButton(tr("Remove what is over"));
  clear_->setObjectName("clear");
  clear_->setAutoDefault(false);
  clear_->setToolTip(tr("From this list, with what is rendered so far of what was cancelled or failed; files that are written stay"));
  auto* close = new QPushButton(tr("Close"));
  close->setToolTip(tr("Rendering goes on"));
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(8);
  buttons->addWidget(clear_);
  buttons->addStretch(1);
  buttons->addWidget(close);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, 12, 20, 16);
  column->addWidget(none_);
  column->addWidget(scroll_, 1);
  column->addLayout(buttons);
  close->setDefault(true);
  connect(close, &QPushButton::clicked, this, &QDialog::accept);
  connect(clear_, &QPushButton::clicked, &queue_, &RenderQueue::removeAllOver);
  connect(&queue_, &RenderQueue::changed, this, &RenderList::refresh);
  refresh();
}

void RenderList::bringUp() {
  show();
  raise();
  activateWindow();
  scroll_->verticalScrollBar()->setValue(scroll_->verticalScrollBar()->maximum());
}

RenderRow* RenderList::makeRow(const RenderEntry& entry) {
  auto* row = new RenderRow;
  const std::uint64_t number = entry.number;
  const auto here = [this, number]() -> const RenderEntry* {
    for (const RenderEntry& one : queue_.entries())
      if (one.number == number) return &one;
    return nullptr;
  };
  connect(row, &RenderRow::cancelAsked, this, [this, number] { queue_.cancel(number); });
  connect(row, &RenderRow::pauseAsked, this, [this, number] { queue_.pause(number); });
  connect(row, &RenderRow::resumeAsked, this, [this, number] { queue_.resume(number); });
  connect(row, &RenderRow::removeAsked, this, [this, number] { queue_.remove(number); });
  connect(row, &RenderRow::moveAsked, this, [this, number](int by) { queue_.move(number, by); });
  connect(row, &RenderRow::openAsked, this, [here] {
    if (const RenderEntry* one = here()) QDesktopServices::openUrl(QUrl::fromLocalFile(one->path()));
  });
  connect(row, &RenderRow::folderAsked, this, [here] {
    if (const RenderEntry* one = here())
      QDesktopServices::openUrl(QUrl::fromLocalFile(QFileInfo(one->path()).absolutePath()));
  });
  connect(row, &RenderRow::footageAsked, this, [this, here] {
    if (const RenderEntry* one = here()) emit footageWanted(one->path());
  });
  connect(row, &RenderRow::againAsked, this, [this, here] {
    if (const RenderEntry* one = here()) emit againWanted(*one);
  });
  column_->insertWidget(column_->count() - 1, row);
  row->show();
  // The row has its place only after the layout has run.
  QTimer::singleShot(0, row, [this, row] { scroll_->ensureWidgetVisible(row); });
  return row;
}

void RenderList::refresh() {
  const auto& entries = queue_.entries();
  for (auto at = rows_.begin(); at != rows_.end();) {
    const bool gone = std::none_of(entries.begin(), entries.end(), [&](auto& one) { return one.number == at->first; });
    if (gone) {
      // Not at once: it may be one of its own buttons that was pressed.
      at->second->hide();
      at->second->deleteLater();
    }
    at = gone ? rows_.erase(at) : std::next(at);
  }
  int place = 0;
  for (const RenderEntry& entry : entries) {
    RenderRow*& row = rows_[entry.number];
    if (!row) row = makeRow(entry);
    if (column_->indexOf(row) != place) column_->insertWidget(place, row);
    ++place;
    row->tell(entry);
  }
  none_->setVisible(entries.empty());
  clear_->setEnabled(std::any_of(entries.begin(), entries.end(), [](auto& one) { return one.over(); }));
}

}  // namespace molten

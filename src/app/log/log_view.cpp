#include "app/log/log_view.h"

#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>

#include "app/theme/parts.h"

namespace molten {

LogView::LogView(QWidget* parent) : QDialog(parent) {
  setWindowTitle(tr("Log"));
  resize(620, 320);
  holder_ = new QWidget;
  none_ = theme::note(tr("Nothing has been damaged, missing or changed so far."));
  auto* scroll = new QScrollArea;
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setWidget(holder_);
  auto* close = new QPushButton(tr("Close"));
  connect(close, &QPushButton::clicked, this, &QDialog::accept);
  auto* buttons = new QHBoxLayout;
  buttons->addStretch(1);
  buttons->addWidget(close);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, 18, 20, 16);
  column->addWidget(none_);
  column->addWidget(scroll, 1);
  column->addLayout(buttons);
  new QVBoxLayout(holder_);
  build();
}

bool LogView::put(const LogLine& line) {
  const auto known =
      std::find_if(lines_.begin(), lines_.end(), [&](const LogLine& one) { return one.about == line.about; });
  if (known != lines_.end() && *known == line) return false;
  if (known != lines_.end())
    *known = line;
  else
    lines_.push_back(line);
  build();
  return true;
}

void LogView::clear() {
  lines_.clear();
  build();
}

void LogView::build() {
  QLayout* const column = holder_->layout();
  while (QLayoutItem* item = column->takeAt(0)) {
    if (item->widget()) item->widget()->deleteLater();
    delete item;
  }
  none_->setVisible(lines_.empty());
  for (const LogLine& line : lines_) {
    auto* row = new QWidget;
    auto* across = new QHBoxLayout(row);
    across->setContentsMargins(0, 2, 0, 2);
    auto* words = new QLabel(line.sentence);
    words->setWordWrap(true);
    words->setTextInteractionFlags(Qt::TextSelectableByMouse);
    across->addWidget(words, 1);
    if (!line.frames.empty()) {
      auto* where = new QPushButton(tr("Show where"));
      where->setObjectName("where " + line.about);
      where->setToolTip(tr("Marks the frames on the scrub line"));
      connect(where, &QPushButton::clicked, this, [this, frames = line.frames] { emit whereAsked(frames); });
      across->addWidget(where, 0, Qt::AlignTop);
    }
    column->addWidget(row);
  }
  static_cast<QVBoxLayout*>(column)->addStretch(1);
}

}  // namespace molten

#include "app/files/missing_view.h"

#include <QFileInfo>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/theme/parts.h"

namespace molten {

using theme::shown;

MissingView::MissingView(QWidget* parent) : QDialog(parent) {
  setWindowTitle(tr("Missing files"));
  theme::resizeWithinScreen(*this, {600, 300});
  words_ = theme::note();
  auto* holder = new QWidget;
  rows_ = new QVBoxLayout(holder);
  rows_->setContentsMargins(0, 0, 8, 0);
  rows_->addStretch(1);
  auto* scroll = new QScrollArea;
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll->setWidget(holder);
  auto* close = new QPushButton(tr("Close"));
  auto* buttons = new QHBoxLayout;
  buttons->addStretch(1);
  buttons->addWidget(close);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, 16, 20, 16);
  column->setSpacing(12);
  column->addWidget(words_);
  column->addWidget(scroll, 1);
  column->addLayout(buttons);
  connect(close, &QPushButton::clicked, this, &QDialog::accept);
}

void MissingView::bringUp(bool takesKeys) {
  setAttribute(Qt::WA_ShowWithoutActivating, !takesKeys);
  show();
  raise();
  takesKeys ? activateWindow() : parentWidget()->activateWindow();
}

void MissingView::setFiles(const std::vector<MissingFile>& files) {
  while (rows_->count() > 1) {
    QLayoutItem* const item = rows_->takeAt(0);
    item->widget()->deleteLater();
    delete item;
  }
  words_->setText(files.size() == 1
                      ? tr("The project reads a file that is not there.")
                      : tr("The project reads %1 files that are not there. Finding one finds all that lie in the same folder.")
                            .arg(files.size()));
  for (const MissingFile& file : files) {
    auto* row = new QWidget;
    auto* across = new QHBoxLayout(row);
    across->setContentsMargins(0, 4, 0, 4);
    across->setSpacing(12);
    const QFileInfo info(shown(file.path));
    auto* words = new QVBoxLayout;
    words->setSpacing(2);
    words->addWidget(new QLabel(tr("%1 · %2").arg(info.fileName(), file.readBy.empty() ? tr("Footage") : shown(file.readBy))));
    auto* folder = new theme::OneLine(info.path());
    folder->setProperty("dim", true);
    words->addWidget(folder);
    across->addLayout(words, 1);
    auto* find = new QPushButton(tr("Find…"));
    find->setObjectName("find " + info.fileName());
    find->setAutoDefault(false);
    connect(find, &QPushButton::clicked, this, [this, path = shown(file.path)] { emit findWanted(path); });
    across->addWidget(find, 0, Qt::AlignVCenter);
    rows_->insertWidget(rows_->count() - 1, row);
  }
  if (files.empty()) hide();
}

}  // namespace molten

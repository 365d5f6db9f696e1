#include "app/findings/misfit_view.h"

#include <QPushButton>
#include <QVBoxLayout>

#include "app/theme/parts.h"

namespace molten {

using theme::shown;

MisfitView::MisfitView(QWidget* parent) : QDialog(parent) {
  setWindowTitle(tr("What does not fit"));
  setAttribute(Qt::WA_ShowWithoutActivating);
  theme::resizeWithinScreen(*this, {600, 180});
  auto* words = theme::note();
  words->setText(tr("The chain and its ends were made for other footage."));
  rows_ = new QVBoxLayout;
  rows_->setSpacing(8);
  auto* close = new QPushButton(tr("Leave it so"));
  close->setObjectName("leave");
  close->setAutoDefault(false);
  auto* buttons = new QHBoxLayout;
  buttons->addStretch(1);
  buttons->addWidget(close);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, 16, 20, 16);
  column->setSpacing(12);
  column->addWidget(words);
  column->addLayout(rows_);
  column->addStretch(1);
  column->addLayout(buttons);
  connect(close, &QPushButton::clicked, this, &QDialog::accept);
}

void MisfitView::bringUp() {
  show();
  raise();
  parentWidget()->activateWindow();
}

void MisfitView::setMisfits(const std::vector<Misfit>& misfits) {
  while (rows_->count() > 0) {
    QLayoutItem* const item = rows_->takeAt(0);
    // It may be its own button that was pressed.
    item->widget()->hide();
    item->widget()->deleteLater();
    delete item;
  }
  for (const Misfit& misfit : misfits) {
    auto* row = new QWidget;
    auto* across = new QHBoxLayout(row);
    across->setContentsMargins(0, 0, 0, 0);
    across->setSpacing(12);
    auto* says = new QLabel(shown(misfit.says));
    says->setWordWrap(true);
    across->addWidget(says, 1);
    if (misfit.remedy) {
      auto* act = new QPushButton(shown(misfit.remedy->name));
      act->setObjectName("remedy");
      act->setAutoDefault(false);
      connect(act, &QPushButton::clicked, this, [this, edit = *misfit.remedy] { emit remedyWanted(edit); });
      across->addWidget(act, 0, Qt::AlignVCenter);
    }
    rows_->addWidget(row);
  }
  if (misfits.empty()) hide();
}

}  // namespace molten

#include "app/chain/stage_picker.h"

#include <QGuiApplication>
#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>
#include <QScreen>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr int rowHeight = 40, boxWidth = 400;

/// Name and help of a kind, one under the other.
class KindRow : public QStyledItemDelegate {
 public:
  using QStyledItemDelegate::QStyledItemDelegate;
  QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {boxWidth, rowHeight}; }
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const bool current = option.state.testFlag(QStyle::State_Selected);
    painter->fillRect(option.rect, current ? theme::line : theme::raised);
    const QRect inner = option.rect.adjusted(10, 4, -10, -4);
    painter->setFont(theme::words(12, true));
    painter->setPen(theme::text);
    painter->drawText(inner, Qt::AlignLeft | Qt::AlignTop, index.data().toString());
    painter->setFont(theme::words(11));
    painter->setPen(current ? theme::text : theme::dim);
    painter->drawText(inner, Qt::AlignLeft | Qt::AlignBottom,
                      QFontMetrics(painter->font())
                          .elidedText(index.data(Qt::ToolTipRole).toString(), Qt::ElideRight, inner.width()));
  }
};

}  // namespace

StagePicker::StagePicker(QWidget* parent) : QFrame(parent, Qt::Popup) {
  setAttribute(Qt::WA_DeleteOnClose);
  setFrameShape(QFrame::Box);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(6, 6, 6, 6);
  column->setSpacing(6);
  field_ = new QLineEdit;
  field_->setPlaceholderText(tr("Type to find a stage"));
  field_->setAccessibleName(tr("Find a stage"));
  field_->installEventFilter(this);
  column->addWidget(field_);
  list_ = new QListWidget;
  list_->setItemDelegate(new KindRow(list_));
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list_->setFocusPolicy(Qt::NoFocus);
  column->addWidget(list_);
  connect(field_, &QLineEdit::textChanged, this, &StagePicker::find);
  connect(list_, &QListWidget::itemClicked, this, &StagePicker::take);
  find({});
  const int rows = static_cast<int>(stageKinds().size());
  list_->setFixedSize(boxWidth, std::min(rows, 9) * rowHeight + 4);
}

/// Names that begin so come first, then those that have it within, then what says it in its help.
void StagePicker::find(const QString& typed) {
  list_->clear();
  const QString wanted = typed.trimmed();
  const auto rank = [&](const StageDescription& kind) {
    const QString label = QString::fromStdString(kind.label), help = QString::fromStdString(kind.help);
    if (wanted.isEmpty() || label.startsWith(wanted, Qt::CaseInsensitive)) return 0;
    if (label.contains(wanted, Qt::CaseInsensitive)) return 1;
    return help.contains(wanted, Qt::CaseInsensitive) ? 2 : 3;
  };
  for (const int wantedRank : {0, 1, 2})
    for (const StageKind* const kind : stageKinds()) {
      const StageDescription& described = kind->description();
      if (rank(described) != wantedRank) continue;
      auto* item = new QListWidgetItem(QString::fromStdString(described.label), list_);
      item->setToolTip(QString::fromStdString(described.help));
      item->setData(Qt::UserRole, QString::fromStdString(described.id));
    }
  list_->setCurrentRow(0);
}

void StagePicker::take() {
  const QListWidgetItem* const item = list_->currentItem();
  if (!item) return;
  const StageKind* const kind = findStageKind(item->data(Qt::UserRole).toString().toStdString());
  close();
  if (kind) emit chosen(kind);
}

bool StagePicker::eventFilter(QObject* watched, QEvent* event) {
  if (watched == field_ && event->type() == QEvent::KeyPress) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Return || key == Qt::Key_Enter) {
      take();
      return true;
    }
    if (key == Qt::Key_Down || key == Qt::Key_Up) {
      const int row = list_->currentRow() + (key == Qt::Key_Down ? 1 : -1);
      if (row >= 0 && row < list_->count()) list_->setCurrentRow(row);
      return true;
    }
  }
  return QFrame::eventFilter(watched, event);
}

void StagePicker::openAt(const QPoint& at) {
  adjustSize();
  QPoint place = at;
  if (const QScreen* const screen = QGuiApplication::screenAt(at)) {
    const QRect all = screen->availableGeometry();
    place.setX(std::clamp(place.x(), all.left(), std::max(all.left(), all.right() - width())));
    place.setY(std::clamp(place.y(), all.top(), std::max(all.top(), all.bottom() - height())));
  }
  move(place);
  show();
  field_->setFocus();
}

}  // namespace molten

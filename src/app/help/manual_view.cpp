#include "app/help/manual_view.h"

#include <QHBoxLayout>
#include <QLineEdit>
#include <QListWidget>
#include <QScrollBar>
#include <QTextBlock>
#include <QTextBlockFormat>
#include <QTextBrowser>
#include <QTextCursor>
#include <QUrl>
#include <algorithm>

#include "app/help/manual.h"
#include "app/theme/parts.h"

namespace molten {
namespace {

/// Pictures are as wide as the text.
class Page : public QTextBrowser {
 public:
  QVariant loadResource(int type, const QUrl& name) override {
    if (type != QTextDocument::ImageResource) return QTextBrowser::loadResource(type, name);
    const QImage image(":/manual/" + name.fileName());
    constexpr int usual = 520, margins = 30;
    const int widest = std::min(usual, viewport()->width() - margins);
    return image.width() > widest ? image.scaledToWidth(widest, Qt::SmoothTransformation) : image;
  }
};

}  // namespace

ManualView::ManualView(QWidget* parent) : QDialog(parent) {
  setObjectName("manual");
  setWindowTitle(tr("Manual"));
  theme::resizeWithinScreen(*this, {880, 680});
  wanted_ = new QLineEdit;
  wanted_->setObjectName("wanted");
  wanted_->setAccessibleName(tr("Words to look for"));
  wanted_->setPlaceholderText(tr("Words to look for"));
  wanted_->setClearButtonEnabled(true);
  pages_ = new QListWidget;
  pages_->setObjectName("pages");
  pages_->setAccessibleName(tr("Pages"));
  pages_->setMinimumWidth(240);
  pages_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  words_ = new Page;
  words_->setObjectName("words");
  words_->setAccessibleName(tr("The page"));
  words_->setOpenLinks(false);
  words_->setFrameShape(QFrame::NoFrame);
  auto* left = new QVBoxLayout;
  left->addWidget(wanted_);
  left->addWidget(pages_, 1);
  auto* across = new QHBoxLayout(this);
  across->setContentsMargins(16, 16, 16, 16);
  across->setSpacing(16);
  across->addLayout(left);
  across->addWidget(words_, 1);
  connect(wanted_, &QLineEdit::textChanged, this, &ManualView::list);
  connect(pages_, &QListWidget::currentItemChanged, this, [this](const QListWidgetItem* item) {
    if (item) read(item->data(Qt::UserRole).toString());
  });
  connect(words_, &QTextBrowser::anchorClicked, this, [this](const QUrl& link) {
    if (link.scheme() == "page") openAt(link.path());
  });
  list();
}

void ManualView::openAt(const QString& page) {
  wanted_->clear();
  for (int row = 0; row < pages_->count(); ++row)
    if (pages_->item(row)->data(Qt::UserRole).toString() == page) pages_->setCurrentRow(row);
  show();
  raise();
  activateWindow();
}

void ManualView::list() {
  pages_->clear();
  for (const std::size_t place : pagesWith(wanted_->text())) {
    const ManualPage& page = manualPages()[place];
    auto* item = new QListWidgetItem(page.title, pages_);
    item->setData(Qt::UserRole, page.name);
  }
  if (pages_->count() > 0) pages_->setCurrentRow(0);
}

void ManualView::read(const QString& name) {
  for (const ManualPage& page : manualPages())
    if (page.name == name) words_->setMarkdown(page.words);
  // Lines have room between them.
  words_->document()->setDocumentMargin(14);
  words_->document()->setIndentWidth(20);
  for (QTextBlock block = words_->document()->begin(); block.isValid(); block = block.next()) {
    QTextBlockFormat format;
    format.setBottomMargin(6);
    // A picture is a letter, and as high as it is.
    if (!block.text().contains(QChar::ObjectReplacementCharacter)) format.setLineHeight(128, QTextBlockFormat::ProportionalHeight);
    QTextCursor(block).mergeBlockFormat(format);
  }
  words_->verticalScrollBar()->setValue(0);
}

}  // namespace molten

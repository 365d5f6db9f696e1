#include "app/starters/starters_view.h"

#include <QDir>
#include <QLabel>
#include <QPainter>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/starters/starter_pictures.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr int across = 4;
constexpr QSize pictureSize(232, 131);
/// Late enough for most to have a past to read.
constexpr double lookedAt = 0.6;

/// A picture in the middle of the tile's box, on black.
QIcon iconOf(const QImage& image) {
  QPixmap box(pictureSize);
  box.fill(theme::ink);
  QPainter painter(&box);
  if (!image.isNull())
    painter.drawImage(QPoint((pictureSize.width() - image.width()) / 2, (pictureSize.height() - image.height()) / 2),
                      image);
  painter.end();
  return QIcon(box);
}

}  // namespace

StartersView::StartersView(const QString& folder, QWidget* parent) : QDialog(parent), folder_(folder) {
  setWindowTitle(tr("Starters"));
  resize(1136, 720);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 14, 16, 14);
  words_ = new QLabel;
  words_->setProperty("dim", true);
  words_->setWordWrap(true);
  column->addWidget(words_);
  auto* scroll = new QScrollArea;
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  holder_ = new QWidget;
  grid_ = new QGridLayout(holder_);
  grid_->setContentsMargins(0, 4, 0, 4);
  grid_->setSpacing(12);
  scroll->setWidget(holder_);
  column->addWidget(scroll, 1);
  pictures_ = new StarterPictures(this);
  connect(pictures_, &StarterPictures::made, this, [this](std::size_t i, const QImage& picture) {
    if (i < tiles_.size()) tiles_[i]->setIcon(iconOf(picture));
  });
  connect(pictures_, &StarterPictures::failed, this, [this](std::size_t i, const QString& sentence) {
    if (i < tiles_.size()) tiles_[i]->setToolTip(tiles_[i]->toolTip() + "\n" + sentence);
  });
}

void StartersView::build() {
  for (QToolButton* const tile : tiles_) delete tile;
  tiles_.clear();
  starters_.assign(builtInStarters().begin(), builtInStarters().end());
  QStringList damaged;
  const QDir own(folder_);
  for (const QString& name : own.entryList({"*.molten-starter"}, QDir::Files, QDir::Name)) {
    auto starter = loadStarter(own.filePath(name).toStdString());
    if (starter)
      starters_.push_back(std::move(*starter));
    else
      damaged << QString::fromStdString(starter.error().message);
  }
  words_->setText(
      QStringList{tr("Each is shown as what it makes of this footage. Choosing one puts its stages in place "
                     "of the present ones, to be changed at will."),
                  damaged.join(' ')}
          .join(' ')
          .trimmed());
  for (std::size_t i = 0; i < starters_.size(); ++i) {
    const Starter& starter = starters_[i];
    auto* tile = new QToolButton;
    tile->setToolButtonStyle(Qt::ToolButtonTextUnderIcon);
    tile->setIconSize(pictureSize);
    tile->setIcon(iconOf({}));
    tile->setText(QString::fromStdString(starter.name));
    tile->setToolTip(QString::fromStdString(starter.help));
    tile->setObjectName("starter " + QString::fromStdString(starter.name));
    tile->setAccessibleName(QString::fromStdString(starter.name + ". " + starter.help));
    connect(tile, &QToolButton::clicked, this, [this, i] { emit chosen(starters_[i]); });
    grid_->addWidget(tile, static_cast<int>(i) / across, static_cast<int>(i) % across, Qt::AlignLeft | Qt::AlignTop);
    tiles_.push_back(tile);
  }
}

void StartersView::showFor(const MeasuredFootage& from) {
  build();
  pictures_->make(from, starters_, pictureSize, lookedAt);
  show();
  raise();
  activateWindow();
  if (!tiles_.empty()) tiles_[0]->setFocus();
}

void StartersView::hideEvent(QHideEvent* event) {
  pictures_->cancel();
  QDialog::hideEvent(event);
}

}  // namespace molten

#include "app/starters/starters_view.h"

#include <QDir>
#include <QLabel>
#include <QPainter>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>

#include "app/starters/starter_pictures.h"
#include "app/theme/parts.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr int gap = 12;
constexpr QSize pictureSize(232, 131);
/// Late enough for most to have a past to read.
constexpr double lookedAt = 0.6;

/// A starter's picture, its name, and what it is for.
class StarterTile : public QToolButton {
 public:
  StarterTile(const QString& name, const QString& help) {
    setText(name);
    help_ = help;
    setFixedSize(pictureSize.width() + 12, pictureSize.height() + 66);
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const bool lit = hasFocus() || underMouse();
    painter.setPen(QPen(lit ? theme::now : theme::line, 1));
    painter.setBrush(isDown() ? theme::ink : theme::raised);
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
    icon().paint(&painter, QRect(QPoint(6, 6), pictureSize));
    const QRect words = rect().adjusted(10, pictureSize.height() + 10, -10, -4);
    painter.setPen(theme::text);
    painter.setFont(theme::words(12, true));
    painter.drawText(words, Qt::AlignLeft | Qt::AlignTop, text());
    painter.setPen(theme::dim);
    painter.setFont(theme::words(11));
    painter.drawText(words.adjusted(0, 18, 0, 0), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, help_);
  }

 private:
  QString help_;
};

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
  theme::resizeWithinScreen(*this, {1096, 720});
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
  grid_->setSpacing(gap);
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
    auto* tile = new StarterTile(QString::fromStdString(starter.name), QString::fromStdString(starter.help));
    tile->setIconSize(pictureSize);
    tile->setIcon(iconOf({}));
    tile->setToolTip(QString::fromStdString(starter.help));
    tile->setObjectName("starter " + QString::fromStdString(starter.name));
    tile->setAccessibleName(QString::fromStdString(starter.name + ". " + starter.help));
    connect(tile, &QToolButton::clicked, this, [this, i] { emit chosen(starters_[i]); });
    tiles_.push_back(tile);
  }
  place();
}

/// As many beside each other as the window has room for.
void StartersView::place() {
  constexpr int margins = 56;
  const int across = std::max(1, (width() - margins + gap) / (pictureSize.width() + 12 + gap));
  // What is left over stands at the right; a stretch makes its column, so they are counted first.
  const int known = std::max(grid_->columnCount(), across + 1);
  for (int column = 0; column < known; ++column) grid_->setColumnStretch(column, column == across);
  for (std::size_t i = 0; i < tiles_.size(); ++i)
    grid_->addWidget(tiles_[i], static_cast<int>(i) / across, static_cast<int>(i) % across,
                     Qt::AlignLeft | Qt::AlignTop);
}

void StartersView::resizeEvent(QResizeEvent* event) {
  QDialog::resizeEvent(event);
  place();
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

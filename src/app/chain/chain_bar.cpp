#include "app/chain/chain_bar.h"

#include <QContextMenuEvent>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>

#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr int margin = 12, top = 6, tileHeight = 46;
constexpr int wideGap = 22, narrowGap = 8, wideAdd = 92, narrowAdd = 26;
/// Widths of tiles: as they are, and in a chain so long that they would be narrower than is comfortable.
constexpr int leaveWidth = 96;
constexpr int widest = 206, leastComfortable = 104, opened = 150, least = 44;

}  // namespace

ChainBar::ChainBar(QWidget* parent) : QWidget(parent) {
  setFixedHeight(sizeHint().height());
  setFocusPolicy(Qt::TabFocus);
  theme::setSpoken(*this, QAccessible::List, tr("Chain"));
}

void ChainBar::setTiles(std::vector<ChainTile> tiles, std::size_t selected, bool mayAdd) {
  selected = std::min(selected, tiles.size() - 1);
  if (tiles == tiles_ && selected == selected_ && mayAdd == mayAdd_) return;
  tiles_ = std::move(tiles);
  selected_ = selected;
  mayAdd_ = mayAdd;
  theme::tellState(*this);
  update();
}

QString ChainBar::spokenState() const {
  if (tiles_.empty()) return {};
  const ChainTile& tile = tiles_[selected_];
  QStringList words{tr("%1, tile %2 of %3").arg(tile.title, QString::number(selected_ + 1), QString::number(tiles_.size()))};
  if (tile.isStage) words << (tile.on ? tr("on") : tr("off"));
  for (const QString& more : {tile.lines[0], tile.corner})
    if (!more.isEmpty()) words << more;
  return words.join(", ");
}

void ChainBar::setBranchOf(const QString& stage) {
  if (stage == branchOf_) return;
  branchOf_ = stage;
  update();
}

int ChainBar::firstLeft() const {
  return branchOf_.isEmpty() ? margin : margin + leaveWidth + narrowGap;
}

QRect ChainBar::leaveRect() const {
  return branchOf_.isEmpty() ? QRect() : QRect(margin, top, leaveWidth, tileHeight);
}

QRect ChainBar::branchRect(std::size_t index) const {
  const QRect box = tileRect(index);
  if (index >= tiles_.size() || tiles_[index].branch.isEmpty() || box.width() < leastComfortable) return {};
  const int wide = QFontMetrics(theme::words(11)).horizontalAdvance(tiles_[index].branch) + 12;
  return {box.right() - wide - 5, box.top() + 23, wide, 17};
}

bool ChainBar::crowded() const {
  const int count = std::max<int>(1, static_cast<int>(tiles_.size()));
  return (width() - margin - firstLeft() - wideAdd - (count + 1) * wideGap) / count < leastComfortable;
}

/// Between two tiles; a long chain stands closer.
int ChainBar::gap() const {
  return crowded() ? narrowGap : wideGap;
}

int ChainBar::addWidth() const {
  return crowded() ? narrowAdd : wideAdd;
}

int ChainBar::tileWidth(std::size_t index) const {
  const int count = std::max<int>(1, static_cast<int>(tiles_.size()));
  const int room = width() - margin - firstLeft() - addWidth() - (count + 1) * gap();
  if (!crowded()) return std::min(room / count, widest);
  const int narrow = std::max(least, (room - opened) / std::max(1, count - 1));
  return index == selected_ ? std::max(narrow, std::min(opened, room - narrow * (count - 1))) : narrow;
}

QRect ChainBar::tileRect(std::size_t index) const {
  int x = firstLeft();
  for (std::size_t i = 0; i < index; ++i) x += tileWidth(i) + gap();
  // The place for one more stands before the output.
  if (index + 1 == tiles_.size()) x += addWidth() + gap();
  return {x, top, tileWidth(index), tileHeight};
}

QRect ChainBar::addRect() const {
  const QRect output = tileRect(tiles_.size() - 1);
  return {output.left() - gap() - addWidth(), top, addWidth(), tileHeight};
}

void ChainBar::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme::panel);
  painter.fillRect(0, height() - 1, width(), 1, theme::line);
  if (tiles_.empty()) return;
  painter.setRenderHint(QPainter::Antialiasing);
  if (!branchOf_.isEmpty()) paintLeave(painter);
  for (std::size_t i = 0; i < tiles_.size(); ++i) {
    const QRect box = tileRect(i);
    paintTile(painter, i, box);
    if (i + 1 == tiles_.size()) break;
    // A small arrow to the next one.
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::dim);
    for (const QRect& from : i + 2 == tiles_.size() ? std::vector{box, addRect()} : std::vector{box}) {
      const double x = from.right() + gap() / 2.0 - 1.5, y = top + tileHeight / 2.0;
      painter.drawPolygon(QPolygonF({{x, y - 3}, {x + 5, y}, {x, y + 3}}));
    }
  }
  const QRect add = addRect();
  painter.setPen(QPen(theme::line, 1, Qt::DashLine));
  painter.setBrush(Qt::NoBrush);
  painter.drawRoundedRect(QRectF(add).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
  painter.setPen(mayAdd_ ? theme::text : theme::line);
  painter.setFont(theme::words());
  painter.drawText(add, Qt::AlignCenter, crowded() ? QString("+") : tr("Add stage"));
  if (dragX_) {
    const std::size_t place = dropPlace(*dragX_);
    const int x = tileRect(place).left() - gap() / 2 - (place + 1 == tiles_.size() ? addWidth() + gap() : 0);
    painter.fillRect(x - 1, top, 2, tileHeight, theme::now);
  }
}

/// Back to the chain that this one belongs to.
void ChainBar::paintLeave(QPainter& painter) const {
  const QRect box = leaveRect(), inner = box.adjusted(9, 5, -9, -6);
  painter.setPen(QPen(theme::line, 1));
  painter.setBrush(Qt::NoBrush);
  painter.drawRoundedRect(QRectF(box).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
  const QFont bold = theme::words(12, true);
  painter.setFont(bold);
  painter.setPen(theme::now);
  painter.drawText(QRect(inner.left(), inner.top(), inner.width(), 15), Qt::AlignLeft | Qt::AlignVCenter,
                   QFontMetrics(bold).elidedText(QString("‹ %1").arg(branchOf_), Qt::ElideRight, inner.width()));
  painter.setFont(theme::words(11));
  painter.setPen(theme::dim);
  painter.drawText(QRect(inner.left(), inner.top() + 15, inner.width(), 15), Qt::AlignLeft | Qt::AlignVCenter, tr("leave its chain"));
}

void ChainBar::paintBranch(QPainter& painter, std::size_t index) const {
  const QRect box = branchRect(index);
  if (box.isEmpty()) return;
  painter.setPen(QPen(theme::line, 1));
  painter.setBrush(theme::panel);
  painter.drawRoundedRect(QRectF(box).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
  painter.setPen(theme::text);
  painter.setFont(theme::words(11));
  painter.drawText(box, Qt::AlignCenter, tiles_[index].branch);
}

void ChainBar::paintTile(QPainter& painter, std::size_t index, const QRect& box) const {
  const ChainTile& tile = tiles_[index];
  const bool chosen = index == selected_;
  painter.setPen(QPen(chosen ? theme::now : theme::line, 1));
  painter.setBrush(theme::raised);
  painter.drawRoundedRect(QRectF(box).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
  if (chosen && hasFocus()) painter.drawRoundedRect(QRectF(box).adjusted(2.5, 2.5, -2.5, -2.5), 2, 2);
  const bool narrow = box.width() < leastComfortable;
  const QRect inner = narrow ? box.adjusted(6, 5, -6, -6) : box.adjusted(9, 5, -9, -6);
  const QFont bold = theme::words(narrow ? 11 : 12, true), plain = theme::words(narrow ? 10 : 11);
  const auto elided = [](const QFont& font, const QString& words, int room) {
    return QFontMetrics(font).elidedText(words, Qt::ElideRight, room);
  };
  const QRect first(inner.left(), inner.top(), inner.width(), 15), second = first.translated(0, 15);
  // At the right of the first line: a word, or what it costs and whether it is on. What has no room gives way.
  int firstRoom = first.width(), secondRoom = second.width();
  const auto atRight = [&](const QString& words, const QFont& font, const QColor& colour, int& room, const QRect& line) {
    painter.setFont(font);
    painter.setPen(colour);
    painter.drawText(QRect(line.left(), line.top(), room, line.height()), Qt::AlignRight | Qt::AlignVCenter, words);
    room -= QFontMetrics(font).horizontalAdvance(words) + 6;
  };
  const int title = QFontMetrics(bold).horizontalAdvance(tile.title);
  if (tile.isStage) {
    const QFont stateFont = theme::words(narrow ? 10 : 11, tile.on);
    atRight(tile.on ? tr("on") : tr("off"), stateFont, tile.on ? theme::now : theme::dim,
            narrow ? secondRoom : firstRoom, narrow ? second : first);
  }
  if (const QString& word = tile.isStage ? tile.cost : tile.corner;
      !word.isEmpty() && QFontMetrics(plain).horizontalAdvance(word) + title + 8 < firstRoom)
    atRight(word, plain, tile.notice ? theme::outside : theme::dim, firstRoom, first);
  painter.setFont(bold);
  painter.setPen(tile.on ? theme::text : theme::dim);
  painter.drawText(first, Qt::AlignLeft | Qt::AlignVCenter, elided(bold, tile.title, firstRoom));
  if (const QRect into = branchRect(index); !into.isEmpty()) {
    paintBranch(painter, index);
    secondRoom = into.left() - second.left() - 4;
  }
  painter.setFont(plain);
  painter.setPen(theme::dim);
  painter.drawText(second, Qt::AlignLeft | Qt::AlignVCenter, elided(plain, tile.lines[0], secondRoom));
  const QRectF bar(inner.left(), inner.bottom() - 1, inner.width(), 3);
  if (tile.progress >= 0) {
    painter.fillRect(bar, theme::line);
    painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * tile.progress, bar.height()), theme::now);
  }
  if (!tile.reach || !tile.on) return;
  // The present moment stands in the middle; the bar's half is at least one second.
  const double half = std::max({1.0, -tile.reach->first, tile.reach->second});
  const auto at = [&](double seconds) { return bar.center().x() + seconds / half * bar.width() / 2; };
  painter.fillRect(bar, theme::line);
  const double nowX = bar.center().x();
  QLinearGradient toPast(at(tile.reach->first), 0, nowX, 0), toAhead(nowX, 0, at(tile.reach->second), 0);
  toPast.setColorAt(0, theme::past);
  toPast.setColorAt(1, theme::now);
  toAhead.setColorAt(0, theme::now);
  toAhead.setColorAt(1, theme::ahead);
  if (tile.reach->first < 0)
    painter.fillRect(QRectF(QPointF(at(tile.reach->first), bar.top()), QPointF(nowX, bar.bottom())), toPast);
  if (tile.reach->second > 0)
    painter.fillRect(QRectF(QPointF(nowX, bar.top()), QPointF(at(tile.reach->second), bar.bottom())), toAhead);
  painter.fillRect(QRectF(nowX - 1, bar.top() - 2, 2, bar.height() + 4), theme::now);
}

/// Where a stage is switched on and off: at the top right, or in a narrow tile at the end of its second line.
QRect ChainBar::stateRect(const QRect& box) const {
  if (box.width() < leastComfortable) return {box.right() - 26, box.top() + 20, 21, 15};
  return {box.right() - 34, box.top() + 4, 28, 17};
}

std::optional<std::size_t> ChainBar::tileAt(const QPoint& point) const {
  for (std::size_t i = 0; i < tiles_.size(); ++i)
    if (tileRect(i).contains(point)) return i;
  return std::nullopt;
}

/// The tile before which something dropped at x comes to stand: 1 (first stage) … index of the output.
std::size_t ChainBar::dropPlace(int x) const {
  std::size_t place = 1;
  while (place + 1 < tiles_.size() && x > tileRect(place).center().x()) ++place;
  return place;
}

void ChainBar::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton || tiles_.empty()) return;
  if (mayAdd_ && addRect().contains(event->pos()))
    return emit addRequested(mapToGlobal(addRect().bottomLeft() + QPoint(0, 2)));
  if (leaveRect().contains(event->pos())) return emit left();
  const auto tile = tileAt(event->pos());
  if (!tile) return;
  if (branchRect(*tile).contains(event->pos())) return emit entered(*tile);
  const QRect box = tileRect(*tile);
  if (tiles_[*tile].isStage && stateRect(box).adjusted(-4, -4, 8, 4).contains(event->pos()))
    return emit switched(*tile);
  pressed_ = tile;
  pressPoint_ = event->pos();
  emit selected(*tile);
}

void ChainBar::mouseMoveEvent(QMouseEvent* event) {
  if (!pressed_ || !tiles_[*pressed_].isStage) return;
  if (!dragX_ && (event->pos() - pressPoint_).manhattanLength() < 8) return;
  dragX_ = event->pos().x();
  update();
}

void ChainBar::mouseReleaseEvent(QMouseEvent*) {
  if (dragX_ && pressed_) {
    const std::size_t place = dropPlace(*dragX_);
    const std::size_t to = place > *pressed_ ? place - 1 : place;
    if (to != *pressed_) emit moved(*pressed_, to);
  }
  pressed_.reset();
  dragX_.reset();
  update();
}

void ChainBar::mouseDoubleClickEvent(QMouseEvent* event) {
  const auto tile = tileAt(event->pos());
  if (!tile || branchRect(*tile).contains(event->pos()) || (tiles_[*tile].isStage && stateRect(tileRect(*tile)).contains(event->pos()))) return;
  tiles_[*tile].isStage ? emit renameRequested(*tile) : emit activated(*tile);
}

void ChainBar::contextMenuEvent(QContextMenuEvent* event) {
  if (const auto tile = tileAt(event->pos())) {
    emit selected(*tile);
    emit menuRequested(*tile, event->globalPos());
  }
}

void ChainBar::keyPressEvent(QKeyEvent* event) {
  if (tiles_.empty()) return;
  if (event->key() == Qt::Key_Left && selected_ > 0) return emit selected(selected_ - 1);
  if (event->key() == Qt::Key_Right && selected_ + 1 < tiles_.size()) return emit selected(selected_ + 1);
  if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) return emit switched(selected_);
  QWidget::keyPressEvent(event);
}

bool ChainBar::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(event);
    const auto tile = tileAt(help->pos());
    QString words;
    if (leaveRect().contains(help->pos()))
      words = tr("This is the chain of the source of %1. Back to the chain that it is laid in (Ctrl+Up)").arg(branchOf_);
    else if (tile && branchRect(*tile).contains(help->pos()))
      words = tr("The stages that its own source passes before it is laid in (Ctrl+Down)");
    else if (tile && tiles_[*tile].isStage)
      words = tr("%1\n%2%3\nClick on/off to bypass (Enter) · drag to move · double-click to rename (F2)")
                  .arg(tiles_[*tile].title, tiles_[*tile].lines[0],
                       tiles_[*tile].cost.isEmpty() ? QString() : tr("\n%1 a picture").arg(tiles_[*tile].cost));
    else if (tile)
      words = QStringList{tiles_[*tile].title, tiles_[*tile].lines[0], tiles_[*tile].lines[1]}.join('\n');
    else if (addRect().contains(help->pos()))
      words = tr("Add a stage to the end of the chain (A): type to find one");
    words.isEmpty() ? QToolTip::hideText() : QToolTip::showText(help->globalPos(), words, this);
    return true;
  }
  return QWidget::event(event);
}

}  // namespace molten

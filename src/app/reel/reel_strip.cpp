#include "app/reel/reel_strip.h"

#include <QContextMenuEvent>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr int margin = 12, top = 5, tileHeight = 24, cutWidth = 10, addWidth = 28;
/// A shot is as wide as it needs for its words and a little more for its length, where there is room for all of them; else narrower,
/// down to its number alone.
constexpr double ofWords = 92, ofSecond = 17, roomy = 1.4;
constexpr int widestShot = 300, leastShot = 42, wordsFrom = 70;
constexpr int edge = 5;             ///< of a shot, that is pulled to trim it
constexpr double pixelsASecond = 40;  ///< of pulling
constexpr int farEnough = 7;        ///< for a drag

}  // namespace

ReelStrip::ReelStrip(QWidget* parent) : QWidget(parent) {
  setFixedHeight(sizeHint().height());
  setFocusPolicy(Qt::TabFocus);
  setMouseTracking(true);
  setAcceptDrops(true);
  theme::setSpoken(*this, QAccessible::List, tr("Reel"));
}

void ReelStrip::setState(const StripState& state) {
  if (state == state_) return;
  const bool other = state.taken != state_.taken || state.shots.size() != state_.shots.size();
  state_ = state;
  // What is under the hand does not move.
  if (!dragging_ || widths_.size() != state_.shots.size()) layOut();
  if (other) bringToSight(state_.taken);
  theme::tellState(*this);
  update();
}

QString ReelStrip::spokenState() const {
  if (state_.allTaken || state_.taken >= state_.shots.size()) return state_.summary;
  const StripShot& shot = state_.shots[state_.taken];
  QStringList words{tr("%1, shot %2 of %3, %4 s").arg(shot.title, QString::number(state_.taken + 1), QString::number(state_.shots.size()), QString::number(shot.seconds, 'f', 2))};
  if (!shot.on) words << tr("off");
  if (shot.dissolve > 0) words << tr("dissolves into the next one for %1 s").arg(shot.dissolve, 0, 'f', 2);
  for (const QString& more : {shot.trouble, shot.note})
    if (!more.isEmpty()) words << more;
  return words.join(", ");
}

int ReelStrip::shotsRight() const {
  return allRect().left() - 8;
}

QRect ReelStrip::allRect() const {
  const int wide = QFontMetrics(theme::words(11)).horizontalAdvance(state_.summary) + 16;
  return {width() - margin - wide, top, wide, tileHeight};
}

void ReelStrip::layOut() {
  const auto count = static_cast<int>(state_.shots.size());
  const int room = shotsRight() - margin - addWidth - cutWidth * count;
  const auto wide = [&](double share, std::size_t i) {
    return std::clamp(static_cast<int>(share * (ofWords + ofSecond * state_.shots[i].seconds)), leastShot, widestShot);
  };
  double share = roomy;
  for (int step = 0; step < 24; ++step, share *= 0.88) {
    int all = 0;
    for (std::size_t i = 0; i < state_.shots.size(); ++i) all += wide(share, i);
    if (all <= room) break;
  }
  lefts_.clear(), widths_.clear();
  int x = margin;
  for (std::size_t i = 0; i < state_.shots.size(); ++i) {
    lefts_.push_back(x);
    widths_.push_back(wide(share, i));
    x += widths_.back() + cutWidth;
  }
  scrolled_ = std::clamp(scrolled_, 0, mostScrolled());
}

int ReelStrip::mostScrolled() const {
  return lefts_.empty() ? 0 : std::max(0, lefts_.back() + widths_.back() + cutWidth + addWidth - shotsRight());
}

void ReelStrip::bringToSight(std::size_t shot) {
  if (shot >= lefts_.size()) return;
  const int left = lefts_[shot], right = left + widths_[shot] + cutWidth + addWidth;
  if (left - margin < scrolled_) scrolled_ = left - margin;
  if (right - scrolled_ > shotsRight()) scrolled_ = right - shotsRight();
  scrolled_ = std::clamp(scrolled_, 0, mostScrolled());
}

QRect ReelStrip::shotRect(std::size_t shot) const {
  return {lefts_[shot] - scrolled_, top, widths_[shot], tileHeight};
}

QRect ReelStrip::cutRect(std::size_t shot) const {
  const QRect box = shotRect(shot);
  return {box.right() + 1, top, cutWidth, tileHeight};
}

QRect ReelStrip::addRect() const {
  const int x = lefts_.empty() ? margin : shotRect(lefts_.size() - 1).right() + 1 + cutWidth;
  return {x, top, addWidth, tileHeight};
}

void ReelStrip::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme::panel);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setFont(theme::words(11));
  painter.setPen(QPen(state_.allTaken ? theme::now : theme::line, 1));
  painter.setBrush(theme::raised);
  painter.drawRoundedRect(QRectF(allRect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
  painter.setPen(state_.allTaken ? theme::text : theme::dim);
  painter.drawText(allRect(), Qt::AlignCenter, state_.summary);
  painter.setClipRect(0, 0, shotsRight(), height());
  for (std::size_t i = 0; i < lefts_.size(); ++i) paintShot(painter, i);
  for (std::size_t i = 0; i + 1 < lefts_.size(); ++i) paintCut(painter, i);
  const QRect add = addRect();
  painter.setPen(QPen(theme::line, 1, Qt::DashLine));
  painter.setBrush(Qt::NoBrush);
  painter.drawRoundedRect(QRectF(add).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
  painter.setPen(theme::text);
  painter.setFont(theme::words());
  painter.drawText(add, Qt::AlignCenter, "+");
  if (dropX_ && !lefts_.empty()) {
    const std::size_t place = placeAt(*dropX_);
    const int x = place < lefts_.size() ? shotRect(place).left() - cutWidth / 2 : addRect().left() - cutWidth / 2;
    painter.fillRect(x - 1, 1, 2, height() - 2, theme::now);
  }
}

void ReelStrip::paintShot(QPainter& painter, std::size_t index) const {
  const StripShot& shot = state_.shots[index];
  const QRect box = shotRect(index);
  if (box.right() < 0 || box.left() > shotsRight()) return;
  const bool chosen = index == state_.taken && !state_.allTaken;
  painter.setPen(QPen(chosen ? theme::now : theme::line, 1));
  painter.setBrush(theme::raised);
  painter.drawRoundedRect(QRectF(box).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
  if (chosen && hasFocus()) painter.drawRoundedRect(QRectF(box).adjusted(2.5, 2.5, -2.5, -2.5), 2, 2);
  int left = box.left() + 6;
  const int room = box.width();
  // A narrow one is its picture, with its number on it.
  const bool narrow = room <= wordsFrom;
  const QRect place(box.left() + 1, box.top() + 1, narrow ? room - 2 : 38, tileHeight - 2);
  if (!shot.picture.isNull()) {
    painter.setOpacity(shot.on ? 1 : 0.4);
    painter.save();
    painter.setClipRect(place & QRect(0, 0, shotsRight(), height()));
    const double scale = std::max(static_cast<double>(place.width()) / shot.picture.width(), static_cast<double>(place.height()) / shot.picture.height());
    const QSizeF size = QSizeF(shot.picture.size()) * scale;
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    painter.drawImage(QRectF(place.center().x() - size.width() / 2, place.center().y() - size.height() / 2, size.width(), size.height()), shot.picture);
    painter.restore();
    painter.setOpacity(1);
    if (!narrow) left = place.right() + 8;
  }
  if (narrow) {
    painter.setFont(theme::words(11));
    const QString words = QString::number(index + 1);
    const QRect plate(box.left() + 3, box.top() + 5, QFontMetrics(painter.font()).horizontalAdvance(words) + 6, tileHeight - 10);
    QColor ground = theme::ink;
    ground.setAlphaF(0.75f);
    painter.fillRect(plate, ground);
    painter.setPen(!shot.trouble.isEmpty() ? theme::outside : shot.on ? theme::text : theme::dim);
    painter.drawText(plate, Qt::AlignCenter, words);
    if (!shot.on) painter.drawLine(QPointF(plate.right() + 4, box.center().y() + 0.5), QPointF(box.right() - 4, box.center().y() + 0.5));
    return paintPlayhead(painter, index);
  }
  const QFont plain = theme::words(12), small = theme::words(11);
  int right = box.right() - 6;
  const QString length = !shot.trouble.isEmpty() ? tr("missing") : shot.on ? tr("%1 s").arg(shot.seconds, 0, 'f', 1) : tr("off");
  const int lengthWide = QFontMetrics(small).horizontalAdvance(length);
  if (right - left > lengthWide + 44) {
    painter.setFont(small);
    painter.setPen(shot.trouble.isEmpty() ? theme::dim : theme::outside);
    painter.drawText(QRect(right - lengthWide, box.top(), lengthWide, tileHeight), Qt::AlignRight | Qt::AlignVCenter, length);
    right -= lengthWide + 6;
  }
  painter.setFont(plain);
  painter.setPen(shot.on ? theme::text : theme::dim);
  const QString number = QString::number(index + 1);
  const QString words = right - left > 40 ? number + "  " + shot.title : number;
  painter.drawText(QRect(left, box.top(), right - left, tileHeight), Qt::AlignLeft | Qt::AlignVCenter,
                   QFontMetrics(plain).elidedText(words, Qt::ElideRight, right - left));
  paintPlayhead(painter, index);
}

/// Words under it stay legible.
void ReelStrip::paintPlayhead(QPainter& painter, std::size_t index) const {
  if (index != state_.under) return;
  const QRect box = shotRect(index);
  const double x = box.left() + 1 + state_.playhead * (box.width() - 2);
  painter.setOpacity(0.5);
  painter.fillRect(QRectF(x - 0.5, box.top(), 1, tileHeight), theme::now);
  painter.setOpacity(1);
  for (const double y : {box.top() - 4.0, box.top() + tileHeight - 1.0}) painter.fillRect(QRectF(x - 1.5, y, 3, 5), theme::now);
}

/// Hard: a line between the shots. Dissolved: one that fades while the other comes. Run through: lines closer and closer.
void ReelStrip::paintCut(QPainter& painter, std::size_t index) const {
  const QRectF box = cutRect(index);
  const StripShot& shot = state_.shots[index];
  const bool pointed = held_.what == Grip::What::Cut && held_.shot == index;
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(pointed ? theme::now : theme::dim, 1));
  const double middle = box.center().x();
  if (shot.through != 1) {
    for (const double x : {-4.0, -1.5, 0.0, 1.5, 4.0}) painter.drawLine(QPointF(middle + x, box.top() + 5), QPointF(middle + x, box.bottom() - 5));
    return;
  }
  if (shot.dissolve <= 0) return painter.drawLine(QPointF(middle, box.top() + 8), QPointF(middle, box.bottom() - 8));
  painter.drawLine(QPointF(box.left() + 1.5, box.top() + 5), QPointF(box.right() - 1.5, box.bottom() - 5));
  painter.drawLine(QPointF(box.left() + 1.5, box.bottom() - 5), QPointF(box.right() - 1.5, box.top() + 5));
}

ReelStrip::Grip ReelStrip::gripAt(const QPoint& point) const {
  if (allRect().contains(point)) return {Grip::What::All, 0};
  if (point.x() >= shotsRight()) return {};
  if (addRect().contains(point)) return {Grip::What::Add, 0};
  for (std::size_t i = 0; i < lefts_.size(); ++i) {
    const QRect box = shotRect(i);
    if (i + 1 < lefts_.size() && cutRect(i).contains(point)) return {Grip::What::Cut, i};
    if (!box.contains(point)) continue;
    if (box.width() > 4 * edge && point.x() < box.left() + edge) return {Grip::What::Begin, i};
    if (box.width() > 4 * edge && point.x() > box.right() - edge) return {Grip::What::End, i};
    return {Grip::What::Shot, i};
  }
  return {};
}

std::size_t ReelStrip::placeAt(int x) const {
  std::size_t place = 0;
  while (place < lefts_.size() && x > shotRect(place).center().x()) ++place;
  return place;
}

void ReelStrip::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  held_ = gripAt(event->pos());
  pressed_ = event->pos();
  dragging_ = false;
  if (held_.what == Grip::What::Add) emit addWanted();
  if (held_.what == Grip::What::All) emit allTaken();
  if (held_.what == Grip::What::Shot || held_.what == Grip::What::Begin || held_.what == Grip::What::End) emit taken(held_.shot);
}

void ReelStrip::mouseMoveEvent(QMouseEvent* event) {
  if (!(event->buttons() & Qt::LeftButton)) {
    const Grip grip = gripAt(event->pos());
    const bool trims = grip.what == Grip::What::Begin || grip.what == Grip::What::End;
    setCursor(trims ? Qt::SizeHorCursor : grip.what == Grip::What::Nothing ? Qt::ArrowCursor : Qt::PointingHandCursor);
    return;
  }
  const bool trims = held_.what == Grip::What::Begin || held_.what == Grip::What::End;
  const int by = event->pos().x() - pressed_.x();
  if (held_.what == Grip::What::Cut) {
    dragging_ = dragging_ || (event->pos() - pressed_).manhattanLength() >= farEnough;
    if (dragging_) emit cutPulled(held_.shot, by, event->pos().y() - pressed_.y());
    return;
  }
  if (!trims && held_.what != Grip::What::Shot) return;
  if (!dragging_ && std::abs(by) < (trims ? 2 : farEnough)) return;
  dragging_ = true;
  if (trims) return emit trimmed(held_.shot, held_.what == Grip::What::End, by / pixelsASecond);
  dropX_ = event->pos().x();
  update();
}

void ReelStrip::mouseReleaseEvent(QMouseEvent*) {
  const Grip held = std::exchange(held_, {});
  const bool dragged = std::exchange(dragging_, false);
  const auto x = std::exchange(dropX_, std::nullopt);
  if (held.what == Grip::What::Cut) {
    dragged ? emit cutPullEnded() : emit cutMenuWanted(held.shot, mapToGlobal(cutRect(held.shot).bottomLeft() + QPoint(0, 2)));
  } else if (dragged && held.what == Grip::What::Shot && x) {
    const std::size_t place = placeAt(*x), to = place > held.shot ? place - 1 : place;
    if (to != held.shot) emit moved(held.shot, to);
  } else if (dragged) {
    emit trimEnded();
  }
  layOut();
  update();
}

void ReelStrip::mouseDoubleClickEvent(QMouseEvent* event) {
  if (const Grip grip = gripAt(event->pos()); grip.what == Grip::What::Shot) emit renameWanted(grip.shot);
}

void ReelStrip::contextMenuEvent(QContextMenuEvent* event) {
  const Grip grip = gripAt(event->pos());
  if (grip.what == Grip::What::Cut) return emit cutMenuWanted(grip.shot, event->globalPos());
  if (grip.what == Grip::What::Nothing || grip.what == Grip::What::Add || grip.what == Grip::What::All) return;
  emit taken(grip.shot);
  emit menuWanted(grip.shot, event->globalPos());
}

void ReelStrip::wheelEvent(QWheelEvent* event) {
  const QPoint by = event->angleDelta();
  const int before = scrolled_;
  scrolled_ = std::clamp(scrolled_ - (by.x() != 0 ? by.x() : by.y()) / 2, 0, mostScrolled());
  if (scrolled_ != before) update();
  event->accept();
}

void ReelStrip::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Left && state_.taken > 0) return emit taken(state_.taken - 1);
  if (event->key() == Qt::Key_Right && state_.taken + 1 < state_.shots.size()) return emit taken(state_.taken + 1);
  QWidget::keyPressEvent(event);
}

void ReelStrip::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void ReelStrip::dragMoveEvent(QDragMoveEvent* event) {
  dropX_ = event->position().toPoint().x();
  update();
}

void ReelStrip::dragLeaveEvent(QDragLeaveEvent*) {
  dropX_.reset();
  update();
}

void ReelStrip::dropEvent(QDropEvent* event) {
  dropX_.reset();
  QStringList files;
  for (const QUrl& url : event->mimeData()->urls())
    if (url.isLocalFile()) files << url.toLocalFile();
  event->acceptProposedAction();
  update();
  if (!files.isEmpty()) emit dropped(files, placeAt(event->position().toPoint().x()));
}

void ReelStrip::resizeEvent(QResizeEvent*) {
  layOut();
  bringToSight(state_.taken);
}

bool ReelStrip::event(QEvent* event) {
  if (event->type() != QEvent::ToolTip) return QWidget::event(event);
  const auto* help = static_cast<QHelpEvent*>(event);
  const Grip grip = gripAt(help->pos());
  QString words;
  if (grip.what == Grip::What::Add) {
    words = tr("Add shots (Shift+R)");
  } else if (grip.what == Grip::What::All) {
    words = tr("All shots together: the Chain is what comes after the last cut (Shift+E)");
  } else if (grip.what == Grip::What::Cut) {
    const StripShot& shot = state_.shots[grip.shot];
    words = shot.through != 1     ? tr("Run through at %1 %.").arg(std::lround(shot.through * 100))
            : shot.dissolve > 0 ? tr("Dissolve of %1 s.").arg(shot.dissolve, 0, 'f', 2)
                                : tr("A hard cut.");
    words += tr("\nPull down to run through it faster, to the right for longer · click for other cuts");
  } else if (grip.what != Grip::What::Nothing) {
    const StripShot& shot = state_.shots[grip.shot];
    const QString how = !shot.trouble.isEmpty() ? shot.trouble : !shot.on ? tr("off: it is left out") : tr("%1 s of the reel").arg(shot.seconds, 0, 'f', 2);
    words = tr("%1  %2\n%3%4\nDrag to move · pull an end to trim · double-click to rename").arg(grip.shot + 1).arg(shot.title, how, shot.note.isEmpty() ? QString() : '\n' + shot.note);
  }
  words.isEmpty() ? QToolTip::hideText() : QToolTip::showText(help->globalPos(), words, this);
  return true;
}

}  // namespace molten

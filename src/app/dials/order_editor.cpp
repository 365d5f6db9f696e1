#include "app/dials/order_editor.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPaintEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "app/theme/value_field.h"

namespace molten {
namespace {

constexpr double pictureWidth = 58, pictureHeight = 33, labelHeight = 15, gap = 5, wordsHeight = 18;
constexpr double tileHeight = pictureHeight + labelHeight + gap;

QString itemText(const OrderItem& item) {
  QString text = QString::number(item.first);
  if (item.last != item.first) text += QString("–%1").arg(item.last);
  return text + QString(" ×%1").arg(item.hold);
}

}  // namespace

OrderEditor::OrderEditor(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  theme::setSpoken(*this, QAccessible::List, tr("Order as pictures"));
  QSizePolicy policy(QSizePolicy::Preferred, QSizePolicy::Fixed);
  policy.setHeightForWidth(true);
  setSizePolicy(policy);
  setToolTip(
      tr("Click a frame below to add it after the selected one; click it again to hold it longer.\n"
         "↑ ↓, or a number or a time that is typed: hold · Delete: remove · drag or Ctrl+← →: move"));
}

int OrderEditor::tilesAcross(int width) const {
  return std::max(1, static_cast<int>((width + gap) / (pictureWidth + gap)));
}

int OrderEditor::linesFor(int width) const {
  const int count = std::max<int>(1, static_cast<int>(order_.size()));
  return (count + tilesAcross(width) - 1) / tilesAcross(width);
}

int OrderEditor::heightForWidth(int width) const {
  return static_cast<int>(linesFor(width) * tileHeight + wordsHeight + tileHeight + 2);
}

double OrderEditor::stripTop() const {
  return linesFor(width()) * tileHeight + wordsHeight;
}

void OrderEditor::setOrder(const FrameOrder& order, std::int64_t frames, Rational rate) {
  rate_ = rate;
  const bool lines = order.size() != order_.size();
  order_ = order;
  frames_ = frames;
  if (selected_ && *selected_ >= order_.size()) selected_.reset();
  const double most = static_cast<double>(frames_) * (pictureWidth + gap) - width();
  scroll_ = std::clamp(scroll_, 0.0, std::max(0.0, most));
  if (lines) updateGeometry();
  theme::tellState(*this);
  update();
  emit picturesWanted(framesInSight());
}

QString OrderEditor::spokenState() const {
  if (!selected_) return tr("%1 items").arg(order_.size());
  const OrderItem& item = order_[*selected_];
  const QString frames = item.first == item.last ? tr("frame %1").arg(item.first) : tr("frames %1 to %2").arg(item.first).arg(item.last);
  return tr("item %1 of %2: %3, each for %4 pictures").arg(*selected_ + 1).arg(order_.size()).arg(frames).arg(item.hold);
}

void OrderEditor::setPictures(std::function<QImage(std::int32_t)> pictures) {
  pictures_ = std::move(pictures);
  update();
}

QRectF OrderEditor::tileRect(std::size_t item) const {
  const auto across = static_cast<std::size_t>(tilesAcross(width()));
  return QRectF(static_cast<double>(item % across) * (pictureWidth + gap),
                static_cast<double>(item / across) * tileHeight, pictureWidth, pictureHeight + labelHeight);
}

QRectF OrderEditor::frameRect(std::int32_t frame) const {
  return QRectF(frame * (pictureWidth + gap) - scroll_, stripTop(), pictureWidth, pictureHeight + labelHeight);
}

std::vector<std::int32_t> OrderEditor::framesInSight() const {
  std::vector<std::int32_t> frames;
  for (const OrderItem& item : order_) {
    frames.push_back(item.first);
    if (frames.size() > 100) break;
  }
  const auto first = static_cast<std::int64_t>(scroll_ / (pictureWidth + gap));
  for (std::int64_t f = first; f < frames_ && frameRect(static_cast<std::int32_t>(f)).left() < width(); ++f)
    frames.push_back(static_cast<std::int32_t>(f));
  return frames;
}

std::optional<std::size_t> OrderEditor::tileAt(const QPointF& point) const {
  for (std::size_t i = 0; i < order_.size(); ++i)
    if (tileRect(i).contains(point)) return i;
  return std::nullopt;
}

std::optional<std::int32_t> OrderEditor::frameAt(const QPointF& point) const {
  if (point.y() < stripTop()) return std::nullopt;
  const double at = (point.x() + scroll_) / (pictureWidth + gap);
  if (at < 0 || at >= static_cast<double>(frames_)) return std::nullopt;
  return static_cast<std::int32_t>(at);
}

void OrderEditor::drawPicture(QPainter& painter, const QRectF& box, std::int32_t frame) const {
  painter.fillRect(box, theme::ink);
  const QImage image = pictures_ ? pictures_(frame) : QImage();
  if (image.isNull()) return;
  const double k = std::min(box.width() / image.width(), box.height() / image.height());
  const QSizeF shown(image.width() * k, image.height() * k);
  painter.drawImage(QRectF(box.center() - QPointF(shown.width(), shown.height()) / 2, shown), image);
}

void OrderEditor::paintEvent(QPaintEvent* event) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  for (std::size_t i = 0; i < order_.size(); ++i) {
    if (!tileRect(i).intersects(event->rect())) continue;
    const QRectF tile = tileRect(i), picture(tile.topLeft(), QSizeF(pictureWidth, pictureHeight));
    drawPicture(painter, picture, order_[i].first);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(selected_ == i ? theme::now : theme::line, selected_ == i ? 2 : 1));
    painter.drawRect(picture.adjusted(0.5, 0.5, -0.5, -0.5));
    painter.setFont(theme::words(10));
    painter.setPen(selected_ == i ? theme::now : theme::text);
    painter.drawText(QRectF(tile.left() - 4, picture.bottom(), pictureWidth + 8, labelHeight), Qt::AlignCenter,
                     itemText(order_[i]));
    if (dropAt_ == i) painter.fillRect(QRectF(tile.left() - gap / 2 - 1, tile.top(), 2, pictureHeight), theme::now);
  }
  painter.setFont(theme::words(11));
  painter.setPen(theme::dim);
  if (order_.empty())
    painter.drawText(QRectF(0, 0, width(), tileHeight), Qt::AlignLeft | Qt::AlignVCenter | Qt::TextWordWrap,
                     tr("All frames as they come, until one is clicked below."));
  painter.drawText(QRectF(0, stripTop() - wordsHeight, width(), wordsHeight), Qt::AlignLeft | Qt::AlignVCenter,
                   tr("Frames, to be clicked into the order; the wheel moves along"));
  const auto first = static_cast<std::int64_t>(scroll_ / (pictureWidth + gap));
  painter.setFont(theme::words(10));
  for (std::int64_t f = first; f < frames_; ++f) {
    const QRectF tile = frameRect(static_cast<std::int32_t>(f));
    if (tile.left() >= width()) break;
    drawPicture(painter, QRectF(tile.topLeft(), QSizeF(pictureWidth, pictureHeight)), static_cast<std::int32_t>(f));
    painter.setPen(theme::dim);
    painter.drawText(QRectF(tile.left(), tile.top() + pictureHeight, pictureWidth, labelHeight), Qt::AlignCenter,
                     QString::number(f));
  }
  if (hasFocus()) {
    painter.setPen(theme::line.lighter(150));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(QRectF(0.5, stripTop() - wordsHeight + 0.5, width() - 1, height() - stripTop() + wordsHeight - 1));
  }
}

void OrderEditor::tell() {
  updateGeometry();
  update();
  emit changed(order_);
  emit picturesWanted(framesInSight());
}

void OrderEditor::add(std::int32_t frame) {
  const std::size_t after = selected_ ? *selected_ : order_.size() - 1;
  if (!order_.empty() && order_[after].first == frame && order_[after].last == frame) {
    selected_ = after;
    return changeHold(after, 1);
  }
  const std::size_t at = order_.empty() ? 0 : after + 1;
  order_.insert(order_.begin() + static_cast<std::ptrdiff_t>(at), OrderItem{frame, frame, 1});
  selected_ = at;
  tell();
}

void OrderEditor::setHold(std::size_t item, std::int32_t hold) {
  hold = std::clamp(hold, 1, 10'000);
  if (hold == order_[item].hold) return;
  order_[item].hold = hold;
  tell();
}

void OrderEditor::typeHold(std::size_t item, const QString& typed) {
  auto* field = new ValueField(
      [this, item](const QString& words) -> Taken {
        const auto hold = parseHold(words.trimmed().toLower().remove(' ').replace(',', '.').toStdString(), rate_);
        if (!hold || item >= order_.size()) return {false, tr("How many pictures, 6, or how long, 0.2s.")};
        setHold(item, *hold);
        return {};
      },
      this);
  field->setObjectName("hold");
  field->setAccessibleName(tr("Hold"));
  field->setValueText(QString::number(order_[item].hold));
  const QRectF tile = tileRect(item);
  field->setGeometry(QRectF(tile.left() - 2, tile.bottom() - labelHeight - 3, pictureWidth + 4, 21).toRect());
  connect(field, &ValueField::left, this, [this, field] {
    field->deleteLater();
    setFocus();
  });
  field->show();
  field->setFocus();
  field->selectAll();
  if (!typed.isEmpty()) field->insert(typed);
  field->setModified(!typed.isEmpty());
}

void OrderEditor::mouseDoubleClickEvent(QMouseEvent* event) {
  if (const auto tile = tileAt(event->position())) typeHold(*tile, {});
}

void OrderEditor::move(std::size_t from, std::size_t to) {
  if (from == to || to >= order_.size()) return;
  const OrderItem item = order_[from];
  order_.erase(order_.begin() + static_cast<std::ptrdiff_t>(from));
  order_.insert(order_.begin() + static_cast<std::ptrdiff_t>(to), item);
  selected_ = to;
  tell();
}

void OrderEditor::remove(std::size_t item) {
  order_.erase(order_.begin() + static_cast<std::ptrdiff_t>(item));
  if (order_.empty())
    selected_.reset();
  else
    selected_ = std::min(item, order_.size() - 1);
  tell();
}

void OrderEditor::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  pressedAt_ = event->position();
  if (const auto tile = tileAt(pressedAt_)) {
    pressed_ = selected_ = tile;
    theme::tellState(*this);
    update();
  } else if (const auto frame = frameAt(pressedAt_)) {
    add(*frame);
  }
}

void OrderEditor::mouseMoveEvent(QMouseEvent* event) {
  if (!pressed_ || (event->position() - pressedAt_).manhattanLength() < 6) return;
  dropAt_ = tileAt(event->position());
  update();
}

void OrderEditor::mouseReleaseEvent(QMouseEvent*) {
  if (pressed_ && dropAt_) move(*pressed_, *dropAt_);
  pressed_.reset();
  dropAt_.reset();
  update();
}

void OrderEditor::wheelEvent(QWheelEvent* event) {
  const int delta = event->angleDelta().y() + event->angleDelta().x();
  if (tileAt(event->position()) || event->position().y() < stripTop()) {
    // Without the focus it is the page that is scrolled.
    const auto tile = tileAt(event->position());
    if (!hasFocus() || !tile || delta == 0) return event->ignore();
    selected_ = tile;
    changeHold(*tile, delta > 0 ? 1 : -1);
  } else {
    const double most = static_cast<double>(frames_) * (pictureWidth + gap) - width();
    scroll_ = std::clamp(scroll_ - delta / 120.0 * 3 * (pictureWidth + gap), 0.0, std::max(0.0, most));
    update();
    emit picturesWanted(framesInSight());
  }
  event->accept();
}

void OrderEditor::keyPressEvent(QKeyEvent* event) {
  if (order_.empty()) return QWidget::keyPressEvent(event);
  const std::size_t at = selected_.value_or(0), last = order_.size() - 1;
  const bool along = event->key() == Qt::Key_Left || event->key() == Qt::Key_Right;
  const std::size_t next = event->key() == Qt::Key_Right ? std::min(at + 1, last) : at == 0 ? 0 : at - 1;
  if (along && event->modifiers() & Qt::ControlModifier) return move(at, next);
  if (along) {
    selected_ = next;
    theme::tellState(*this);
    return update();
  }
  if (event->key() == Qt::Key_Up || event->key() == Qt::Key_Down)
    return changeHold(at, event->key() == Qt::Key_Up ? 1 : -1);
  if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) return typeHold(at, {});
  if (event->key() >= Qt::Key_0 && event->key() <= Qt::Key_9) return typeHold(at, event->text());
  if (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) return remove(at);
  QWidget::keyPressEvent(event);
}

bool OrderEditor::event(QEvent* event) {
  // Here these keys are about the order, not about marks and stages.
  if (event->type() == QEvent::ShortcutOverride && !order_.empty()) {
    const auto* key = static_cast<QKeyEvent*>(event);
    const bool along = key->key() == Qt::Key_Left || key->key() == Qt::Key_Right;
    const bool digit = key->key() >= Qt::Key_0 && key->key() <= Qt::Key_9 && !(key->modifiers() & Qt::ControlModifier);
    if (digit || key->key() == Qt::Key_Delete || (along && key->modifiers() & Qt::ControlModifier)) event->accept();
    if (event->isAccepted()) return true;
  }
  return QWidget::event(event);
}

void OrderEditor::resizeEvent(QResizeEvent*) {
  updateGeometry();
  emit picturesWanted(framesInSight());
}

}  // namespace molten

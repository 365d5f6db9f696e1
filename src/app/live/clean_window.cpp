#include "app/live/clean_window.h"

#include <QCloseEvent>
#include <QGuiApplication>
#include <QKeyEvent>
#include <QPainter>
#include <QScreen>

namespace molten {

CleanWindow::CleanWindow() {
  setObjectName("cleanWindow");
  setWindowTitle(tr("Live — Molten Clock"));
  setCursor(Qt::BlankCursor);
  setAttribute(Qt::WA_OpaquePaintEvent);
  setAttribute(Qt::WA_QuitOnClose, false);
}

void CleanWindow::setOwnScreen(QScreen* screen) {
  ownScreen_ = screen;
}

void CleanWindow::fill(QScreen* screen) {
  // A screen may have gone since it was chosen.
  QScreen* const on = QGuiApplication::screens().contains(ownScreen_) ? ownScreen_ : screen;
  if (on) setGeometry(on->geometry());
  showFullScreen();
  activateWindow();
  setFocus();
  awake_.keep(true);
  want();
}

void CleanWindow::leave() {
  hide();
}

void CleanWindow::setMirrored(bool mirrored) {
  mirrored_ = mirrored;
  update();
}

void CleanWindow::setTurned(int degrees) {
  turned_ = degrees;
  want();
  update();
}

void CleanWindow::showNow(const QImage& image) {
  image_ = image;
  repaint();
}

void CleanWindow::want() {
  const QSize room = isVisible() ? size() * devicePixelRatioF() : QSize(0, 0);
  emit sizeWanted(turned_ % 180 == 0 ? Size{room.width(), room.height()} : Size{room.height(), room.width()});
}

void CleanWindow::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), Qt::black);
  if (image_.isNull()) return;
  const double ratio = devicePixelRatioF();
  const bool lies = turned_ % 180 == 0;
  const QSizeF room = lies ? QSizeF(size()) : QSizeF(size()).transposed();
  const QSizeF shown = QSizeF(image_.size()).scaled(room, Qt::KeepAspectRatio);
  // As it is, where it fits to the pixel.
  painter.setRenderHint(QPainter::SmoothPixmapTransform, shown * ratio != QSizeF(image_.size()));
  painter.translate(QRectF(rect()).center());
  if (mirrored_) painter.scale(-1, 1);
  painter.rotate(turned_);
  painter.drawImage(QRectF(QPointF(-shown.width() / 2, -shown.height() / 2), shown), image_);
}

void CleanWindow::resizeEvent(QResizeEvent*) {
  want();
}

void CleanWindow::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape || event->key() == Qt::Key_F11) return leave();
  QWidget::keyPressEvent(event);
}

void CleanWindow::hideEvent(QHideEvent*) {
  awake_.keep(false);
  want();
}

void CleanWindow::closeEvent(QCloseEvent* event) {
  leave();
  event->ignore();
}

}  // namespace molten

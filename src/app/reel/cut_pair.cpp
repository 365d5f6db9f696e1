#include "app/reel/cut_pair.h"

#include <QPainter>
#include <algorithm>

#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr int pairWide = 190, pairHigh = 107, pairGap = 6, pairBorder = 8, pairLine = 18;

void drawFitted(QPainter& painter, const QImage& image, const QRect& place) {
  painter.fillRect(place, theme::ink);
  if (image.isNull()) return;
  const double scale = std::min(static_cast<double>(place.width()) / image.width(), static_cast<double>(place.height()) / image.height());
  const QSizeF size = QSizeF(image.size()) * scale;
  painter.drawImage(QRectF(QPointF(place.center().x() + 0.5 - size.width() / 2, place.center().y() + 0.5 - size.height() / 2), size), image);
}

/// From the middle, as far as it moves in a quarter of a second; a dot where that is next to nothing.
void drawMotion(QPainter& painter, const std::optional<Motion>& motion, const QRect& place) {
  if (!motion) return;
  constexpr double shown = 0.25, longest = 0.45, head = 6;
  const double far = std::min(motion->speed() * shown, longest) * place.height();
  const QPointF from = QRectF(place).center();
  painter.setRenderHint(QPainter::Antialiasing);
  if (far < 3) {
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::now);
    painter.drawEllipse(from, 3, 3);
    return;
  }
  const QPointF along(motion->right / motion->speed(), motion->down / motion->speed()), to = from + along * far, side(-along.y(), along.x());
  painter.setPen(QPen(theme::now, 2));
  painter.drawLine(from, to);
  for (const double which : {-1.0, 1.0}) painter.drawLine(to, to - along * head + side * (which * head * 0.6));
}

}  // namespace

CutPair::CutPair(QWidget* window, const QWidget& below) : QWidget(window), below_(below) {
  setAttribute(Qt::WA_TransparentForMouseEvents);
  resize(2 * pairWide + pairGap + 2 * pairBorder, pairHigh + 3 * pairLine + 2 * pairBorder);
  hide();
}

void CutPair::bringUp(int middle, const QImage& ends, const QImage& begins, const QString& words) {
  ends_ = ends, begins_ = begins, words_ = words;
  const QPoint at = below_.mapTo(parentWidget(), QPoint(middle, below_.height()));
  move(std::clamp(at.x() - width() / 2, 4, std::max(4, parentWidget()->width() - width() - 4)), at.y() + 2);
  setVisible(true);
  raise();
  update();
}

void CutPair::setMotions(const std::optional<Motion>& ends, const std::optional<Motion>& begins, const QString& words) {
  endMotion_ = ends, beginMotion_ = begins, motionWords_ = words;
  update();
}

void CutPair::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  painter.fillRect(rect(), theme::raised);
  painter.setPen(theme::line);
  painter.drawRect(rect().adjusted(0, 0, -1, -1));
  const QRect left(pairBorder, pairBorder, pairWide, pairHigh), right = left.translated(pairWide + pairGap, 0);
  drawFitted(painter, ends_, left);
  drawFitted(painter, begins_, right);
  drawMotion(painter, endMotion_, left);
  drawMotion(painter, beginMotion_, right);
  painter.setFont(theme::words(11));
  painter.setPen(theme::dim);
  painter.drawText(QRect(left.left(), left.bottom() + 1, pairWide, pairLine), Qt::AlignLeft | Qt::AlignVCenter, tr("ends with"));
  painter.drawText(QRect(right.left(), left.bottom() + 1, pairWide, pairLine), Qt::AlignRight | Qt::AlignVCenter, tr("begins with"));
  painter.setFont(theme::words(12));
  painter.setPen(theme::text);
  painter.drawText(QRect(pairBorder, left.bottom() + 1 + pairLine, width() - 2 * pairBorder, pairLine), Qt::AlignCenter, words_);
  painter.setFont(theme::words(11));
  painter.setPen(theme::dim);
  painter.drawText(QRect(pairBorder, left.bottom() + 1 + 2 * pairLine, width() - 2 * pairBorder, pairLine), Qt::AlignCenter, motionWords_);
}

}  // namespace molten

#include "app/picture/picture_drawing.h"

#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr double handleRadius = 6.5;

/// A tag's box, without a place.
QRectF tagBox(const QString& text, const QFont& font) {
  const QFontMetricsF metrics(font);
  return {0, 0, metrics.horizontalAdvance(text) + 10, metrics.height() + 4};
}

/// Words on the picture: legible on any of its colours.
void paintTagIn(QPainter& painter, const QRectF& box, const QString& text, const QFont& font, const QColor& colour) {
  painter.setFont(font);
  painter.setPen(Qt::NoPen);
  painter.setBrush(QColor(0x13, 0x14, 0x16, 200));
  painter.drawRoundedRect(box, 3, 3);
  painter.setPen(colour);
  painter.drawText(box, Qt::AlignCenter, text);
}

QRectF sided(QRectF box, const QPointF& at, Qt::Alignment side) {
  box.moveTopLeft(at);
  if (side & Qt::AlignRight) box.moveRight(at.x());
  if (side & Qt::AlignHCenter) box.moveLeft(at.x() - box.width() / 2);
  if (side & Qt::AlignVCenter) box.moveTop(at.y() - box.height() / 2);
  if (side & Qt::AlignBottom) box.moveBottom(at.y());
  return box;
}

void paintTag(QPainter& painter, const QPointF& at, const QString& text, const QFont& font, const QColor& colour,
              Qt::Alignment side) {
  paintTagIn(painter, sided(tagBox(text, font), at, side), text, font, colour);
}

}  // namespace

void PictureDrawing::draw(QPainter& painter, const QRectF& view) {
  view_ = view;
  painter.fillRect(view, theme::ink);
  const bool comparing = isComparing();
  if (comparing && state_.comparing == Comparing::Difference) makeDifference();
  painter.save();
  painter.setClipRect(sight_.pane);
  paintPicture(painter, comparing && !difference_.isNull() ? difference_ : image_, sight_.target());
  if (!field_.isNull() && state_.field) paintField(painter);
  if (!steps_.isNull() && !state_.bypassed) {
    painter.setRenderHint(QPainter::SmoothPixmapTransform, false);
    painter.drawImage(sight_.target(), steps_);
  }
  painter.restore();
  if (comparing) paintOther(painter);
  painter.setRenderHint(QPainter::Antialiasing);
  if (!state_.bypassed) {
    painter.save();
    painter.setClipRect(sight_.pane);
    paintMarks(painter);
    if (const auto room = frameRoom()) paintFrame(painter, *room);
    paintGuides(painter);
    paintLines(painter);
    paintHandles(painter);
    if (brushAt_) paintBrush(painter);
    painter.restore();
  }
  places_.begin(view);
  if (const auto room = frameRoom()) places_.take(room->adjusted(-4, -4, 4, 4));
  if (!state_.bypassed) paintHandleTags(painter);
  paintTags(painter);
  if (!field_.isNull() && state_.field) paintFieldTags(painter);
  if (!state_.message.isEmpty()) paintMessage(painter);
}

void PictureDrawing::setImage(QImage image) {
  image_ = std::move(image);
  difference_ = {};
}

void PictureDrawing::setOther(QImage image) {
  other_ = std::move(image);
  difference_ = {};
}

void PictureDrawing::paintPicture(QPainter& painter, const QImage& image, const QRectF& where) const {
  if (image.isNull()) return;
  // Pixels are shown as they are from twice their size on.
  const double magnified = where.width() / image.width() * sight_.ratio;
  painter.setRenderHint(QPainter::SmoothPixmapTransform, std::abs(magnified - 1) > 0.01 && magnified < 2);
  if (image.hasAlphaChannel()) {
    painter.save();
    painter.setClipRect(where, Qt::IntersectClip);
    constexpr int cell = 10;
    const QRect seen = where.toAlignedRect() & view_.toAlignedRect();
    for (int y = seen.top() / cell * cell; y <= seen.bottom(); y += cell)
      for (int x = seen.left() / cell * cell; x <= seen.right(); x += cell)
        painter.fillRect(x, y, cell, cell, (x / cell + y / cell) % 2 ? theme::raised : theme::panel);
    painter.restore();
  }
  // Made for this place, it is copied as it is: part of a pixel is not worth the time that scaling takes.
  if (std::abs(magnified - 1) <= 0.01 && !image.hasAlphaChannel()) {
    const double ratio = sight_.ratio;
    const QPointF at(std::round(where.left() * ratio) / ratio, std::round(where.top() * ratio) / ratio);
    return painter.drawImage(QRectF(at, QSizeF(image.size()) / ratio), image);
  }
  painter.drawImage(where, image);
}

void PictureDrawing::paintOther(QPainter& painter) const {
  const QRectF t = sight_.target();
  const auto names = [&](double left, double right) {
    paintTag(painter, {left, view_.height() - 34.0}, state_.otherName, theme::words(12, true), theme::now,
             Qt::AlignRight | Qt::AlignBottom);
    paintTag(painter, {right, view_.height() - 34.0}, tr("as it is now"), theme::words(12, true), theme::now,
             Qt::AlignLeft | Qt::AlignBottom);
  };
  if (state_.comparing == Comparing::Difference)
    return paintTag(painter, {view_.width() / 2.0, 8}, tr("Difference from %1").arg(state_.otherName),
                    theme::words(12, true), theme::now, Qt::AlignHCenter);
  painter.save();
  const bool wiping = state_.comparing == Comparing::Wipe;
  const double border = wiping ? wipe_ * view_.width() : view_.width() / 2.0;
  painter.setClipRect(QRectF(0, 0, border, view_.height()));
  if (!wiping) painter.fillRect(QRectF(0, 0, border, view_.height()), theme::ink);
  paintPicture(painter, other_, wiping ? t : t.translated(-view_.width() / 2.0, 0));
  painter.restore();
  painter.fillRect(QRectF(border - 1.5, 0, 3, view_.height()), theme::ink);
  painter.fillRect(QRectF(border - 0.5, 0, 1, view_.height()), theme::now);
  if (wiping) {
    painter.setPen(QPen(theme::ink, 1.5));
    painter.setBrush(theme::now);
    painter.drawRoundedRect(QRectF(border - 5, view_.height() / 2.0 - 16, 10, 32), 3, 3);
  }
  names(border - 8, border + 8);
}

/// What differs, at three times its strength, so that little is seen too.
void PictureDrawing::makeDifference() {
  if (!difference_.isNull() || image_.size() != other_.size()) return;
  const QImage a = image_.convertToFormat(QImage::Format_RGB32), b = other_.convertToFormat(QImage::Format_RGB32);
  difference_ = QImage(a.size(), QImage::Format_RGB32);
  for (int y = 0; y < a.height(); ++y) {
    const auto *from = reinterpret_cast<const QRgb*>(a.constScanLine(y)),
               *other = reinterpret_cast<const QRgb*>(b.constScanLine(y));
    auto* const to = reinterpret_cast<QRgb*>(difference_.scanLine(y));
    for (int x = 0; x < a.width(); ++x)
      to[x] = qRgb(std::min(255, 3 * std::abs(qRed(from[x]) - qRed(other[x]))),
                   std::min(255, 3 * std::abs(qGreen(from[x]) - qGreen(other[x]))),
                   std::min(255, 3 * std::abs(qBlue(from[x]) - qBlue(other[x]))));
  }
}

void PictureDrawing::paintMarks(QPainter& painter) const {
  const QRectF t = sight_.target();
  if (state_.marks && !image_.isNull()) {
    const QPointF at = sight_.toWidget(*state_.marks);
    for (const QLineF& line :
         {QLineF(at.x(), t.top(), at.x(), t.bottom()), QLineF(t.left(), at.y(), t.right(), at.y())}) {
      painter.setPen(QPen(QColor(0x13, 0x14, 0x16, 110), 2));
      painter.drawLine(line);
      QPen pen(QColor(theme::now.red(), theme::now.green(), theme::now.blue(), 130), 1);
      pen.setDashPattern({3, 4});
      painter.setPen(pen);
      painter.drawLine(line);
    }
  }
  if (!state_.ring) return;
  painter.setBrush(Qt::NoBrush);
  for (const auto& [colour, width] : {std::pair(QColor(0x13, 0x14, 0x16, 200), 4.0), {theme::now, 1.6}}) {
    painter.setPen(QPen(colour, width));
    painter.drawEllipse(sight_.toWidget(*state_.ring), 6, 6);
  }
}

std::optional<QRectF> PictureDrawing::frameRoom() const {
  if (!state_.frame || entering_.isNull() || state_.bypassed) return std::nullopt;
  return sight_.cornerRoom(state_.frame->aspect);
}

/// The picture that enters, small; what lies outside the frame is darkened.
void PictureDrawing::paintFrame(QPainter& painter, const QRectF& room) const {
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  painter.drawImage(room, entering_);
  QPolygonF seen;
  for (const Place& corner : state_.frame->corners)
    seen << QPointF(room.left() + corner.x * room.width(), room.top() + corner.y * room.height());
  seen << seen.front();
  QPainterPath outside;
  outside.addRect(room);
  outside.addPolygon(seen);
  painter.setPen(Qt::NoPen);
  painter.setBrush(QColor(0x13, 0x14, 0x16, 150));
  painter.drawPath(outside);
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(theme::ink, 3));
  painter.drawRect(room);
  painter.setPen(QPen(theme::line, 1));
  painter.drawRect(room);
  painter.save();
  painter.setClipRect(room.adjusted(-1, -1, 1, 1), Qt::IntersectClip);
  painter.setPen(QPen(QColor(0x13, 0x14, 0x16, 170), 3.5));
  painter.drawPolyline(seen);
  painter.setPen(QPen(theme::now, frameActive_ ? 2 : 1.4));
  painter.drawPolyline(seen);
  painter.restore();
}

void PictureDrawing::paintGuides(QPainter& painter) const {
  painter.setBrush(Qt::NoBrush);
  for (const Guide& guide : state_.guides) {
    const QLineF line(sight_.toWidget(guide.from), sight_.toWidget(guide.to));
    painter.setPen(QPen(QColor(0x13, 0x14, 0x16, 120), 3));
    painter.drawLine(line);
    painter.setPen(QPen(theme::text, 1, Qt::DashLine));
    painter.drawLine(line);
  }
}

void PictureDrawing::paintLines(QPainter& painter) const {
  for (const ShownLine& line : state_.lines) {
    QPolygonF shape;
    double length = 0;
    for (const Place& place : line.points) {
      const QPointF at = sight_.toWidget(place);
      if (!shape.isEmpty()) length += std::hypot(at.x() - shape.back().x(), at.y() - shape.back().y());
      shape << at;
    }
    if (shape.size() < 2) continue;
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor(0x13, 0x14, 0x16, 150), 4));
    painter.drawPolyline(shape);
    // Piece by piece, since the colour goes along the line.
    double come = 0;
    for (qsizetype i = 1; i < shape.size(); ++i) {
      const double step = std::hypot(shape[i].x() - shape[i - 1].x(), shape[i].y() - shape[i - 1].y());
      const auto at = [&](double way) {
        const double part = length > 0 ? way / length : 0;
        return !line.from || !line.to ? theme::now : theme::momentColour(*line.from + (*line.to - *line.from) * part);
      };
      QLinearGradient colours(shape[i - 1], shape[i]);
      colours.setColorAt(0, at(come));
      colours.setColorAt(1, at(come + step));
      come += step;
      painter.setPen(QPen(QBrush(colours), 2));
      painter.drawLine(shape[i - 1], shape[i]);
    }
  }
}

void PictureDrawing::paintHandles(QPainter& painter) const {
  for (std::size_t i = 0; i < state_.handles.size(); ++i) {
    const Handle& handle = state_.handles[i];
    const QPointF at = sight_.toWidget(handle.place);
    const bool active = activeHandle_ == i;
    const double radius = handle.pathParameter ? handleRadius * 0.6 : handleRadius;
    painter.setPen(QPen(QColor(0x13, 0x14, 0x16, 200), 4));
    painter.setBrush(handle.share ? theme::momentColour(*handle.share) : theme::now);
    painter.drawEllipse(at, radius, radius);
    painter.setPen(QPen(active ? theme::now : theme::ink, 1.5));
    painter.drawEllipse(at, radius + (active ? 2.5 : 0), radius + (active ? 2.5 : 0));
  }
}

/// Beside its handle, on the side that is free: right, left, below, above.
void PictureDrawing::paintHandleTags(QPainter& painter) {
  constexpr double reach = handleRadius + 3, off = 14;
  for (const Handle& handle : state_.handles) {
    const QPointF at = sight_.toWidget(handle.place);
    places_.take(QRectF(at.x() - reach, at.y() - reach, 2 * reach, 2 * reach));
  }
  const QFont font = theme::words(12);
  for (const Handle& handle : state_.handles) {
    if (handle.label.empty()) continue;
    const QString words = QString::fromStdString(handle.label);
    const QPointF at = sight_.toWidget(handle.place);
    const QRectF box = tagBox(words, font);
    const QRectF beside[] = {sided(box, at + QPointF(off, 0), Qt::AlignLeft | Qt::AlignVCenter),
                             sided(box, at - QPointF(off, 0), Qt::AlignRight | Qt::AlignVCenter),
                             sided(box, at + QPointF(0, off), Qt::AlignHCenter),
                             sided(box, at - QPointF(0, off), Qt::AlignHCenter | Qt::AlignBottom)};
    if (const auto place = places_.find(beside)) paintTagIn(painter, *place, words, font, theme::now);
  }
}

void PictureDrawing::paintField(QPainter& painter) const {
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  painter.drawImage(sight_.target(), field_);
}

/// They give way to everything else.
void PictureDrawing::paintFieldTags(QPainter& painter) {
  const QFont font = theme::words(11);
  for (const PictureLabel& label : labels_) {
    const QRectF on[] = {
        sided(tagBox(label.words, font), sight_.toWidget(label.place), Qt::AlignHCenter | Qt::AlignVCenter)};
    if (const auto place = places_.find(on)) paintTagIn(painter, *place, label.words, font, theme::text);
  }
}

void PictureDrawing::paintBrush(QPainter& painter) const {
  const double r = state_.brush * sight_.target().height();
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(QColor(0x13, 0x14, 0x16, 150), 3));
  painter.drawEllipse(*brushAt_, r, r);
  painter.setPen(QPen(theme::now, 1));
  painter.drawEllipse(*brushAt_, r, r);
}

void PictureDrawing::paintMessage(QPainter& painter) const {
  painter.setFont(theme::words(14));
  const QRectF box = view_.adjusted(view_.width() * 0.15, 0, -view_.width() * 0.15, 0);
  const QRectF words =
      painter.boundingRect(box, Qt::AlignCenter | Qt::TextWordWrap, state_.message).adjusted(-16, -12, 16, 12);
  painter.setPen(Qt::NoPen);
  painter.setBrush(QColor(0x1c, 0x1d, 0x20, 235));
  painter.drawRoundedRect(words, 3, 3);
  painter.setPen(theme::text);
  painter.drawText(box, Qt::AlignCenter | Qt::TextWordWrap, state_.message);
}

/// The title, the zoom, and what is said: in their corners, or in the ones below where a handle is there.
void PictureDrawing::paintTags(QPainter& painter) {
  const double right = view_.width() - 8.0, middle = view_.width() / 2.0, lower = view_.height() - 8.0;
  const auto paint = [&](const QString& words, const QFont& font, const QColor& colour,
                         std::initializer_list<std::pair<QPointF, Qt::Alignment>> corners) {
    if (words.isEmpty()) return;
    std::vector<QRectF> places;
    for (const auto& [at, side] : corners) places.push_back(sided(tagBox(words, font), at, side));
    if (const auto place = places_.find(places)) paintTagIn(painter, *place, words, font, colour);
  };
  paint(state_.title, theme::words(), theme::text,
        {{{8, 8}, Qt::AlignLeft}, {{8, lower}, Qt::AlignBottom}, {{middle, 8}, Qt::AlignHCenter}});
  if (!image_.isNull())
    paint(zoomText(), theme::words(11), theme::dim,
          {{{right, 8}, Qt::AlignRight}, {{right, lower}, Qt::AlignRight | Qt::AlignBottom}});
  if (state_.bypassed) paint(tr("Before"), theme::words(12, true), theme::now, {{{middle, 8}, Qt::AlignHCenter}});
  const bool remarks = !state_.corner.isEmpty();
  paint(remarks ? state_.corner : state_.pointed, theme::words(11), theme::text,
        {{{8, lower}, Qt::AlignBottom},
         {{right, lower}, Qt::AlignRight | Qt::AlignBottom},
         {{middle, lower}, Qt::AlignHCenter | Qt::AlignBottom},
         {{middle, 40}, Qt::AlignHCenter}});
}

QString PictureDrawing::zoomText() const {
  const int percent = static_cast<int>(std::lround(sight_.shownZoom() * 100));
  return sight_.zoom > 0 ? tr("%1 %").arg(percent) : tr("fit · %1 %").arg(percent);
}

}  // namespace molten

#pragma once
// The look: colours by role, type, and the colour of a moment.

#include <QColor>
#include <QFont>

class QApplication;
class QPainter;
class QRectF;

namespace molten::theme {

inline const QColor past{0x6f, 0x7d, 0xff}, now{0xf3, 0xef, 0xe6}, ahead{0xff, 0x8a, 0x3c}, outside{0xff, 0xd2, 0x4a};
inline const QColor ink{0x13, 0x14, 0x16}, panel{0x1c, 0x1d, 0x20}, raised{0x26, 0x27, 0x2b}, line{0x35, 0x37, 0x3c};
inline const QColor text{0xe9, 0xe6, 0xdf}, dim{0x9a, 0x98, 0x92};

/// Sets fonts, palette and style sheet.
void apply(QApplication& application);

QFont words(double pixels = 12, bool bold = false);

/// The colour of a moment beside the present one: past, now or ahead, by its share of the reach (−1…1).
QColor momentColour(double share);

/// Round what has the focus.
void frameFocus(QPainter& painter, const QRectF& around);

/// Slanted lines in the colour of what lies outside the clip.
void hatch(QPainter& painter, const QRectF& area);

}  // namespace molten::theme

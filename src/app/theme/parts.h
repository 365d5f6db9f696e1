#pragma once
// Small parts that panels and dialogs share.

#include <QString>
#include <string>

class QLabel;
class QWidget;

namespace molten::theme {

/// Words of the core for the screen.
QString shown(const std::string& words);
/// A note or a label beside what matters: dim, broken into lines.
QLabel* note(const QString& content = {});
/// The line above a card.
QWidget* rule();

}  // namespace molten::theme

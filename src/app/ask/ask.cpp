#include "app/ask/ask.h"

#include <QMessageBox>
#include <QPushButton>
#include <algorithm>

namespace molten {

Ask askOver(QWidget* window) {
  return [window](const QString& title, const QString& sentence, const QStringList& answers) {
    QMessageBox box(QMessageBox::NoIcon, title, sentence, QMessageBox::NoButton, window);
    QList<QAbstractButton*> buttons;
    for (const QString& answer : answers)
      buttons << box.addButton(answer, buttons.isEmpty() ? QMessageBox::AcceptRole : QMessageBox::ActionRole);
    // Escape, and the box's own way to be closed, change nothing.
    box.setEscapeButton(buttons.last());
    box.exec();
    return static_cast<int>(std::max<qsizetype>(0, buttons.indexOf(box.clickedButton())));
  };
}

}  // namespace molten

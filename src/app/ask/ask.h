#pragma once
// Questions that the work cannot go on without.

#include <QStringList>
#include <functional>

class QWidget;

namespace molten {

/// A title, a sentence, and answers, the last one changing nothing; gives back the index of the one chosen.
using Ask = std::function<int(const QString& title, const QString& sentence, const QStringList& answers)>;

/// By a box over a window.
Ask askOver(QWidget* window);

}  // namespace molten

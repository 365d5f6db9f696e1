#include "app/trouble/application.h"

#include "core/thrown.h"

namespace molten {

bool Application::notify(QObject* receiver, QEvent* event) {
  try {
    return QApplication::notify(receiver, event);
  } catch (...) {
    const Error thrown = thrownError();
    // What is thrown while it is told is the same trouble.
    if (telling_.exchange(true)) return false;
    try {
      emit troubled(QString::fromStdString(thrown.message));
    } catch (...) {
    }
    telling_ = false;
    return false;
  }
}

}  // namespace molten

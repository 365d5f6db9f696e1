#pragma once
// The application of the window, which outlives what its parts throw.

#include <QApplication>
#include <QString>
#include <atomic>

namespace molten {

/// Whatever handling an event throws ends there: it is told, and the next event is handled.
class Application : public QApplication {
  Q_OBJECT

 public:
  using QApplication::QApplication;
  bool notify(QObject* receiver, QEvent* event) override;

 signals:
  /// What was thrown, in a sentence. Whoever has work that is not saved keeps it now.
  void troubled(const QString& sentence);

 private:
  std::atomic<bool> telling_ = false;  ///< events are handled on other threads too
};

}  // namespace molten

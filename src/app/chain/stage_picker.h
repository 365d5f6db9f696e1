#pragma once
// Choosing a stage to be added: by typing a part of its name or of what it does, or from the list.

#include <QFrame>

#include "core/stages/stage.h"

class QLineEdit;
class QListWidget;

namespace molten {

/// Deletes itself when it is closed.
class StagePicker : public QFrame {
  Q_OBJECT

 public:
  explicit StagePicker(QWidget* parent);
  /// Its top left corner at a place of the screen, moved so that all of it is seen.
  void openAt(const QPoint& at);
  QLineEdit* field() { return field_; }
  QListWidget* list() { return list_; }

 signals:
  void chosen(const StageKind* kind);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void find(const QString& typed);
  void take();

  QLineEdit* field_;
  QListWidget* list_;
};

}  // namespace molten

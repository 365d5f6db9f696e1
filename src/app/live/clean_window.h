#pragma once
// Nothing but the picture, on a whole screen.

#include <QImage>
#include <QWidget>

#include "app/live/awake.h"
#include "core/picture/picture.h"

namespace molten {

/// Fills a screen with a live picture on black, without a pointer; Escape leaves. The screen stays awake.
class CleanWindow : public QWidget {
  Q_OBJECT

 public:
  CleanWindow();
  /// Fills the screen that was chosen, or this one.
  void fill(QScreen* screen);
  void setOwnScreen(QScreen* screen);
  void leave();
  void setMirrored(bool mirrored);
  bool mirrored() const { return mirrored_; }
  /// To the right, by quarters.
  void setTurned(int degrees);
  /// Painted when this returns.
  void showNow(const QImage& image);

 signals:
  void sizeWanted(Size size);  ///< of the next pictures, in the screen's own pixels; 0: none are wanted

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void keyPressEvent(QKeyEvent* event) override;
  void hideEvent(QHideEvent*) override;
  void closeEvent(QCloseEvent* event) override;

 private:
  void want();

  QImage image_;
  QScreen* ownScreen_ = nullptr;
  bool mirrored_ = false;
  int turned_ = 0;
  Awake awake_;
};

}  // namespace molten

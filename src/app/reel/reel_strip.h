#pragma once
// The reel: a row of shots, each with a small picture and its length.

#include <QImage>
#include <QWidget>
#include <optional>
#include <vector>

#include "app/theme/spoken.h"

namespace molten {

struct StripShot {
  QString title;
  double seconds = 0;    ///< of the reel
  bool on = true;
  double dissolve = 0;   ///< seconds, into the next one
  double through = 1;    ///< the speed at which the cut to the next one is run through; 1: it is not
  QString trouble = {};  ///< why it cannot be shown
  QString note = {};     ///< what else is to be known of it
  QImage picture = {};   ///< none yet: null
  friend bool operator==(const StripShot&, const StripShot&) = default;
};

struct StripState {
  std::vector<StripShot> shots;
  std::size_t taken = 0;    ///< the shot in hand
  bool allTaken = false;    ///< all of them together are in hand instead
  std::size_t under = 0;    ///< the shot that the playhead is in
  double playhead = 0;      ///< how far in it: 0…1
  QString summary;          ///< `Reel · 3 shots · 19.4 s`
  friend bool operator==(const StripState&, const StripState&) = default;
};

class ReelStrip : public QWidget, public theme::SpokenState {
  Q_OBJECT

 public:
  explicit ReelStrip(QWidget* parent = nullptr);
  QString spokenState() const override;
  void setState(const StripState& state);
  const StripState& state() const { return state_; }
  QRect shotRect(std::size_t shot) const;
  /// Where the cut after a shot is taken hold of.
  QRect cutRect(std::size_t shot) const;
  QRect addRect() const;
  /// All of them together.
  QRect allRect() const;
  QSize sizeHint() const override { return {600, 34}; }

 signals:
  void taken(std::size_t shot);
  void allTaken();
  void moved(std::size_t shot, std::size_t to);
  /// An end of a shot is pulled by so many seconds, from where it was when it was taken hold of.
  void trimmed(std::size_t shot, bool end, double seconds);
  void trimEnded();
  /// The cut after a shot is pulled: so many pixels to the right and down from where it was taken hold of.
  void cutPulled(std::size_t shot, double right, double down);
  void cutPullEnded();
  void cutMenuWanted(std::size_t shot, const QPoint& at);
  void menuWanted(std::size_t shot, const QPoint& at);
  void renameWanted(std::size_t shot);
  void addWanted();
  /// Files, to stand as shots from a number on.
  void dropped(const QStringList& files, std::size_t at);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dragMoveEvent(QDragMoveEvent* event) override;
  void dragLeaveEvent(QDragLeaveEvent*) override;
  void dropEvent(QDropEvent* event) override;
  void resizeEvent(QResizeEvent*) override;
  bool event(QEvent* event) override;

 private:
  /// What a press at a place takes hold of.
  struct Grip {
    enum class What { Nothing, Shot, Begin, End, Cut, Add, All } what = What::Nothing;
    std::size_t shot = 0;
  };
  Grip gripAt(const QPoint& point) const;
  void layOut();
  void bringToSight(std::size_t shot);
  /// The number that something dropped at x comes to stand as.
  std::size_t placeAt(int x) const;
  int shotsRight() const;
  int mostScrolled() const;
  void paintShot(QPainter& painter, std::size_t shot) const;
  void paintPlayhead(QPainter& painter, std::size_t shot) const;
  void paintCut(QPainter& painter, std::size_t shot) const;

  StripState state_;
  std::vector<int> lefts_, widths_;  ///< before it is scrolled
  int scrolled_ = 0;
  Grip held_;
  QPoint pressed_;
  bool dragging_ = false;
  std::optional<int> dropX_;
};

}  // namespace molten

#pragma once
// The Chain: tiles from Footage to Output, in the order in which the picture passes them.

#include <QWidget>
#include <optional>
#include <vector>

#include "app/theme/spoken.h"

namespace molten {

struct ChainTile {
  QString title;
  QString lines[2];  ///< what it is or does; more of it, for the tool tip
  QString corner;    ///< a word beside the title, where there is no on or off
  QString cost;      ///< `3.2 ms`
  bool isStage = false, on = true;
  /// Reach in seconds for the small bar; none: no bar.
  std::optional<std::pair<double, double>> reach;
  bool notice = false;   ///< the corner is about reads outside the clip
  double progress = -1;  ///< 0…1 while something is worked on
  QString branch;        ///< what its button into a chain of its own says; empty: it has none
  friend bool operator==(const ChainTile&, const ChainTile&) = default;
};

class ChainBar : public QWidget, public theme::SpokenState {
  Q_OBJECT

 public:
  explicit ChainBar(QWidget* parent = nullptr);
  QString spokenState() const override;
  /// First the footage, then the stages, last the output. `selected`: index of a tile.
  void setTiles(std::vector<ChainTile> tiles, std::size_t selected, bool mayAdd);
  const std::vector<ChainTile>& tiles() const { return tiles_; }
  /// Of the chain of a stage's own source: what that stage is called. Empty: it is the shot's chain.
  void setBranchOf(const QString& stage);
  const QString& branchOf() const { return branchOf_; }
  /// What leads back out of it.
  QRect leaveRect() const;
  /// A tile's button into its branch; empty where it has none, or no room.
  QRect branchRect(std::size_t index) const;
  QRect tileRect(std::size_t index) const;
  QRect addRect() const;
  QSize sizeHint() const override { return {600, 58}; }

 signals:
  void selected(std::size_t tile);
  void addRequested(const QPoint& at);
  void switched(std::size_t tile);
  void moved(std::size_t from, std::size_t to);  ///< tiles
  void entered(std::size_t tile);  ///< its branch
  void left();                     ///< this branch
  void menuRequested(std::size_t tile, const QPoint& at);
  void activated(std::size_t tile);        ///< double click
  void renameRequested(std::size_t tile);  ///< double click on a stage

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool event(QEvent* event) override;

 private:
  QRect stateRect(const QRect& box) const;
  std::optional<std::size_t> tileAt(const QPoint& point) const;
  std::size_t dropPlace(int x) const;
  void paintTile(QPainter& painter, std::size_t index, const QRect& box) const;
  int gap() const;
  /// Of a tile. Where there are many, they are narrow but for the selected one.
  int tileWidth(std::size_t index) const;
  int addWidth() const;
  bool crowded() const;

  int firstLeft() const;
  void paintLeave(QPainter& painter) const;
  void paintBranch(QPainter& painter, std::size_t index) const;

  QString branchOf_;
  std::vector<ChainTile> tiles_;
  std::size_t selected_ = 0;
  bool mayAdd_ = false;
  std::optional<std::size_t> pressed_;
  QPoint pressPoint_;
  std::optional<int> dragX_;
};

}  // namespace molten

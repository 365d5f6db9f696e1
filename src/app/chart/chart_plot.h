#pragma once
// The Time Chart's drawing and what hands do on it. Knows only what it is given; says what is wanted.

#include <QPixmap>
#include <QWidget>

#include "app/chart/chart_state.h"
#include "app/chart/chart_view.h"

namespace molten {

class ChartPrompt;

/// Which way is up.
enum class ChartUp { Source, Speed };

class ChartPlot : public QWidget {
  Q_OBJECT

 public:
  explicit ChartPlot(QWidget* parent = nullptr);

  void setState(const ChartState& state);
  const ChartState& state() const { return state_; }
  /// Only the playhead has moved.
  void setFrame(std::int64_t frame);
  /// The second of the source that the pixel under the hand reads, ringed at the playhead.
  void setRing(std::optional<double> seconds);
  void setPictures(const SmallPictures* pictures);
  void picturesChanged();
  void setUp(ChartUp up);
  ChartUp up() const { return up_; }
  void setKeeping(Keeping keeping) { keeping_ = keeping; }
  void setAlong(Along along) { along_ = along; }
  /// All of the output and the source in sight.
  void fit();
  const ChartView& view() const { return view_; }

  std::optional<std::size_t> selectedSpan() const { return span_; }
  std::optional<std::size_t> selectedMark() const { return mark_; }
  void selectSpan(std::optional<std::size_t> span);
  void selectMark(std::optional<std::size_t> mark);
  /// Where a mark stands, and where its glide's handles are (beginning, end).
  QPointF markPoint(std::size_t mark) const;
  QPointF glidePoint(std::size_t mark, bool end) const;
  QPointF bendPoint(std::size_t mark) const;
  /// A point of a span's line, away from its marks.
  QPointF spanPoint(std::size_t span) const;
  QRectF labelRect(std::size_t span) const;
  QRectF remedyRect() const { return remedyRect_; }
  /// A point of the line at the playhead.
  QPointF playheadPoint() const;

  /// A field on the chart to type a number into, with what it would do. `edit`: the Pace that a text stands for.
  using TypedEdit = std::function<std::optional<PaceSetting>(const QString& text)>;
  void prompt(const QString& question, const QString& text, const QString& name, TypedEdit edit);
  ChartPrompt* openPrompt() const { return prompt_; }

 signals:
  void viewChanged();  ///< another part of the output or the source is in sight
  void scrubbed(std::int64_t frame);
  void paceChanged(const PaceSetting& pace, const QString& name, const QString& mergeKey);
  void gestureEnded();
  void selectionChanged();
  void remedyChosen();
  void picturesWanted(const std::vector<std::int32_t>& frames);
  void menuRequested(const QPoint& at);
  void lineUpRequested();
  void said(const QString& sentence);  ///< about what is under the hand; empty: nothing

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void leaveEvent(QEvent*) override;
  bool event(QEvent* event) override;

 private:
  enum class Grip { None, Scrub, Mark, GlideBegin, GlideEnd, Bend, Span, Slip, LineUp, Pan, Remedy };
  struct Hold {
    Grip grip = Grip::None;
    std::size_t index = 0;
  };

  // drawing
  void drawAll(QPainter& painter);
  void drawGrid(QPainter& painter) const;
  std::optional<std::int32_t> frameAt(double position) const;
  void drawPictures(QPainter& painter);
  void drawReads(QPainter& painter);
  void drawOutside(QPainter& painter, const QVector<QRectF>& runs);
  void drawPace(QPainter& painter) const;
  void drawSpeed(QPainter& painter) const;
  void drawSpanLabels(QPainter& painter) const;
  void drawPlayhead(QPainter& painter) const;
  void redraw();
  QRectF plotArea() const;
  QRectF gutter() const;
  double sourceSeconds() const;
  MomentReads readsAt(double t) const;
  QString lookText(std::size_t span) const;
  void wantPictures();

  // hands
  Hold holdAt(const QPointF& point) const;
  void drag(const QPointF& point, Qt::KeyboardModifiers keys);
  void dragSpan(const QPointF& point, bool free);
  void change(const PaceSetting& pace, const QString& name, const QString& key);
  double snappedTime(double t, std::optional<std::size_t> except) const;
  double snappedSource(double s) const;
  QString effect(const PaceSetting& after) const;
  void typeFor(const Hold& hold);

  ChartState state_;
  ChartView view_;
  bool fitted_ = true;
  ChartUp up_ = ChartUp::Source;
  Keeping keeping_ = Keeping::Footage;
  Along along_ = Along::Output;
  std::optional<std::size_t> span_, mark_;
  const SmallPictures* pictures_ = nullptr;
  QPixmap drawn_;
  bool stale_ = true;
  QRectF remedyRect_;
  std::optional<double> ring_;
  Hold hold_, hover_;
  QPointF pressed_;
  PaceSetting before_;  ///< of what is dragged, as it was
  QString saying_;
  QPointF sayingAt_;
  ChartView viewBefore_;
  ChartPrompt* prompt_ = nullptr;
};

}  // namespace molten

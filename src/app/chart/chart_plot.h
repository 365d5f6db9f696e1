#pragma once
// The Time Chart's plot. Knows only what it is given; says what is wanted.

#include <QPixmap>
#include <QWidget>

#include "app/chart/chart_drawing.h"
#include "app/chart/typed_pace.h"
#include "app/theme/spoken.h"

namespace molten {

class ChartPrompt;

/// The widget: takes the events to the hand (ChartHand), keeps what the drawing makes (ChartDrawing), both over what is
/// in sight (ChartSight). Qt wants a method of it for each kind of event; without those and the signals there are
/// twenty-five.
class ChartPlot : public QWidget, public theme::SpokenState {
  Q_OBJECT

 public:
  explicit ChartPlot(QWidget* parent = nullptr);
  QString spokenState() const override { return sight_.words(); }

  void setState(const ChartState& state);
  /// Only the playhead has moved.
  void setFrame(std::int64_t frame);
  /// Moments that marks are drawn to, in seconds of the piece, rising.
  void setOnsets(std::vector<double> onsets) { sight_.onsets = std::move(onsets); }
  /// The second of the source that the pixel under the hand reads, ringed at the playhead.
  void setRing(std::optional<double> seconds);
  void setPictures(const SmallPictures* pictures);
  void picturesChanged() { redraw(); }
  void setUp(ChartUp up);
  void setKeeping(Keeping keeping) { hand_.setKeeping(keeping); }
  void setAlong(Along along) { hand_.setAlong(along); }
  /// All of the output and the source in sight.
  void fit();
  /// What is shown and selected, and where it stands.
  const ChartSight& sight() const { return sight_; }
  void selectSpan(std::optional<std::size_t> span);
  void selectMark(std::optional<std::size_t> mark);
  /// Where the way out of reads outside of the clip is written.
  QRectF remedyRect() const { return drawing_.remedy(); }

  /// A field on the chart to type a number into, with what it would do.
  void prompt(const TypedPace& number);
  ChartPrompt* openPrompt() const { return prompt_; }

 signals:
  void selectionChanged();  ///< another span or mark is in hand
  void viewChanged();  ///< another part of the output or the source is in sight
  void scrubbed(std::int64_t frame);
  void paceChanged(const PaceSetting& pace, const QString& name, const QString& mergeKey);
  void gestureEnded();
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
  void redraw();
  void wantPictures();
  ChartHold holdAt(const QPointF& point) const;
  void select(const ChartHold& hold);
  void setHover(const ChartHold& hold);
  void drag(const QPointF& point, Qt::KeyboardModifiers keys);
  void pan(const QPointF& point);
  void change(const PaceEdit& edit);
  void typeFor(const ChartHold& hold);

  ChartSight sight_;
  ChartDrawing drawing_{sight_};
  ChartHand hand_{sight_};
  bool fitted_ = true;
  QPixmap drawn_;
  bool stale_ = true;
  ChartHold hover_;
  QString saying_;
  QPointF sayingAt_;
  ChartView viewAtPress_;
  ChartPrompt* prompt_ = nullptr;
};

}  // namespace molten

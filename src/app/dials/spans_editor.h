#pragma once
// A Pace's spans as a table, a row a span; and how edits of it act.

#include <QWidget>
#include <optional>

#include "core/time/pace_edits.h"

class QLabel;
class QPushButton;
class QScrollBar;

namespace molten {

class ValueField;

class SpansEditor : public QWidget {
  Q_OBJECT

 public:
  static constexpr int rows = 6;  ///< in sight at once; the wheel, or the bar, moves along

  explicit SpansEditor(QWidget* parent = nullptr);
  /// `rate`: of the output, for lengths in frames.
  void setPace(const PaceSetting& pace, Rational rate);
  void setHow(Keeping keeping, Along along);
  /// Marked: the span that is in hand on the chart.
  void setSelected(std::optional<std::size_t> span);
  /// The span that a row shows.
  std::size_t spanOf(int row) const { return first_ + static_cast<std::size_t>(row); }

 signals:
  void paceChanged(const PaceSetting& pace, const QString& name, const QString& mergeKey);
  void spanChosen(std::size_t span);
  void markWanted();  ///< at the playhead
  void howChosen(Keeping keeping, Along along);

 protected:
  void wheelEvent(QWheelEvent* event) override;
  bool eventFilter(QObject* object, QEvent* event) override;

 private:
  enum Column { From, Lasts, Speed, Glide, columns };
  QWidget* table();
  QWidget* how(const QString& words, const char* name, const QString& first, const QString& second,
               QPushButton* (&buttons)[2]);
  ValueField* makeCell(int row, int column);
  void showRows();
  QString text(std::size_t span, int column) const;
  /// Sets what is typed into a cell; gives why it cannot stand, or nothing.
  QString take(std::size_t span, int column, const QString& typed);
  QString takeFrom(std::size_t span, const QString& typed);
  QString takeGlide(std::size_t span, const QString& typed);
  void step(std::size_t span, int column, int steps);
  void change(const PaceSetting& after, const QString& name, const QString& mergeKey = {});

  PaceSetting pace_;
  Rational rate_ = 25;
  Keeping keeping_ = Keeping::Footage;
  Along along_ = Along::Output;
  std::size_t first_ = 0;
  std::optional<std::size_t> selected_;
  QString heads_[columns];
  QString helps_[columns];
  QLabel* numbers_[rows];
  ValueField* cells_[rows][columns];
  QScrollBar* bar_;
  QPushButton *keeps_[2], *slides_[2];
};

}  // namespace molten

#pragma once
// The commands that shape the Pace.

#include <QObject>
#include <functional>

#include "app/chart/typed_pace.h"
#include "app/session/session.h"

class QMenu;

namespace molten {

class Commands;
class PaceOnChart;
class Deck;

/// Marks, speeds, glides, stops, turns, fits and trims, each on the span or the mark in hand; those that need a number
/// ask for it on the chart.
class PaceMenu : public QObject {
  Q_OBJECT

 public:
  PaceMenu(Session& session, PaceOnChart& pace, Deck& chart, Commands& commands, QMenu* menu,
           QObject* parent = nullptr);

 signals:
  void chartNeeded();  ///< it is about to be typed into

 public slots:
  void dropMark();

 private:
  /// From a length in seconds to the Pace that it would make.
  using OfLength = std::function<PaceSetting(Rational length)>;
  void fillMarks();
  void fillSpan();
  void fillGlide();
  void fillStops();
  void fillWhole();
  void fillTrims();
  void add(QMenu* menu, const QString& name, const QKeySequence& keys, const std::function<void()>& act);
  void change(const PaceSetting& after, const QString& name);
  void type(const TypedPace& number);
  void typeLength(const QString& question, Rational length, const QString& name, OfLength edit);
  void typeSpeed(Keeping keeping);
  void typeGlide();
  void setGlideSide(GlideSide side, const QString& name);
  void typeTurns();
  void lineUp();
  void goToMark(int direction);
  std::size_t spanInHand() const;
  /// The selected mark, or the one nearest to the playhead.
  std::optional<std::size_t> markInHand() const;
  /// The same; says so where there is none.
  std::optional<std::size_t> markOrWords();

  Session& session_;
  PaceOnChart& pace_;
  Deck& chart_;
  Commands& commands_;
  QMenu* menu_;
};

}  // namespace molten

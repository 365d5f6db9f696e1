#pragma once
// What charts show, as tables: for readers of the screen, and for whoever wants the numbers.

#include <QString>
#include <QStringList>
#include <functional>

#include "core/picture/picture.h"

namespace molten {

struct ChartSight;
struct KeySight;
struct SectionState;

/// What it shows is what there was when it was made. For several threads.
struct ValueTable {
  QString name;
  QStringList columns;
  int rows = 0;
  std::function<QStringList(int)> row = {};  ///< a row's cells, by its number
  int here = -1;  ///< the row of the playhead; below 0: there is none
};

/// A row for each picture: what it reads.
ValueTable timeChartValues(const ChartSight& sight);
/// A row for each span of the Pace; without one there are no rows.
ValueTable paceValues(const ChartSight& sight);
/// A row for each key.
ValueTable keyValues(const KeySight& sight);
/// A row for each place at which a section knows what is read. `along`: of the picture, in pixels.
ValueTable sectionValues(const QString& name, const SectionState& state, int along);

}  // namespace molten

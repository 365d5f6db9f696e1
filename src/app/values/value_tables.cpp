#include "app/values/value_tables.h"

#include <cmath>
#include <memory>

#include "app/chart/chart_sight.h"
#include "app/chart/key_sight.h"
#include "app/sections/section_view.h"
#include "core/stages/parameter.h"
#include "core/time/frame_clock.h"

namespace molten {
namespace {

QString words(const char* text) {
  return QObject::tr(text);
}

QString seconds(double value) {
  return std::isfinite(value) ? QString::fromStdString(secondsText(value)) : words("nothing");
}

QString percent(double value) {
  return words("%1 %").arg(QString::number(value, 'f', 1).replace('-', QChar(0x2212)));
}

}  // namespace

ValueTable timeChartValues(const ChartSight& sight) {
  ValueTable table{words("Time Chart"), {words("Frame"), words("Time"), words("Reads"), words("Earliest"), words("Latest"), words("Speed"), words("Besides")}};
  if (!sight.drawable()) return table;
  const auto shown = std::make_shared<const ChartSight>(sight);
  table.rows = static_cast<int>(std::min<std::int64_t>(sight.state.piece.length, std::numeric_limits<int>::max()));
  if (sight.state.follows) table.here = static_cast<int>(sight.state.frame);
  table.cell = [shown](int row, int column) -> QString {
    const double rate = shown->state.piece.rate.toDouble(), footage = shown->state.reads->source().rate.toDouble();
    const auto reads = [&](int picture) { return shown->readsAt(picture / rate); };
    const MomentReads now = reads(row);
    switch (column) {
      case 0:
        return QString::number(row);
      case 1:
        return seconds(row / rate);
      case 2:
        return seconds(now.now / footage);
      case 3:
        return seconds(now.least / footage);
      case 4:
        return seconds(now.most / footage);
      case 5:
        return row + 1 < shown->state.piece.length ? percent((reads(row + 1).now - now.now) / footage * rate * 100) : QString();
      default: {
        QStringList besides;
        for (const double tap : now.taps) besides << seconds(tap / footage);
        if (now.beforeFirst) besides << words("before the clip");
        if (now.pastLast) besides << words("past the clip");
        return besides.join(" · ");
      }
    }
  };
  return table;
}

ValueTable paceValues(const ChartSight& sight) {
  ValueTable table{words("Pace"), {words("Span"), words("Begins"), words("Lasts"), words("From"), words("Speed"), words("Glide in")}};
  if (!sight.state.pace) return table;
  const auto pace = std::make_shared<const PaceSetting>(sight.state.pace->setting);
  const auto curve = std::make_shared<const PaceCurve>(pace->curve());
  table.rows = static_cast<int>(pace->spans.size());
  table.cell = [pace, curve](int row, int column) -> QString {
    const auto which = static_cast<std::size_t>(row);
    const Rational begin = curve->beginOf(which);
    switch (column) {
      case 0:
        return QString::number(row + 1);
      case 1:
        return seconds(begin.toDouble());
      case 2:
        return seconds(pace->spans[which].length.toDouble());
      case 3:
        return seconds(curve->sourceAt(which).toDouble());
      case 4:
        return percent(pace->spans[which].speed.toDouble() * 100);
      default:
        return row > 0 ? seconds(pace->spans[which - 1].glide.toDouble()) : QString();
    }
  };
  return table;
}

ValueTable keyValues(const KeySight& sight) {
  ValueTable table{words("Keys"), {words("Value"), words("Frame"), words("Time"), words("Is"), words("Comes to it")}};
  const auto shown = std::make_shared<const KeySight>(sight);
  const auto keys = std::make_shared<std::vector<KeyName>>();
  for (std::size_t lane = 0; lane < sight.count(); ++lane)
    for (std::size_t key = 0; key < sight.track(lane).size(); ++key) keys->push_back({lane, key});
  table.rows = static_cast<int>(keys->size());
  table.cell = [shown, keys](int row, int column) -> QString {
    const KeyName& name = (*keys)[static_cast<std::size_t>(row)];
    const KeyLane& lane = shown->state.lanes[name.first];
    const Key& key = shown->key(name);
    switch (column) {
      case 0:
        return lane.label;
      case 1:
        return QString::number((key.at * shown->state.rate).floor());
      case 2:
        return seconds(key.at.toDouble());
      case 3:
        return shown->valueText(lane, key.value);
      default:
        return key.ease.way == Ease::Way::Linear ? words("evenly") : key.ease.way == Ease::Way::Hold ? words("by a jump") : words("softly");
    }
  };
  return table;
}

ValueTable sectionValues(const QString& name, const SectionState& state, int along) {
  ValueTable table{name, {words("Pixel"), words("Reads"), words("Beside now")}};
  const auto reads = std::make_shared<const std::vector<double>>(state.reads);
  table.rows = static_cast<int>(reads->size());
  table.cell = [reads, along, now = state.now](int row, int column) -> QString {
    const auto at = static_cast<std::size_t>(row);
    if (column == 0) return QString::number(static_cast<int>((row + 0.5) / static_cast<double>(reads->size()) * along));
    if (!std::isfinite((*reads)[at])) return words("nothing");
    return column == 1 ? seconds((*reads)[at]) : QString::fromStdString(momentText((*reads)[at] - now));
  };
  return table;
}

}  // namespace molten

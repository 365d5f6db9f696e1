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
  table.row = [shown](int row) -> QStringList {
    const double rate = shown->state.piece.rate.toDouble(), footage = shown->state.reads->source().rate.toDouble();
    const MomentReads now = shown->readsAt(row / rate);
    QStringList besides;
    for (const double tap : now.taps) besides << seconds(tap / footage);
    if (now.beforeFirst) besides << words("before the clip");
    if (now.pastLast) besides << words("past the clip");
    QString speed;
    if (row + 1 < shown->state.piece.length) speed = percent((shown->readsAt((row + 1) / rate).now - now.now) / footage * rate * 100);
    return {QString::number(row), seconds(row / rate), seconds(now.now / footage), seconds(now.least / footage), seconds(now.most / footage), speed, besides.join(" · ")};
  };
  return table;
}

ValueTable paceValues(const ChartSight& sight) {
  ValueTable table{words("Pace"), {words("Span"), words("Begins"), words("Lasts"), words("From"), words("Speed"), words("Glide in")}};
  if (!sight.state.pace) return table;
  const auto pace = std::make_shared<const PaceSetting>(sight.state.pace->setting);
  const auto curve = std::make_shared<const PaceCurve>(pace->curve());
  table.rows = static_cast<int>(pace->spans.size());
  table.row = [pace, curve](int row) -> QStringList {
    const auto which = static_cast<std::size_t>(row);
    const PaceSpan& span = pace->spans[which];
    return {QString::number(row + 1),
            seconds(curve->beginOf(which).toDouble()),
            seconds(span.length.toDouble()),
            seconds(curve->sourceAt(which).toDouble()),
            percent(span.speed.toDouble() * 100),
            row > 0 ? seconds(pace->spans[which - 1].glide.toDouble()) : QString()};
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
  table.row = [shown, keys](int row) -> QStringList {
    const KeyName& name = (*keys)[static_cast<std::size_t>(row)];
    const KeyLane& lane = shown->state.lanes[name.first];
    const Key& key = shown->key(name);
    const QString way = key.ease.way == Ease::Way::Linear ? words("evenly") : key.ease.way == Ease::Way::Hold ? words("by a jump") : words("softly");
    return {lane.label, QString::number((key.at * shown->state.rate).floor()), seconds(key.at.toDouble()), shown->valueText(lane, key.value), way};
  };
  return table;
}

ValueTable sectionValues(const QString& name, const SectionState& state, int along) {
  ValueTable table{name, {words("Pixel"), words("Reads"), words("Beside now")}};
  const auto reads = std::make_shared<const std::vector<double>>(state.reads);
  table.rows = static_cast<int>(reads->size());
  table.row = [reads, along, now = state.now](int row) -> QStringList {
    const double read = (*reads)[static_cast<std::size_t>(row)];
    const QString pixel = QString::number(static_cast<int>((row + 0.5) / static_cast<double>(reads->size()) * along));
    if (!std::isfinite(read)) return {pixel, words("nothing"), words("nothing")};
    return {pixel, seconds(read), QString::fromStdString(momentText(read - now))};
  };
  return table;
}

}  // namespace molten

#include "app/session/outside_words.h"

#include <QCoreApplication>

#include "core/stages/common_parameters.h"

namespace molten {
namespace {

QString tr(const char* words) {
  return QCoreApplication::translate("Bench", words);
}

}  // namespace

QString outsideSentence(const Session& session) {
  const auto& outside = session.outside();
  if (outside.empty()) return {};
  const auto lasting = [&](std::int64_t pictures) {
    return QString::fromStdString(secondsText((Rational(pictures) / session.piece().rate).toDouble(), 2));
  };
  const Span span = session.span();
  std::int64_t all = 0;
  for (const OutsideRun& run : outside) all += run.count();
  if (all >= span.count()) return tr("Every picture reads outside the clip.");
  const OutsideRun &first = outside.front(), &last = outside.back();
  const bool atStart = first.first == span.first && first.beforeFirst && !first.pastLast,
             atEnd = last.last == span.last && last.pastLast && !last.beforeFirst;
  if (outside.size() == 2 && atStart && atEnd)
    return tr("The first %1 reads before the clip, the last %2 past its end.")
        .arg(lasting(first.count()), lasting(last.count()));
  if (outside.size() == 1 && atStart) return tr("The first %1 reads before the clip.").arg(lasting(all));
  if (outside.size() == 1 && atEnd) return tr("The last %1 reads past the end of the clip.").arg(lasting(all));
  if (outside.size() == 1)
    return first.beforeFirst ? tr("%1 in the middle reads before the clip.").arg(lasting(all))
                             : tr("%1 in the middle reads past the end of the clip.").arg(lasting(all));
  return tr("%1 in %2 places reads outside the clip.").arg(lasting(all)).arg(outside.size());
}

QString whatHappensThere(PastTheEnds ends) {
  const ChoiceDescription& choice = describedEnds(ends);
  return QString::fromStdString(choice.label) + ": " + QString::fromStdString(choice.help.substr(0, 1)).toLower() +
         QString::fromStdString(choice.help.substr(1));
}

}  // namespace molten

#include "app/help/manual.h"

#include <QFile>
#include <QTextStream>
#include <algorithm>

#include "core/stages/stage.h"

/// A library's resources are asked for by name, and from outside of namespaces.
static void takeManualIn() {
  Q_INIT_RESOURCE(manual);
}

namespace molten {
namespace {

QString text(const std::string& words) {
  return QString::fromStdString(words);
}

QString resource(const QString& name) {
  QFile file(":/manual/" + name);
  return file.open(QIODevice::ReadOnly) ? QString::fromUtf8(file.readAll()) : QString();
}

ManualPage stagePage(const StageDescription& stage) {
  QString words = QString("# %1\n\n%2\n").arg(text(stage.label), text(stage.help));
  // By cards, as they stand on the Dials.
  std::vector<std::pair<std::string, QString>> cards;
  for (const ParameterDescription& parameter : stage.parameters) {
    auto at = std::find_if(cards.begin(), cards.end(), [&](auto& one) { return one.first == parameter.card; });
    if (at == cards.end()) at = cards.insert(at, {parameter.card, {}});
    at->second += QString("- **%1**: %2\n").arg(text(parameter.label), text(parameter.help));
  }
  for (const auto& [card, lines] : cards) words += QString("\n## %1\n\n").arg(text(card)) + lines;
  return {pageOf(stage), text(stage.label), words};
}

std::vector<ManualPage> made() {
  takeManualIn();
  std::vector<ManualPage> pages;
  const QString contents = resource("contents.txt");
  for (const QString& name : contents.split('\n', Qt::SkipEmptyParts)) {
    const QString words = resource(name + ".md");
    pages.push_back({name, words.section('\n', 0, 0).mid(2), words});
  }
  for (const StageKind* const kind : stageKinds()) pages.push_back(stagePage(kind->description()));
  return pages;
}

}  // namespace

QString pageOf(const StageDescription& stage) {
  return "stage-" + text(stage.id);
}

const std::vector<ManualPage>& manualPages() {
  static const std::vector<ManualPage> pages = made();
  return pages;
}

std::vector<std::size_t> pagesWith(const QString& words) {
  const auto& pages = manualPages();
  const QStringList wanted = words.split(' ', Qt::SkipEmptyParts);
  const auto holdsAll = [&](const QString& where) {
    return std::all_of(wanted.begin(), wanted.end(), [&](const QString& word) { return where.contains(word, Qt::CaseInsensitive); });
  };
  std::vector<std::size_t> found;
  for (const bool inTitle : {true, false})
    for (std::size_t i = 0; i < pages.size(); ++i)
      if (holdsAll(pages[i].title) == inTitle && (inTitle || holdsAll(pages[i].words))) found.push_back(i);
  return found;
}

}  // namespace molten

#pragma once
// The manual's pages: what a practitioner wants to do, and a page for every stage, made from its description.

#include <QString>
#include <vector>

namespace molten {

struct StageDescription;

struct ManualPage {
  QString name;   ///< by which others link to it: `page:loop-of-strips`, `page:stage-strips`
  QString title;
  QString words;  ///< Markdown
};

/// The name of a stage's page.
QString pageOf(const StageDescription& stage);
/// In the order of the list.
const std::vector<ManualPage>& manualPages();
/// Places of the pages in which all of some words stand, those with them in their title first; all of them where there are no words.
std::vector<std::size_t> pagesWith(const QString& words);

}  // namespace molten

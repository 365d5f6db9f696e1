#include "core/project/branch.h"

namespace molten {
namespace {

/// Of a project that may be changed, or not; nullptr: there is none.
template <class AnyProject>
auto stageAt(AnyProject& whole, const BranchPath& path) -> decltype(whole.chain.data()) {
  auto* chain = &whole.chain;
  decltype(whole.chain.data()) stage = nullptr;
  for (const std::size_t index : path) {
    if (index >= chain->size() || !(*chain)[index].kind->description().branches) return nullptr;
    stage = &(*chain)[index];
    chain = &stage->branch;
  }
  return stage;
}

}  // namespace

std::optional<Project> branchAt(const Project& whole, const BranchPath& path) {
  if (path.empty()) return whole;
  const Stage* const stage = stageAt(whole, path);
  if (!stage) return std::nullopt;
  const auto own = stage->kind->ownSource(stage->values);
  if (!own) return std::nullopt;
  Project project;
  project.source.path = own->use.path;
  project.source.rate = own->use.rate;
  project.source.between = own->between;
  project.chain = stage->branch;
  return project;
}

Edit inBranch(const Project& whole, const BranchPath& path, const Edit& edit) {
  if (path.empty()) return edit;
  Edit made{edit.name, whole, edit.mergeKey};
  for (const std::size_t index : path)
    if (!made.mergeKey.empty()) made.mergeKey += " in " + std::to_string(index);
  Stage* const stage = stageAt(made.after, path);
  if (!stage) return made;
  stage->branch = edit.after.chain;
  const Source& source = edit.after.source;
  const auto own = stage->kind->ownSource(stage->values);
  const OwnSource wanted{{source.path, source.rate}, source.between};
  if (own != wanted) stage->values = stage->kind->withOwnSource(stage->values, wanted);
  return made;
}

bool isOfBranch(const Project& before, const Project& after) {
  Project other = after;
  other.source = before.source;
  other.chain = before.chain;
  return other == before;
}

}  // namespace molten

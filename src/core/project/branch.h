#pragma once
// The chain of a stage's own source, seen and edited as a project is.

#include "core/project/project.h"

namespace molten {

/// Where a branch hangs: the stage of the shot's chain, then of that one's branch, and so on. Empty: the shot's own chain.
using BranchPath = std::vector<std::size_t>;

/// The source and the chain at a path, as a project; none where there is no stage that branches, or it reads no source.
std::optional<Project> branchAt(const Project& whole, const BranchPath& path);
/// An edit of what branchAt() gave, as one of the whole. Only source and chain are taken over: see isOfBranch().
Edit inBranch(const Project& whole, const BranchPath& path, const Edit& edit);
/// True if nothing but source and chain differs: what else a project holds a branch has not.
bool isOfBranch(const Project& before, const Project& after);

}  // namespace molten

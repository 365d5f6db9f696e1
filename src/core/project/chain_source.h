#pragma once
// Stages that become a source: the beginning of a chain as a project of its own, and back.

#include "core/project/project.h"

namespace molten {

struct TurnedIntoSource {
  Project source;  ///< to be saved: the footage and the first stages
  Edit edit;       ///< of what it was taken from: it reads that, and has the rest of the chain
};
/// The first `stages` of a project's chain, as the result of a project at `path`. Sounds that values of these go by are laid there too,
/// muted. Requires a project of one shot, and one stage at least.
TurnedIntoSource turnIntoSource(const Project& before, std::size_t stages, const std::string& path);
/// The chain of a source comes back before that of the project that reads it. Fails with a sentence where that source is more than footage
/// and a chain.
Result<Edit> takeSourceApart(const Project& before, const Project& source);

}  // namespace molten

#pragma once
// Projects as `.molten` files: JSON, described field by field in docs/project-format.md.

#include <string>

#include "core/project/project.h"
#include "core/result.h"

namespace molten {

/// The number that this version writes. Lower ones are brought up to it when read; higher ones are refused.
inline constexpr int projectFormat = 2;

/// The text of a project file that stands in `folder`: paths below it are written relative to it.
std::string projectText(const Project& project, const std::string& folder);
/// Fails with a sentence if the text is no project, or one of a later version.
Result<Project> parseProject(const std::string& text, const std::string& folder);

/// How paths stand in a file: from its folder, or in full, for a file that does not stand where the project does.
enum class Paths { Relative, Absolute };

/// Its paintings are written beside it.
Status saveProject(const Project& project, const std::string& path, Paths paths = Paths::Relative);
Result<Project> loadProject(const std::string& path);

/// Stages as text, to be copied to other projects and kept in starters: the part "chain" of a project file. Paths are
/// written in full, or relative to `folder` if they lie below it.
std::string chainText(const Chain& chain, const std::string& folder = {});
/// Reads that, or stages as the command line writes them, one a line. Fails with a sentence. `format`: in which it was
/// written.
Result<Chain> parseChain(const std::string& text, Rational rate, const std::string& folder = {},
                         int format = projectFormat);

}  // namespace molten

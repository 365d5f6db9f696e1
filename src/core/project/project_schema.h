#pragma once
// What a project file may hold, for other programs.

#include <string>

namespace molten {

/// The JSON Schema of project files, made from the stages' descriptions; docs/project.schema.json holds it.
std::string projectSchema();

}  // namespace molten

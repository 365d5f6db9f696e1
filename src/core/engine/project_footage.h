#pragma once
// The result of a project as footage: read as a clip is, made as it is asked for.

#include <memory>
#include <stop_token>
#include <string>

#include "core/media/footage.h"

namespace molten {

/// By its ending: `.molten`.
bool namesProject(const std::string& path);
/// Whatever a source's path names: a project's result, or else what Footage::open() opens. A project is read as it is now; its pictures
/// are those that it would be rendered to, from in to out. Fails with a sentence: also if it contains itself.
Result<std::shared_ptr<const Footage>> openSource(const std::string& path, const FootageOptions& options, const FootageProgress& progress,
                                                  std::stop_token stop);

}  // namespace molten

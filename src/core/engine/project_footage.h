#pragma once
// The result of a project as footage: read as a clip is, made as it is asked for.

#include <memory>
#include <stop_token>
#include <string>

#include "core/media/footage.h"
#include "core/project/project.h"

namespace molten {

/// Whatever a source's path names: a project's result, or else what Footage::open() opens. A project is read as it is now: its pictures from
/// in to out, at the rate and of the size of what leaves its chain; where they are kept in a file and that is current, from there.
/// Fails with a sentence, also if it contains itself.
Result<std::shared_ptr<const Footage>> openSource(const std::string& path, const FootageOptions& options, const FootageProgress& progress,
                                                  std::stop_token stop);
/// The shots of a reel as one clip of that name, without what comes after the last cut; a shot that cannot be had shows nothing.
Result<std::shared_ptr<const Footage>> rowAsFootage(const Project& reel, const std::string& name, std::stop_token stop);
/// The same as openSource() of a project, made even where it is kept.
Result<std::shared_ptr<const Footage>> makeSource(const std::string& path, std::stop_token stop);

}  // namespace molten

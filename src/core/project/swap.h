#pragma once
// Other footage in place of what a shot has: for one shot or for all that use it, and what does not fit afterwards.

#include <string>
#include <vector>

#include "core/project/reel.h"

namespace molten {

/// How many shots read a file as their footage.
std::size_t shotsOf(const Project& project, const std::string& path);
/// All of them read another one; chains, trims, in and out stay. What does not fit then, misfits() says.
Edit swapFootage(const Project& before, const std::string& was, const std::string& path);

/// A project of one shot with other footage, of which as many pictures are taken: from in to out.
Project withClip(const Project& project, const std::string& path);

/// Something that was right with the old footage and is not with the new one.
struct Misfit {
  std::string says;                         ///< a sentence
  std::optional<Edit> remedy = std::nullopt;  ///< of the whole project; its name says what it does
};
/// Of a shot of `now`, which reads `is` in place of `was`.
std::vector<Misfit> misfits(const Project& now, std::size_t shot, const VideoDescription& was, const VideoDescription& is);

}  // namespace molten

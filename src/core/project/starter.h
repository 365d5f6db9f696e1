#pragma once
// Starters: ready chains, to be laid under any footage.

#include <span>
#include <string>

#include "core/project/project.h"
#include "core/result.h"

namespace molten {

struct Starter {
  std::string name;  ///< `Day fan`
  std::string help;  ///< one line: what it makes
  VideoDescription madeFor;
  Chain chain;
};

/// Those that come with the program, in the order in which they are shown.
std::span<const Starter> builtInStarters();

/// The chain for other footage than it was made for: times of keys and of a Pace's spans are stretched to its length,
/// other times are shortened where it is shorter, pixels go with its width.
Chain fitted(const Starter& starter, const VideoDescription& footage);

/// A `.molten-starter` file: JSON, described in docs/project-format.md. Written safely.
Status saveStarter(const Starter& starter, const std::string& path);
Result<Starter> loadStarter(const std::string& path);

}  // namespace molten

#pragma once
// Edits of a project's sounds, each with its name.

#include <optional>

#include "core/project/project.h"

namespace molten {

/// Which: one of Project::sounds by its number, none: the shot's own.
using SoundName = std::optional<std::size_t>;

const Stage& soundOf(const Project& project, SoundName which);
/// `whirr.wav`, or what the user calls it.
std::string soundTitle(const Project& project, SoundName which);
/// Sounds that begin at a moment of the piece, in seconds, each on a lane of its own.
Edit layInSounds(const Project& before, const std::vector<std::string>& files, double at);
Edit setSoundValue(const Project& before, SoundName which, std::size_t parameter, const ParameterValue& value);
/// The sound as it is laid otherwise. `name`: of the step; edits with one `mergeKey` are one.
Edit relaySound(const Project& before, std::size_t which, const LaidSound& laid, const std::string& name,
                const std::string& mergeKey = {});
Edit removeSound(const Project& before, std::size_t which);
Edit duplicateSound(const Project& before, std::size_t which);

}  // namespace molten

#pragma once
// Edits of a project's sounds, each with its name.

#include <functional>
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
/// An edit of a sound as of the one stage of a chain: `change` is given a project with that alone, and its number there.
Edit editSound(const Project& before, SoundName which, const std::function<Edit(const Project& alone, std::size_t stage)>& change);
/// The sound as it is laid otherwise. `name`: of the step; edits with one `mergeKey` are one.
Edit relaySound(const Project& before, std::size_t which, const LaidSound& laid, const std::string& name,
                const std::string& mergeKey = {});
/// The same for several, in one step. `name`: of the step where they are more than one.
Edit editSounds(const Project& before, const std::vector<SoundName>& which, const std::string& name,
                const std::function<Edit(const Project& before, const SoundName& one)>& change);
/// Values that follow it stay as they are without it; what follows another goes on to.
Edit removeSound(const Project& before, std::size_t which);
Edit duplicateSound(const Project& before, std::size_t which);

}  // namespace molten

#pragma once
// What is heard of a project's result, as a sound among others.

#include <memory>
#include <string>
#include <vector>

#include "core/engine/sound_feed.h"

namespace molten {

/// From in to out, mixed as it is asked for. Fails with a sentence, also where nothing is heard of it. Works as long as it takes to open
/// what it is made of.
Result<std::shared_ptr<SoundFeed>> openProjectSound(const std::string& path, const std::shared_ptr<MemoryBudget>& budget, Outline outline);

}  // namespace molten

#pragma once
// Sounds of the works, made from nothing but sines and noise.

#include <string>
#include <vector>

#include "core/sound/sound.h"

namespace demo {

struct DemoSound {
  std::string name;  ///< `rising-whirr`
  molten::Sound sound;
};

/// The sounds that stand by themselves.
std::vector<DemoSound> sounds();
/// What is heard while the ladle tips: metal, the pour, its splash and the hiss after it.
molten::Sound ladleSound();

/// Writes those that stand by themselves as files of a folder.
bool writeSounds(const std::string& folder);

}  // namespace demo

#include "core/project/sound_edits.h"

#include <filesystem>

namespace molten {
namespace {

std::string named(const Stage& sound) {
  return sound.name.empty() ? std::filesystem::path(laidSound(sound).file).filename().string() : sound.name;
}

}  // namespace

const Stage& soundOf(const Project& project, SoundName which) {
  return which ? project.sounds[*which] : project.ownSound;
}

std::string soundTitle(const Project& project, SoundName which) {
  return which ? named(project.sounds[*which]) : "Own sound";
}

Edit layInSounds(const Project& before, const std::vector<std::string>& files, double at) {
  Edit edit{files.size() == 1 ? "Sound " + std::filesystem::path(files[0]).filename().string()
                              : std::to_string(files.size()) + " sounds",
            before,
            {}};
  for (const std::string& file : files) edit.after.sounds.push_back(layingSound(file, at));
  return edit;
}

Edit setSoundValue(const Project& before, SoundName which, std::size_t parameter, const ParameterValue& value) {
  const ParameterDescription& described = soundOf(before, which).kind->description().parameters[parameter];
  const ParameterValue within = withinRange(described, value);
  Edit edit{described.label + " " + valueLabel(described, within), before,
            "sound " + (which ? std::to_string(*which) : "own") + " " + described.id};
  Stage& sound = which ? edit.after.sounds[*which] : edit.after.ownSound;
  sound.values[parameter] = within;
  return edit;
}

Edit relaySound(const Project& before, std::size_t which, const LaidSound& laid, const std::string& name,
                const std::string& mergeKey) {
  Edit edit{name, before, mergeKey};
  edit.after.sounds[which] = withLaidSound(before.sounds[which], laid);
  return edit;
}

Edit removeSound(const Project& before, std::size_t which) {
  Edit edit{"Remove " + soundTitle(before, which), before, {}};
  edit.after.sounds.erase(edit.after.sounds.begin() + static_cast<std::ptrdiff_t>(which));
  return edit;
}

Edit duplicateSound(const Project& before, std::size_t which) {
  Edit edit{"Duplicate " + soundTitle(before, which), before, {}};
  edit.after.sounds.insert(edit.after.sounds.begin() + static_cast<std::ptrdiff_t>(which) + 1, before.sounds[which]);
  return edit;
}

}  // namespace molten

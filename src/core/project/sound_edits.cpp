#include "core/project/sound_edits.h"

#include <filesystem>

namespace molten {
namespace {

constexpr std::size_t noSound = Follow::Listening::none;

std::string named(const Stage& sound) {
  return sound.name.empty() ? std::filesystem::path(laidSound(sound).file).filename().string() : sound.name;
}

/// Values follow sounds by their numbers, counted from 1: what each becomes.
template <class Number>
void renumberFollowed(Chain& chain, const Number& number) {
  for (Stage& stage : chain) {
    for (auto& [parameter, drives] : stage.drives)
      for (Drive& drive : drives)
        if (auto* const follow = std::get_if<Follow>(&drive); follow && follow->what == Follow::What::Loudness && follow->listening.sound > 0)
          follow->listening.sound = number(follow->listening.sound);
    renumberFollowed(stage.branch, number);
  }
}

template <class Number>
void renumberFollowed(Project& project, const Number& number) {
  for (Chain* const chain : chainsOf(project)) renumberFollowed(*chain, number);
  // Gains may follow as well.
  renumberFollowed(project.sounds, number);
  Chain own{project.ownSound};
  renumberFollowed(own, number);
  project.ownSound = std::move(own[0]);
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

Edit editSound(const Project& before, SoundName which, const std::function<Edit(const Project& alone, std::size_t stage)>& change) {
  Project alone = before;
  alone.chain = {soundOf(before, which)};
  Edit made = change(alone, 0);
  Edit edit{made.name, before, made.mergeKey.empty() ? std::string() : "sound " + (which ? std::to_string(*which) : "own") + " " + made.mergeKey};
  (which ? edit.after.sounds[*which] : edit.after.ownSound) = std::move(made.after.chain[0]);
  return edit;
}

Edit editSounds(const Project& before, const std::vector<SoundName>& which, const std::string& name,
                const std::function<Edit(const Project& before, const SoundName& one)>& change) {
  Edit all{name, before, {}};
  for (const SoundName& one : which) {
    Edit edit = change(all.after, one);
    all.after = std::move(edit.after);
    all.mergeKey += edit.mergeKey;
    if (which.size() == 1) all.name = edit.name;
  }
  return all;
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
  // Far beyond all there are: it follows none.
  renumberFollowed(edit.after, [&](std::size_t n) { return n == which + 1 ? noSound : n > which + 1 && n != noSound ? n - 1 : n; });
  return edit;
}

Edit duplicateSound(const Project& before, std::size_t which) {
  Edit edit{"Duplicate " + soundTitle(before, which), before, {}};
  edit.after.sounds.insert(edit.after.sounds.begin() + static_cast<std::ptrdiff_t>(which) + 1, before.sounds[which]);
  renumberFollowed(edit.after, [&](std::size_t n) { return n > which + 1 && n != noSound ? n + 1 : n; });
  return edit;
}

}  // namespace molten

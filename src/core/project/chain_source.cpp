#include "core/project/chain_source.h"

#include "core/media/av_handles.h"
#include "core/project/played.h"

namespace molten {

TurnedIntoSource turnIntoSource(const Project& before, std::size_t stages, const std::string& path) {
  const auto cut = static_cast<std::ptrdiff_t>(stages);
  Project source;
  source.source = before.source;
  source.chain.assign(before.chain.begin(), before.chain.begin() + cut);
  if (anyFollows(source.chain, Follow::What::Loudness))
    for (Stage sound : before.sounds) {
      sound.values[soundParameters(sound).mute] = true;
      source.sounds.push_back(std::move(sound));
    }
  // What becomes of its sound at other speeds is so in both.
  if (const auto speeds = soundParameters(before.ownSound).otherSpeeds) source.ownSound.values[*speeds] = before.ownSound.values[*speeds];
  Edit edit{"Turn " + std::to_string(stages) + (stages == 1 ? " stage" : " stages") + " into a source", before, {}};
  edit.after.source.path = path;
  edit.after.source.rate.reset();
  edit.after.chain.erase(edit.after.chain.begin(), edit.after.chain.begin() + cut);
  // Another chain over the same footage is none over this.
  edit.after.versionB.reset();
  return {std::move(source), std::move(edit)};
}

Result<Edit> takeSourceApart(const Project& before, const Project& source) {
  const std::string name = fileName(before.source.path);
  const auto refused = [&](const std::string& why) { return Error{name + " cannot be taken apart: " + why + " Open it to change that."}; };
  if (!source.more.empty()) return refused("it has several shots.");
  if (isReel(source) || source.in || source.out || source.output.length) return refused("it shows a part of its chain alone.");
  bool heard = false;
  for (const Stage& sound : source.sounds) heard |= sound.on && !soundSwitches(sound).mute;
  if (heard) return refused("sounds are laid in it.");
  if (source.chain.size() + before.chain.size() > mostStages) return refused("the chain would be longer than " + std::to_string(mostStages) + " stages.");
  Edit edit{"Take " + name + " apart", before, {}};
  edit.after.source = source.source;
  edit.after.chain.insert(edit.after.chain.begin(), source.chain.begin(), source.chain.end());
  edit.after.versionB.reset();
  return edit;
}

}  // namespace molten

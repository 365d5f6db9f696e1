#include "core/project/missing_files.h"

#include <algorithm>
#include <filesystem>
#include <map>

#include "core/files/read_file.h"
#include "core/media/stills_reader.h"
#include "core/picture/blank.h"

namespace molten {
namespace {

namespace fs = std::filesystem;

bool isThere(const std::string& path) {
  std::error_code none;
  const fs::file_status there = fs::status(path, none);
  return namesBlank(path) || fs::is_regular_file(there) || fs::is_directory(there) || (isStillsPattern(path) && listStills(path));
}

void inChain(Chain& chain, const std::function<void(std::string&, const Stage*)>& act) {
  for (Stage& stage : chain) {
    const auto& parameters = stage.kind->description().parameters;
    for (std::size_t i = 0; i < parameters.size(); ++i) {
      if (!std::holds_alternative<FileDescription>(parameters[i].kind)) continue;
      if (auto& path = std::get<std::string>(stage.values[i]); !path.empty()) act(path, &stage);
    }
    inChain(stage.branch, act);
  }
}

}  // namespace

void forEachPath(Project& project, const std::function<void(std::string&, const Stage*)>& act) {
  if (!project.source.path.empty()) act(project.source.path, nullptr);
  for (Shot& shot : project.more)
    if (!shot.source.path.empty()) act(shot.source.path, nullptr);
  for (Chain* const chain : chainsOf(project)) inChain(*chain, act);
  inChain(project.sounds, act);
}

std::vector<MissingFile> missingFiles(const Project& project, const std::stop_token& stop) {
  Project copy = project;
  std::vector<MissingFile> all;
  std::map<std::string, bool> there;
  forEachPath(copy, [&](const std::string& path, const Stage* stage) {
    if (stop.stop_requested()) return;
    if (const auto [at, isNew] = there.try_emplace(path); isNew) at->second = isThere(path);
    if (there[path]) return;
    const auto known = std::find_if(all.begin(), all.end(), [&](const MissingFile& one) { return one.path == path; });
    if (known == all.end()) {
      all.push_back({path, stage ? titleOf(*stage) : std::string()});
    } else if (stage && !known->readBy.empty()) {
      // Version B has most stages in common with the chain.
      const std::string list = ", " + known->readBy + ",", title = ", " + titleOf(*stage) + ",";
      if (list.find(title) == std::string::npos) known->readBy += ", " + titleOf(*stage);
    }
  });
  return all;
}

Project withoutMissing(const Project& before, std::vector<std::string>& said) {
  Project after = before;
  const std::function<void(Chain&)> in = [&](Chain& chain) {
    for (Stage& stage : chain) {
      if (!stage.on) continue;
      Chain alone{stage};
      alone.front().branch.clear();
      inChain(alone, [&](const std::string& path, const Stage*) {
        if (!stage.on || isThere(path)) return;
        stage.on = false;
        const auto opened = OpenFile::open(path);
        said.push_back(titleOf(stage) + " is left out: " + (opened ? path : opened.error().message));
      });
      if (stage.on) in(stage.branch);
    }
  };
  in(after.chain);
  for (Shot& shot : after.more) in(shot.chain);
  in(after.reelChain);
  in(after.sounds);
  return after;
}

Edit withFound(const Project& before, const std::vector<MissingFile>& missing, const std::string& path,
               const std::string& found) {
  const fs::path folder = fs::path(found).parent_path(), was = fs::path(path).parent_path();
  std::map<std::string, std::string> now;
  // Of numbered stills one is chosen, and all of them are meant.
  const auto beside = [&](const std::string& other) { return (folder / fs::path(other).filename()).string(); };
  now[path] = isStillsPattern(path) && isThere(beside(path)) ? beside(path) : found;
  for (const MissingFile& other : missing) {
    if (other.path == path) continue;
    const std::string asFarOff = (folder / fs::path(other.path).lexically_relative(was)).lexically_normal().string();
    for (const std::string& candidate : {asFarOff, beside(other.path)})
      if (isThere(candidate)) {
        now.emplace(other.path, candidate);
        break;
      }
  }
  Edit edit{"Find " + fs::path(path).filename().string(), before, {}};
  if (now.size() > 1) edit.name += " and " + std::to_string(now.size() - 1) + (now.size() == 2 ? " other" : " others");
  forEachPath(edit.after, [&](std::string& one, const Stage*) {
    if (const auto at = now.find(one); at != now.end()) one = at->second;
  });
  return edit;
}

}  // namespace molten

#include "core/project/each.h"

#include <algorithm>
#include <filesystem>
#include <map>

#include "core/files/read_file.h"
#include "core/media/stills_reader.h"

namespace molten {
namespace {

namespace fs = std::filesystem;

constexpr std::string_view placeOfName = "%s";
/// Endings of files that are taken for clips.
constexpr std::string_view endings[] = {".mp4", ".mov", ".mkv", ".webm", ".avi", ".mxf", ".ts", ".m4v", ".mpg"};

bool isClip(const fs::directory_entry& entry) {
  std::error_code none;
  if (entry.path().filename().string().starts_with('.')) return false;
  if (entry.is_directory(none)) return static_cast<bool>(listStills(entry.path().string()));
  std::string ending = entry.path().extension().string();
  for (char& c : ending) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return entry.is_regular_file(none) && std::count(std::begin(endings), std::end(endings), ending);
}

}  // namespace

Result<std::vector<EachClip>> eachClipOf(const std::string& folder, const std::string& output, const std::stop_token& stop) {
  const auto place = output.find(placeOfName);
  if (place == std::string::npos) return Error{"Each clip needs a name of its own: write %s where it goes, as in results/%s.mp4."};
  std::error_code failed;
  std::vector<EachClip> all;
  for (fs::directory_iterator at(folder, failed), end; !failed && at != end && !stop.stop_requested(); at.increment(failed))
    if (isClip(*at)) all.push_back({at->path().string(), {}});
  if (stop.stop_requested()) return cancelledError();
  if (failed) return Error{folder + " cannot be looked through: " + failed.message() + "."};
  if (all.empty()) return Error{"There is no clip in " + folder + "."};
  std::sort(all.begin(), all.end(), [](const EachClip& a, const EachClip& b) { return a.path < b.path; });
  std::map<std::string, std::string> taken;
  for (EachClip& clip : all) {
    const fs::path path = clip.path;
    clip.output = output.substr(0, place) + (fs::is_directory(path) ? path.filename() : path.stem()).string() + output.substr(place + placeOfName.size());
    if (const auto [at, isNew] = taken.try_emplace(clip.output, clip.path); !isNew)
      return Error{path.filename().string() + " and " + fs::path(at->second).filename().string() + " would both become " + clip.output + ". Rename one of them."};
    const auto identity = identityOf(clip.output);
    for (const EachClip& other : all)
      if (identity && identity == identityOf(other.path))
        return Error{clip.output + " would be written over a clip. Choose another folder or another name around %s."};
  }
  return all;
}

}  // namespace molten

#include "core/project/listing.h"

#include <algorithm>
#include <filesystem>

#include "core/files/read_file.h"
#include "core/files/safe_file.h"
#include "core/project/edl.h"
#include "core/project/files_read.h"
#include "core/project/frame_list.h"
#include "core/project/otio.h"

namespace molten {
namespace {

constexpr std::size_t mostListBytes = 256u << 20;

std::string endingOf(const std::string& path) {
  std::string ending = std::filesystem::path(path).extension().string();
  for (char& c : ending) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return ending;
}

}  // namespace

bool isListFile(const std::string& path) {
  const std::string ending = endingOf(path);
  return ending == ".otio" || ending == ".edl" || ending == ".csv";
}

std::string inShort(const std::vector<std::string>& lost) {
  constexpr std::size_t most = 3;
  std::string text;
  for (std::size_t i = 0; i < std::min(most, lost.size()); ++i) text += (i > 0 ? " " : "") + lost[i];
  if (lost.size() > most) text += " And " + std::to_string(lost.size() - most) + " more.";
  return text;
}

Result<Project> loadList(const std::string& path, Rational rate, std::vector<std::string>& lost) {
  const auto text = readWhole(path, mostListBytes);
  if (!text) return text.error();
  const std::string folder = std::filesystem::absolute(path).parent_path().string(), ending = endingOf(path);
  const auto list = ending == ".otio" ? parseOtio(*text, folder, lost) : ending == ".edl" ? parseEdl(*text, rate, folder, lost) : parseFrameList(*text, folder);
  if (!list) return Error{std::filesystem::path(path).filename().string() + " cannot be opened. " + list.error().message};
  return projectOf(*list);
}

Status saveList(const std::string& path, const Project& project, const Played& played,
                const std::vector<std::shared_ptr<const ChainReading>>& readings, std::vector<std::string>& lost) {
  if (FilesRead(project).holds(path))
    return Error{std::filesystem::path(path).filename().string() + " is part of what the project reads; choose another name."};
  const std::string ending = endingOf(path);
  std::string text;
  if (ending == ".csv") {
    text = frameListText(project, played, readings);
  } else {
    const CutList list = cutListOf(project, played, readings, std::filesystem::path(path).stem().string(), lost);
    text = ending == ".edl" ? edlText(list, lost) : otioText(list);
    if (ending == ".otio")
      for (const ListedClip& clip : list.clips)
        if (!clip.keys.empty()) lost.push_back(clip.name + " has no one speed: other programs read its mean, and its whole course stands in the list's metadata.");
  }
  auto file = SafeFile::of(path, text);
  if (!file) return file.error();
  std::vector<SafeFile> files;
  files.push_back(std::move(*file));
  return commitTogether(std::move(files));
}

}  // namespace molten

#include "core/engine/kept_result.h"

#include <algorithm>
#include <filesystem>

#include "core/engine/project_footage.h"
#include "core/files/digest.h"
#include "core/files/read_file.h"
#include "core/media/av_handles.h"
#include "core/media/stills_reader.h"
#include "core/project/files_behind.h"

namespace molten {
namespace {

namespace fs = std::filesystem;

constexpr std::string_view mark = ".kept-", ending = ".mkv";
constexpr std::size_t digits = 16;

bool isKeptOf(const fs::path& project, const std::string& name) {
  const std::string head = project.stem().string() + std::string(mark);
  return name.size() == head.size() + digits + ending.size() && name.starts_with(head) && name.ends_with(ending);
}

bool same(const Footage& kept, const Footage& made) {
  return kept.shape() == made.shape() && kept.clock().frameCount() == made.clock().frameCount() && kept.clock().rate() == made.clock().rate() &&
         !kept.clock().varying();
}

}  // namespace

std::string keptNameOf(const std::vector<std::string>& files) {
  const fs::path project = files.front(), folder = project.parent_path();
  Digest digest;
  for (const std::string& file : files) {
    digest.add(fs::path(file).lexically_relative(folder).string());
    // Of stills, their folder: it changes when one comes, goes, or is written under a temporary name first.
    const auto stamp = stampOf(isStillsPattern(file) ? fs::path(file).parent_path().string() : file);
    if (!stamp) continue;
    digest.add(stamp->bytes), digest.add(stamp->seconds), digest.add(stamp->nanoseconds);
  }
  return (folder / (project.stem().string() + std::string(mark) + digest.text() + std::string(ending))).string();
}

std::vector<std::string> keptFiles(const std::string& path) {
  std::error_code none;
  const fs::path project = fs::weakly_canonical(path, none);
  std::vector<std::string> all;
  for (const auto& entry : fs::directory_iterator(project.parent_path(), none))
    if (isKeptOf(project, entry.path().filename().string()) && entry.is_regular_file(none)) all.push_back(entry.path().string());
  std::sort(all.begin(), all.end());
  return all;
}

std::optional<std::string> currentKept(const std::string& project) {
  // Mostly there is none, and nothing has to be asked about what is behind it.
  const auto kept = keptFiles(project);
  if (kept.empty()) return std::nullopt;
  const auto files = filesBehind(project);
  if (!files) return std::nullopt;
  const std::string name = keptNameOf(*files);
  return std::count(kept.begin(), kept.end(), name) ? std::optional(name) : std::nullopt;
}

Status keepResult(const std::string& path, const KeepSettings& settings, const std::function<void(const RenderProgress&)>& progress,
                  std::stop_token stop) {
  const auto files = filesBehind(path);
  if (!files) return files.error();
  const auto made = makeSource(path, stop);
  if (!made) return made.error();
  const std::string name = keptNameOf(*files);
  const auto before = keptFiles(path);
  if (std::count(before.begin(), before.end(), name)) return {};
  RenderSettings render;
  render.footage = *made;
  render.project.source.path = path;
  render.project.output.path = name;
  render.project.output.codec = "ffv1";
  render.memoryBytes = settings.memoryBytes;
  render.threads = settings.threads;
  render.sound = SoundWish::None;
  if (auto rendered = molten::render(render, progress, stop); !rendered) return rendered.error();
  const auto kept = Footage::open(name, {}, {}, stop);
  std::error_code none;
  if (!kept || !same(**kept, **made)) {
    fs::remove(name, none);
    if (!kept) return kept.error();
    return Error{"The result of " + fileName(path) + " has a kind of picture that no lossless video file here holds as it is. Render it as stills, and use those."};
  }
  if (const auto now = filesBehind(path); !now || keptNameOf(*now) != name) {
    fs::remove(name, none);
    return Error{"Something that " + fileName(path) + " is made of has changed meanwhile. Keep it again."};
  }
  for (const std::string& old : before)
    if (old != name) fs::remove(old, none);
  return {};
}

Status clearKept(const std::string& project) {
  for (const std::string& file : keptFiles(project)) {
    std::error_code failed;
    if (!fs::remove(file, failed) && failed) return Error{fileName(file) + " cannot be removed: " + failed.message() + "."};
  }
  return {};
}

}  // namespace molten

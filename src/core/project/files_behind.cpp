#include "core/project/files_behind.h"

#include <algorithm>

#include "core/media/av_handles.h"
#include "core/picture/blank.h"
#include "core/project/missing_files.h"
#include "core/project/project_file.h"

namespace molten {
namespace {

namespace fs = std::filesystem;

/// Projects in projects, at most so deep.
constexpr std::size_t deepest = 16;

Status add(const std::string& path, std::vector<std::string>& all, std::vector<std::string>& inside) {
  std::error_code none;
  const std::string whole = fs::weakly_canonical(path, none).string();
  if (std::count(inside.begin(), inside.end(), whole))
    return Error{fileName(path) + " contains itself, by way of the projects that it reads. Choose another source in one of them."};
  if (inside.size() == deepest) return Error{fileName(path) + " lies too deep in other projects: there may be " + std::to_string(deepest) + "."};
  if (std::count(all.begin(), all.end(), whole)) return {};
  all.push_back(whole);
  auto project = loadProject(path);
  if (!project) return project.error();
  inside.push_back(whole);
  Status done;
  std::vector<std::string> named;
  forEachPath(*project, [&](const std::string& one, const Stage*) {
    if (!one.empty() && !namesBlank(one)) named.push_back(one);
  });
  for (const std::string& one : named) {
    if (namesProject(one)) {
      done = add(one, all, inside);
      if (!done) return done;
    } else if (!std::count(all.begin(), all.end(), one)) {
      all.push_back(one);
    }
  }
  inside.pop_back();
  return done;
}

}  // namespace

bool namesProject(const std::string& path) {
  return fs::path(path).extension() == ".molten";
}

Result<std::vector<std::string>> filesBehind(const std::string& project) {
  std::vector<std::string> all, inside;
  if (auto done = add(project, all, inside); !done) return done.error();
  return all;
}

void writePathsInFull(Project& project) {
  const auto inFull = [](std::string& path) {
    std::error_code none;
    if (path.empty() || namesBlank(path)) return;
    if (const fs::path whole = fs::absolute(path, none); !none) path = whole.lexically_normal().string();
  };
  forEachPath(project, [&](std::string& path, const Stage*) { inFull(path); });
  inFull(project.output.path);
}

fs::file_time_type lastWrittenOf(const std::vector<std::string>& files) {
  auto last = fs::file_time_type::min();
  for (const std::string& file : files) {
    std::error_code none;
    if (const auto written = fs::last_write_time(file, none); !none) last = std::max(last, written);
  }
  return last;
}

}  // namespace molten

#include "core/project/unnamed_paintings.h"

#include <algorithm>
#include <filesystem>
#include <set>

#include "core/files/read_file.h"
#include "core/project/json_text.h"
#include "core/project/paintings.h"

namespace molten {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t mostBytes = std::size_t(64) << 20;

/// `a.molten`, `a.molten-starter`, `a.molten.bak`, `a.molten~`: what programs call projects, starters and their backups.
bool mayBeProject(const std::string& name) {
  return name.find(".molten") != std::string::npos && !name.ends_with(".part");
}

void collectNames(const nlohmann::ordered_json& json, std::set<std::string>& named) {
  if (json.is_string()) {
    if (const auto digits = paintingDigits(json.get_ref<const std::string&>())) named.insert(*digits);
    return;
  }
  if (json.is_structured())
    for (const auto& part : json) collectNames(part, named);
}

}  // namespace

Result<std::vector<std::string>> unnamedPaintings(const std::string& folder, std::stop_token stop) {
  std::vector<std::string> paintings;
  std::vector<fs::path> projects;
  std::error_code error;
  fs::directory_iterator entry(folder, error);
  for (const fs::directory_iterator end; !error && entry != end; entry.increment(error)) {
    const std::string name = entry->path().filename().string();
    std::error_code none;
    if (!entry->is_regular_file(none)) continue;
    if (paintingDigits(name)) paintings.push_back(entry->path().string());
    if (mayBeProject(name)) projects.push_back(entry->path());
  }
  if (error) return Error{"The folder " + folder + " cannot be read: " + error.message() + "."};
  if (paintings.empty()) return paintings;
  std::set<std::string> named;
  for (const fs::path& project : projects) {
    if (stop.stop_requested()) return cancelledError();
    const auto text = readWhole(project.string(), mostBytes);
    const auto json = text ? parseJson(*text) : std::nullopt;
    if (!json)
      return Error{project.filename().string() + " cannot be read, and it may name paintings: nothing is offered while it lies there."};
    collectNames(*json, named);
  }
  std::erase_if(paintings, [&](const std::string& path) { return named.contains(*paintingDigits(path)); });
  std::sort(paintings.begin(), paintings.end());
  return paintings;
}

}  // namespace molten

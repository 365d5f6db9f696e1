#include "core/media/stills_reader.h"

#include <algorithm>
#include <cctype>
#include <filesystem>
#include <map>
#include <optional>
#include <string_view>

namespace molten {
namespace fs = std::filesystem;
namespace {

bool isPicture(const fs::path& path) {
  static constexpr std::string_view kinds[] = {".png", ".tif", ".tiff", ".jpg", ".jpeg", ".bmp",
                                               ".dpx", ".exr", ".webp", ".ppm", ".pgm",  ".tga"};
  std::string ending = path.extension().string();
  for (char& c : ending) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return std::find(std::begin(kinds), std::end(kinds), ending) != std::end(kinds);
}

/// The last run of digits in a name.
std::optional<std::int64_t> numberIn(const std::string& name) {
  const auto end = name.find_last_of("0123456789");
  if (end == std::string::npos) return std::nullopt;
  auto begin = end;
  while (begin > 0 && name[begin - 1] >= '0' && name[begin - 1] <= '9') --begin;
  if (end - begin > 15) return std::nullopt;
  return std::stoll(name.substr(begin, end - begin + 1));
}

Result<StillsList> filled(const std::map<std::int64_t, std::string>& numbered, const std::string& what) {
  if (numbered.empty()) return Error{"There are no numbered stills at " + what + "."};
  StillsList list;
  const std::int64_t span = numbered.rbegin()->first - numbered.begin()->first + 1;
  // A stray number far away is a mistake, not a gap to hold a picture through.
  if (span > 10'000'000 || span > 100 * static_cast<std::int64_t>(numbered.size()) + 1000)
    return Error{"The numbers of the stills at " + what + " lie too far apart to be one clip."};
  std::int64_t next = numbered.begin()->first;
  for (const auto& [number, path] : numbered) {
    for (; next < number; ++next, ++list.missing) list.paths.push_back(list.paths.back());
    list.paths.push_back(path);
    list.stamps.resize(list.paths.size(), list.stamps.empty() ? std::nullopt : list.stamps.back());
    list.stamps.back() = stampOf(path);
    ++next;
  }
  return list;
}

/// Where stills lie, and what their names are like.
struct StillsPlace {
  explicit StillsPlace(const std::string& where) {
    std::error_code error;
    folder = fs::is_directory(where, error);
    in = folder ? fs::path(where) : fs::path(where).parent_path();
    if (in.empty()) in = ".";
    const std::string name = fs::path(where).filename().string();
    const auto number = numberPlace(name);
    if (folder || !number) return;
    before = name.substr(0, number->begin);
    after = name.substr(number->end);
  }

  /// None if the name is not one of them.
  std::optional<std::int64_t> numberOf(const fs::path& path) const {
    if (folder) return isPicture(path) ? numberIn(path.stem().string()) : std::nullopt;
    const std::string name = path.filename().string();
    if (name.size() <= before.size() + after.size() || !name.starts_with(before) || !name.ends_with(after))
      return std::nullopt;
    const std::string digits = name.substr(before.size(), name.size() - before.size() - after.size());
    return digits.find_first_not_of("0123456789") == std::string::npos ? numberIn(digits) : std::nullopt;
  }

  fs::path in;
  bool folder = false;  ///< all of a folder
  std::string before, after;
};

}  // namespace

std::optional<NumberPlace> numberPlace(const std::string& path) {
  const auto slash = path.rfind('/');
  for (auto at = path.find('%', slash == std::string::npos ? 0 : slash); at != std::string::npos;
       at = path.find('%', at + 1)) {
    const auto end = path.find_first_not_of("0123456789", at + 1);
    if (end != std::string::npos && path[end] == 'd') return NumberPlace{at, end + 1, path.substr(at + 1, end - at - 1)};
  }
  return std::nullopt;
}

bool isAmongStills(const std::string& path, const std::string& where) {
  const StillsPlace place(where);
  std::error_code error;
  const fs::path folder = fs::path(path).parent_path();
  return fs::equivalent(folder.empty() ? "." : folder, place.in, error) && place.numberOf(path);
}

Result<StillsList> listStills(const std::string& where) {
  const StillsPlace place(where);
  std::error_code error;
  fs::directory_iterator files(place.in, error);
  if (error) return Error{"The folder " + place.in.string() + " cannot be read: " + error.message() + "."};
  std::map<std::int64_t, std::string> numbered;
  for (const auto& file : files) {
    if (!file.is_regular_file(error)) continue;
    const auto number = place.numberOf(file.path());
    if (number && !numbered.emplace(*number, file.path().string()).second)
      return Error{"Two stills in " + where + " carry the number " + std::to_string(*number) +
                   "; name one sequence, like name-%05d.png."};
  }
  return filled(numbered, where);
}

Result<Picture> StillsReader::read(std::int32_t n, const FrameSink& sink, std::stop_token stop) {
  if (stop.stop_requested()) return cancelledError();
  const auto& paths = stills_->paths;
  // A damaged still is replaced by the one before it, or else by the first good one after it.
  const auto count = static_cast<std::int32_t>(paths.size());
  for (std::int32_t step = 0; step < count; ++step) {
    const std::int32_t at = step <= n ? n - step : step;
    const std::string& path = paths[static_cast<std::size_t>(at)];
    if (step == 0 && stampOf(path) != stills_->stamps[static_cast<std::size_t>(n)])
      faults_->note(n, FrameFault::Changed);
    auto still = decodeFirstFrame(path, stop);
    if (!still && still.error().cancelled) return still.error();
    if (step == 0 && (!still || still->damaged))
      faults_->note(n, still ? FrameFault::Damaged : FrameFault::Missing);
    if (!still) continue;
    auto picture = importer_.import(*still->frame);
    if (picture && sink) sink(n, *picture);
    return picture;
  }
  return Error{fileName(paths[static_cast<std::size_t>(n)]) + " cannot be read any more."};
}

}  // namespace molten

#include "core/project/paintings.h"

#include <algorithm>
#include <filesystem>
#include <set>

#include "core/files/disk.h"
#include "core/files/read_file.h"
#include "core/media/av_handles.h"
#include "core/media/painting_file.h"

namespace molten {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t digits = 16;
constexpr std::size_t mostBytes = std::size_t(64) << 20;

template <class Visit>
void eachPainting(Chain& chain, Visit visit) {
  for (Stage& stage : chain) {
    for (ParameterValue& value : stage.values)
      if (auto* painting = std::get_if<Painting>(&value)) visit(*painting);
    eachPainting(stage.branch, visit);
  }
}

std::string prefixFor(const fs::path& project) {
  return project.stem().string() + "-painted-";
}

/// FNV-1a, 64 bits (Fowler, Noll and Vo), of the size and all samples.
std::string fingerprint(const PaintedPicture& picture) {
  std::uint64_t sum = 0xcbf29ce484222325;
  const auto take = [&](std::uint32_t value) {
    for (int byte = 0; byte < 4; ++byte) sum = (sum ^ (value >> (8 * byte) & 0xff)) * 0x100000001b3;
  };
  take(static_cast<std::uint32_t>(picture.size().width));
  take(static_cast<std::uint32_t>(picture.size().height));
  for (const std::uint16_t sample : picture.samples()) take(sample);
  char text[digits + 1];
  std::snprintf(text, sizeof text, "%016llx", static_cast<unsigned long long>(sum));
  return text;
}

bool isPaintingOf(const std::string& name, const std::string& prefix) {
  constexpr std::string_view ending = ".png";
  return name.size() == prefix.size() + digits + ending.size() && name.starts_with(prefix) && name.ends_with(ending) &&
         name.find_first_not_of("0123456789abcdef", prefix.size()) == prefix.size() + digits;
}

}  // namespace

Status readPaintings(Chain& chain) {
  Status done;
  eachPainting(chain, [&](Painting& painting) {
    if (painting.picture || painting.file.empty()) return;
    auto read = readPainting(painting.file);
    if (read)
      painting.picture = std::move(*read);
    else if (done)
      done = Error{"The painting " + fileName(painting.file) + " cannot be read: " + read.error().message};
  });
  return done;
}

Result<std::vector<SafeFile>> writePaintings(const std::vector<Chain*>& chains, const std::string& path) {
  const fs::path project(path);
  std::vector<SafeFile> files;
  std::optional<Error> failed;
  std::set<std::string> written;
  for (Chain* chain : chains)
    eachPainting(*chain, [&](Painting& painting) {
      // One that could not be read goes on being named as it was.
      if (!painting.picture || failed) return;
      painting.file =
          (project.parent_path() / (prefixFor(project) + fingerprint(*painting.picture) + ".png")).string();
      if (identityOf(painting.file) || !written.insert(painting.file).second) return;
      const auto bytes = paintingBytes(*painting.picture);
      auto file = bytes ? SafeFile::of(painting.file, *bytes) : Result<SafeFile>(bytes.error());
      if (file)
        files.push_back(std::move(*file));
      else
        failed = file.error();
    });
  if (failed) return *failed;
  return files;
}

void removeUnnamedPaintings(const std::string& path) {
  const fs::path project(path);
  const std::string prefix = prefixFor(project);
  std::vector<std::string> unnamed, tellers;
  std::error_code error;
  for (fs::directory_iterator entry(project.parent_path().empty() ? "." : project.parent_path(), error), end;
       !error && entry != end; entry.increment(error)) {
    const std::string name = entry->path().filename().string(), kind = entry->path().extension().string();
    if (isPaintingOf(name, prefix)) unnamed.push_back(entry->path().string());
    if (kind == ".molten" || kind == ".molten-starter") tellers.push_back(entry->path().string());
  }
  // This project first: mostly it names all that there is.
  std::partition(tellers.begin(), tellers.end(), [&](const std::string& one) { return fs::path(one) == project; });
  for (const std::string& teller : tellers) {
    if (unnamed.empty()) return;
    const auto text = readWhole(teller, mostBytes);
    if (!text) return;  // what it names is not known
    std::erase_if(unnamed, [&](const std::string& painting) {
      return text->find(fs::path(painting).filename().string()) != text->npos;
    });
  }
  for (const std::string& painting : unnamed) (void)disk::remove(painting);
}

}  // namespace molten

#include "core/project/paintings.h"

#include <algorithm>
#include <filesystem>
#include <set>

#include "core/files/path_text.h"
#include "core/files/read_file.h"
#include "core/media/av_handles.h"
#include "core/media/painting_file.h"
#include "core/number_text.h"

namespace molten {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t digits = 16;

template <class Visit>
void eachPainting(Chain& chain, Visit visit) {
  for (Stage& stage : chain) {
    for (ParameterValue& value : stage.values)
      if (auto* painting = std::get_if<Painting>(&value)) visit(*painting);
    eachPainting(stage.branch, visit);
  }
}

/// A name may be 255 bytes long, and letters are kept whole.
std::string prefixFor(const fs::path& project) {
  constexpr std::size_t most = 200;
  std::string stem = project.stem().string();
  const bool whole = isUtf8(stem);
  if (stem.size() > most) stem.resize(most);
  while (whole && !isUtf8(stem)) stem.pop_back();
  return stem + "-painted-";
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
  return hexText(sum);
}

}  // namespace

std::optional<std::string> paintingDigits(const std::string& path) {
  constexpr std::string_view before = "-painted-", ending = ".png";
  constexpr std::size_t length = before.size() + digits + ending.size();
  if (path.size() < length || !path.ends_with(ending)) return std::nullopt;
  const std::string_view last = std::string_view(path).substr(path.size() - length);
  const std::string_view found = last.substr(before.size(), digits);
  if (!last.starts_with(before) || found.find_first_not_of("0123456789abcdef") != found.npos) return std::nullopt;
  return std::string(found);
}

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

}  // namespace molten

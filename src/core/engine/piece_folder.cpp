#include "core/engine/piece_folder.h"

#include <algorithm>
#include <filesystem>
#include <fstream>

#include "core/engine/project_footage.h"
#include "core/engine/sound_job.h"
#include "core/files/digest.h"
#include "core/files/path_text.h"
#include "core/files/read_file.h"
#include "core/files/safe_file.h"
#include "core/media/av_handles.h"
#include "core/media/piece_file.h"
#include "core/media/stills_reader.h"
#include "core/number_text.h"
#include "core/project/files_behind.h"
#include "core/project/json_text.h"
#include "core/project/project_file.h"

extern "C" {
#include <libavutil/avutil.h>
}

namespace molten {
namespace {

using Json = nlohmann::ordered_json;
namespace fs = std::filesystem;

constexpr int manifestFormat = 1;
constexpr std::string_view pieceHead = "piece-", pieceEnd = ".molten-piece", painted = "project-painted-";
constexpr std::size_t mostBytes = std::size_t(64) << 20;
constexpr std::int64_t mostPictures = std::int64_t(1) << 40, longestGroup = 10'000;

std::string manifestPath(const std::string& folder) {
  return (fs::path(folder) / "pieces.json").string();
}
std::string projectPath(const std::string& folder) {
  return (fs::path(folder) / "project.molten").string();
}

/// Other encoders may make other bytes of the same pictures.
std::string madeWith() {
  return std::string(MOLTEN_VERSION) + " with libav " + av_version_info();
}

const char* soundWord(SoundWish wish) {
  return wish == SoundWish::Mix ? "mix" : wish == SoundWish::Copy ? "copy" : "none";
}

/// What a file is like, without reading all of it: its size and both its ends; of stills, which there are.
std::string checkOf(const std::string& path) {
  Digest digest;
  std::error_code none;
  if (const auto place = numberPlace(path)) {
    const std::string before = path.substr(0, place->begin);
    std::vector<std::string> stills;
    for (const auto& entry : fs::directory_iterator(fs::path(path).parent_path(), none))
      if (entry.path().string().starts_with(before) && entry.path().extension() == fs::path(path).extension())
        stills.push_back(entry.path().filename().string() + " " + std::to_string(entry.file_size(none)));
    std::sort(stills.begin(), stills.end());
    for (const std::string& one : stills) digest.add(one);
    return digest.text();
  }
  if (fs::is_directory(path, none)) return digest.text();
  const auto bytes = fs::file_size(path, none);
  if (none) return "missing";
  digest.add(static_cast<std::int64_t>(bytes));
  constexpr std::streamoff end = 1 << 16;
  std::ifstream in(path, std::ios::binary);
  std::string read(static_cast<std::size_t>(end), '\0');
  for (const std::streamoff from : {std::streamoff(0), std::max(std::streamoff(0), static_cast<std::streamoff>(bytes) - end)}) {
    in.clear();
    in.seekg(from);
    in.read(read.data(), end);
    digest.add({read.data(), static_cast<std::size_t>(in.gcount())});
  }
  return digest.text();
}

/// All that a project's pictures are made of, but its own file.
Result<Json> filesOf(const std::string& project) {
  const auto behind = filesBehind(project);
  if (!behind) return behind.error();
  Json files = Json::array();
  for (std::size_t i = 1; i < behind->size(); ++i) files.push_back({{"path", pathText((*behind)[i])}, {"check", checkOf((*behind)[i])}});
  return files;
}

std::string keyOf(const Json& manifest, const std::string& project) {
  Json told = manifest;
  told.erase("key");
  Digest digest;
  digest.add(told.dump());
  digest.add(project);
  return digest.text();
}

std::optional<Span> spanIn(const Json& json) {
  if (!json.is_array() || json.size() != 2) return std::nullopt;
  const auto first = wholeNumber(json[0], 0, mostPictures), last = wholeNumber(json[1], 0, mostPictures);
  return first && last && *first <= *last ? std::optional(Span{*first, *last}) : std::nullopt;
}

std::vector<PieceSpan> dividedInto(std::int64_t pictures, std::int64_t group) {
  std::vector<PieceSpan> pieces;
  for (std::int64_t first = 0; first < pictures; first += group) pieces.push_back({first, std::min(first + group, pictures) - 1});
  return pieces;
}

bool isPieceName(const std::string& name) {
  return name.starts_with(pieceHead) && name.ends_with(pieceEnd);
}

std::vector<fs::path> filesNamed(const std::string& folder, const std::function<bool(const std::string&)>& wanted) {
  std::error_code none;
  std::vector<fs::path> found;
  for (const auto& entry : fs::directory_iterator(folder, none))
    if (wanted(entry.path().filename().string())) found.push_back(entry.path());
  return found;
}

/// Removes from a folder without a list all pieces but those of the render with this key: other pieces cannot be used.
void removeOtherPieces(const std::string& folder, const std::string& key) {
  std::error_code none;
  for (const fs::path& one : filesNamed(folder, isPieceName))
    if (!PieceFile::open(one.string(), key)) fs::remove(one, none);
}

Json spanJson(const Span& span) {
  return Json::array({span.first, span.last});
}

/// What the list says of a render itself, without the files that it is made of and what it is made with.
Json renderJson(const RenderOutline& outline, SoundWish sound) {
  return {{"codec", outline.plan.codec->id},
          {"pictures", spanJson(outline.pictures)},
          {"sound", soundWord(sound)},
          {"closed-group", outline.plan.closedGroup}};
}

std::string textOf(const Json& json) {
  return json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

}  // namespace

std::string piecesBeside(const std::string& output) {
  const fs::path path(output);
  return (path.parent_path() / ("." + path.filename().string() + ".pieces")).string();
}

Result<PieceFolder> PieceFolder::make(const std::string& folder, const RenderSettings& asked) {
  RenderSettings settings = asked;
  writePathsInFull(settings.project);
  if (settings.timeMap) return Error{"A time map is not made in pieces: its scale is that of the whole. Render it in one."};
  if (holdsSoundAlone(settings.project.output.path)) return Error{"Sound alone is not made in pieces; write it in one."};
  const auto outline = outlineRender(settings);
  if (!outline) return outline.error();
  std::error_code failed;
  fs::create_directories(folder, failed);
  if (failed) return Error{"The folder " + folder + " cannot be made: " + failed.message() + ". Choose another place for the pieces."};
  const std::string path = projectPath(folder);
  const bool there = isThere(folder);
  // Several may write this at a time: they write the very same.
  if (!there)
    if (auto saved = saveProject(settings.project, path); !saved) return saved.error();
  const auto project = readWhole(path, mostBytes);
  if (!project) return project.error();
  const auto files = filesOf(path);
  if (!files) return files.error();
  Json manifest{{"format", manifestFormat}, {"made-with", madeWith()}};
  manifest.update(renderJson(*outline, settings.sound));
  manifest["pieces"] = Json::array();
  manifest["files"] = *files;
  for (const PieceSpan& piece : dividedInto(outline->pictures.count(), outline->plan.closedGroup)) manifest["pieces"].push_back(spanJson(piece));
  if (there) {
    const auto text = readWhole(manifestPath(folder), mostBytes);
    if (!text) return text.error();
    manifest["key"] = keyOf(manifest, *project);
    const auto loaded = loadProject(path);
    const bool same = loaded && *loaded == settings.project && *text == textOf(manifest);
    auto opened = open(folder);
    if (!same && opened) return Error{folder + " holds the pieces of another render, or of this one before something in it was changed. Remove them, or choose another folder."};
    return opened;
  }
  manifest["key"] = keyOf(manifest, *project);
  removeOtherPieces(folder, manifest["key"]);
  auto file = SafeFile::of(manifestPath(folder), textOf(manifest));
  if (!file) return file.error();
  std::vector<SafeFile> all;
  all.push_back(std::move(*file));
  if (auto done = commitTogether(std::move(all)); !done) return done.error();
  return open(folder);
}

Result<PieceFolder> PieceFolder::open(const std::string& folder) {
  const auto text = readWhole(manifestPath(folder), mostBytes);
  if (!text) return Error{folder + " holds no pieces of a render: " + text.error().message};
  const Error none{"pieces.json in " + folder + " is no list of pieces. Remove the folder, and begin the render again."};
  const auto manifest = parseJson(*text);
  if (!manifest || !manifest->is_object() || !manifest->contains("key")) return none;
  const auto word = [&](const char* name) {
    return manifest->contains(name) && (*manifest)[name].is_string() ? (*manifest)[name].get<std::string>() : std::string();
  };
  if (!wholeNumber((*manifest)["format"], 1, manifestFormat))
    return Error{"The pieces in " + folder + " are of a later version of Molten Clock. Open them with that one."};
  if (word("made-with") != madeWith())
    return Error{"The pieces in " + folder + " were begun by Molten Clock " + word("made-with") + "; this is " + madeWith() +
                 ". Use the same on all machines, or begin the render again."};
  PieceFolder opened;
  opened.folder_ = folder;
  opened.key_ = word("key");
  const auto wished = spanIn((*manifest)["pictures"]);
  const auto group = wholeNumber((*manifest)["closed-group"], 1, longestGroup);
  if (!wished || !group || wished->count() / *group > 10'000'000) return none;
  opened.wished_ = *wished;
  opened.pieces_ = dividedInto(wished->count(), *group);
  opened.sound_ = word("sound") == "none" ? SoundWish::None : word("sound") == "copy" ? SoundWish::Copy : SoundWish::Mix;
  const auto project = readWhole(projectPath(folder), mostBytes);
  if (!project) return project.error();
  if (keyOf(*manifest, *project) != opened.key_)
    return Error{"The project in " + folder + ", or its list of pieces, has been changed since the render was begun. Remove the folder, and begin the render again."};
  auto loaded = loadProject(projectPath(folder));
  if (!loaded) return loaded.error();
  opened.project_ = std::move(*loaded);
  const auto files = filesOf(projectPath(folder));
  if (!files) return files.error();
  const Json& before = (*manifest)["files"];
  for (std::size_t i = 0; i < files->size(); ++i) {
    const Json& now = (*files)[i];
    if (i < before.size() && before[i] == now) continue;
    const std::string path = pathOfText(now["path"]);
    if (now["check"] == "missing") return Error{fileName(path) + " is not there any more, and the pieces in " + folder + " are made of it. Put it back at " + path + "."};
    return Error{fileName(path) + " has been changed since the render in " + folder + " was begun. Put the file back as it was, or remove the folder and begin again."};
  }
  return opened;
}

bool PieceFolder::isOfAnother(const std::string& folder, const RenderSettings& asked) {
  RenderSettings settings = asked;
  writePathsInFull(settings.project);
  const auto outline = outlineRender(settings);
  const auto text = readWhole(manifestPath(folder), mostBytes);
  const auto manifest = text ? parseJson(*text) : std::nullopt;
  const auto project = loadProject(projectPath(folder));
  if (!outline || !manifest || !manifest->is_object() || !project) return false;
  if (!(*project == settings.project)) return true;
  Json wished = renderJson(*outline, settings.sound);
  // How many pictures there are goes by the files.
  const auto files = filesOf(projectPath(folder));
  if (!files || manifest->value("files", Json()) != *files) wished.erase("pictures");
  const auto items = wished.items();
  return std::any_of(items.begin(), items.end(), [&](const auto& one) { return manifest->value(one.key(), Json()) != one.value(); });
}

bool PieceFolder::holdsPieces(const std::string& folder) {
  return !filesNamed(folder, isPieceName).empty();
}

bool PieceFolder::isThere(const std::string& folder) {
  return identityOf(manifestPath(folder)).has_value();
}

std::string PieceFolder::pathOf(const PieceSpan& piece) const {
  constexpr int digits = 7;
  return (fs::path(folder_) / (std::string(pieceHead) + paddedText(piece.first, digits) + std::string(pieceEnd))).string();
}

std::vector<PieceSpan> PieceFolder::missing(Share share) const {
  const auto all = static_cast<std::int64_t>(pieces_.size());
  const auto border = [&](std::int64_t k) { return static_cast<std::size_t>(all * k / share.of); };
  std::vector<PieceSpan> missing;
  for (std::size_t i = border(share.number - 1); i < border(share.number); ++i)
    if (!identityOf(pathOf(pieces_[i]))) missing.push_back(pieces_[i]);
  return missing;
}

PieceRun PieceFolder::run(std::vector<PieceSpan> spans) const {
  return {std::move(spans), [this](const PieceSpan& piece) { return pathOf(piece); }, key_};
}

Result<RenderSettings> PieceFolder::settings(const RenderSettings& machine, std::stop_token stop) const {
  RenderSettings settings = machine;
  settings.project = project_;
  settings.pictures = wished_;
  settings.sound = sound_;
  if (settings.footage) return settings;
  auto footage = openSource(project_.source.path, {project_.source.rate}, {}, std::move(stop));
  if (!footage) return footage.error();
  settings.footage = std::move(*footage);
  return settings;
}

Result<std::vector<std::string>> PieceFolder::work(Share share, const RenderSettings& machine,
                                                   const std::function<void(const RenderProgress&)>& progress, std::stop_token stop) const {
  clearLeftovers(folder_);
  const std::vector<PieceSpan> all = missing(share);
  std::vector<std::string> findings;
  if (all.empty()) return findings;
  auto ready = settings(machine, stop);
  if (!ready) return ready.error();
  std::int64_t total = 0, done = 0;
  for (const PieceSpan& piece : all) total += piece.count();
  for (auto begin = all.begin(); begin != all.end();) {
    auto end = begin + 1;
    while (end != all.end() && end->first == (end - 1)->last + 1) ++end;
    const auto told = [&](const RenderProgress& p) {
      const auto left = static_cast<double>(p.total - p.done), ofAll = static_cast<double>(total - done - p.done);
      std::optional<double> seconds = p.secondsLeft;
      if (seconds) *seconds = left > 0 ? *seconds / left * ofAll : 0;
      if (progress) progress({done + p.done, total, seconds});
    };
    auto made = renderPieces(*ready, run({begin, end}), told, stop);
    if (!made) return made;
    for (std::string& one : *made)
      if (!std::count(findings.begin(), findings.end(), one)) findings.push_back(std::move(one));
    done += (end - 1)->last + 1 - begin->first;
    begin = end;
  }
  return findings;
}

Result<RenderOutline> PieceFolder::join(const std::string& output, const RenderSettings& machine,
                                        const std::function<void(const RenderProgress&)>& progress, std::stop_token stop) const {
  if (const auto left = missing(); !left.empty()) {
    std::string names;
    constexpr std::size_t named = 3;
    for (std::size_t i = 0; i < std::min(named, left.size()); ++i) names += (i > 0 ? ", " : "") + fileName(pathOf(left[i]));
    if (left.size() > named) names += " and others";
    return Error{std::to_string(left.size()) + " of " + std::to_string(pieces_.size()) + " pieces are missing in " + folder_ + ": " + names +
                 ". Make them with --piece; what is there stays."};
  }
  auto ready = settings(machine, stop);
  if (!ready) return ready.error();
  if (!output.empty()) ready->project.output.path = output;
  return joinPieces(*ready, run(pieces_), progress, std::move(stop));
}

void PieceFolder::discard(const std::string& folder) {
  std::error_code none;
  // The list last: what is left behind on the way is found to be missing.
  for (const fs::path& one : filesNamed(folder, [](const std::string& name) { return isPieceName(name) || name.starts_with(painted); }))
    fs::remove(one, none);
  fs::remove(projectPath(folder), none);
  fs::remove(manifestPath(folder), none);
  if (fs::exists(folder, none)) clearLeftovers(folder);
  fs::remove(folder, none);
}

}  // namespace molten

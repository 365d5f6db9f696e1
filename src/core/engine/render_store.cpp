#include "core/engine/render_store.h"

#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <chrono>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <thread>
#include <utility>

#include "core/engine/piece_folder.h"
#include "core/files/path_text.h"
#include "core/files/read_file.h"
#include "core/files/safe_file.h"
#include "core/project/files_behind.h"
#include "core/project/json_text.h"
#include "core/project/project_file.h"

namespace molten {
namespace {

using Json = nlohmann::ordered_json;
namespace fs = std::filesystem;
using State = StoredRender::State;

constexpr std::size_t mostBytes = std::size_t(1) << 20;
constexpr std::int64_t large = std::int64_t(1) << 40;
constexpr std::array stateWords{"waiting", "running", "paused", "written", "cancelled", "failed"};
constexpr std::array soundWords{"mix", "copy", "none"};
constexpr std::array mapWords{"seconds", "frames"};
constexpr const char *description = "render.json", *project = "project.molten", *progressFile = "progress";

template <class Words>
std::optional<std::size_t> wordIn(const Json& json, const char* name, const Words& words) {
  const auto at = json.find(name);
  if (at == json.end() || !at->is_string()) return std::nullopt;
  const auto found = std::find(words.begin(), words.end(), at->template get<std::string>());
  return found == words.end() ? std::nullopt : std::optional(static_cast<std::size_t>(found - words.begin()));
}

std::string textIn(const Json& json, const char* name) {
  const auto at = json.find(name);
  return at != json.end() && at->is_string() ? at->get<std::string>() : std::string();
}

std::optional<std::int64_t> numberIn(const Json& json, const char* name, std::int64_t least) {
  const auto at = json.find(name);
  return at == json.end() ? std::nullopt : wholeNumber(*at, least, large);
}

Json jsonOf(const StoredRender& render) {
  Json json{{"format", 1},
            {"order", render.order},
            {"state", stateWords[static_cast<std::size_t>(render.state)]},
            {"output", pathText(render.job.project.output.path)},
            {"summary", render.summary},
            {"sound", soundWords[static_cast<std::size_t>(render.job.sound)]}};
  if (!render.keeps.empty()) json["keeps"] = pathText(render.keeps);
  if (!render.sentence.empty()) json["sentence"] = render.sentence;
  if (render.joining) json["joining"] = true;
  if (render.job.pictures) json["first"] = render.job.pictures->first, json["last"] = render.job.pictures->last;
  if (render.job.timeMap) json["time-map"] = mapWords[static_cast<std::size_t>(*render.job.timeMap)];
  if (render.job.mayReplace) json["may-replace"] = *render.job.mayReplace;
  return json;
}

std::optional<StoredRender> renderIn(const Json& json) {
  const auto state = wordIn(json, "state", stateWords);
  if (!json.is_object() || !state || numberIn(json, "format", 1) != 1) return std::nullopt;
  StoredRender render;
  render.state = static_cast<State>(*state);
  render.order = numberIn(json, "order", -large).value_or(0);
  render.job.project.output.path = pathOfText(textIn(json, "output"));
  render.summary = textIn(json, "summary");
  render.keeps = pathOfText(textIn(json, "keeps"));
  render.sentence = textIn(json, "sentence");
  render.joining = json.contains("joining");
  if (const auto sound = wordIn(json, "sound", soundWords)) render.job.sound = static_cast<SoundWish>(*sound);
  if (const auto map = wordIn(json, "time-map", mapWords)) render.job.timeMap = static_cast<TimeMapUnit>(*map);
  const auto first = numberIn(json, "first", 0), last = numberIn(json, "last", 0);
  if (first && last && *first <= *last) render.job.pictures = Span{*first, *last};
  render.job.mayReplace = numberIn(json, "may-replace", 0);
  return render;
}

}  // namespace

std::string RenderStore::usualFolder() {
  for (const auto& [name, below] : {std::pair{"MOLTEN_QUEUE", ""}, std::pair{"XDG_STATE_HOME", "molten-clock/renders"}, std::pair{"HOME", ".local/state/molten-clock/renders"}})
    if (const char* const place = std::getenv(name); place && *place) return (fs::path(place) / below).lexically_normal().string();
  return (fs::temp_directory_path() / "molten-clock-renders").string();
}

std::string RenderStore::pathOf(const std::string& id, const char* file) const {
  return (fs::path(folder_) / id / file).string();
}

std::optional<RenderStore::Turn> RenderStore::lock(const char* name, bool wait) const {
  const int file = ::open((fs::path(folder_) / name).c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0600);
  if (file < 0) return std::nullopt;
  if (::flock(file, LOCK_EX | (wait ? 0 : LOCK_NB)) == 0) return Turn(file);
  ::close(file);
  return std::nullopt;
}

RenderStore::Turn::Turn(Turn&& other) noexcept : file_(std::exchange(other.file_, -1)) {}

RenderStore::Turn::~Turn() {
  if (file_ >= 0) ::close(file_);
}

std::optional<RenderStore::Turn> RenderStore::takeTurn() const {
  std::error_code none;
  fs::create_directories(folder_, none);
  // Whoever only asks whether it is taken holds it for a moment.
  for (int tries = 0; tries < 20; ++tries) {
    if (auto turn = lock("turn", false)) return turn;
    std::this_thread::sleep_for(std::chrono::milliseconds(5));
  }
  return std::nullopt;
}

bool RenderStore::isWorkedOn() const {
  std::error_code none;
  return fs::exists(folder_, none) && !lock("turn", false);
}

Result<std::string> RenderStore::add(const StoredRender& asked) {
  std::error_code failed;
  fs::create_directories(folder_, failed);
  const auto held = lock("changes", true);
  if (failed || !held) return Error{"The list of renders cannot be kept in " + folder_ + ". Make room, or see to the rights of that folder."};
  StoredRender render = asked;
  writePathsInFull(render.job.project);
  std::int64_t number = 0;
  for (const StoredRender& one : all()) {
    render.order = std::max(render.order, one.order + 1);
    number = std::max(number, static_cast<std::int64_t>(std::strtoll(one.id.c_str(), nullptr, 10)));
  }
  // A number that once was somebody else's is not given again while its folder is there.
  do render.id = std::to_string(++number);
  while (!fs::create_directory(fs::path(folder_) / render.id, failed) && !failed);
  if (failed) return Error{"The list of renders cannot be kept in " + folder_ + ": " + failed.message() + "."};
  // A render of a project that is kept has none of its own.
  auto done = render.keeps.empty() ? saveProject(render.job.project, pathOf(render.id, project), Paths::Absolute) : Status();
  if (done) done = write(render);
  if (done) return render.id;
  fs::remove_all(fs::path(folder_) / render.id, failed);
  return done.error();
}

Status RenderStore::write(const StoredRender& render) const {
  auto file = SafeFile::of(pathOf(render.id, description), jsonOf(render).dump(2, ' ', false, Json::error_handler_t::replace) + "\n");
  if (!file) return file.error();
  std::vector<SafeFile> files;
  files.push_back(std::move(*file));
  return commitTogether(std::move(files));
}

std::optional<StoredRender> RenderStore::readAlone(const std::string& id) const {
  const auto text = readWhole(pathOf(id, description), mostBytes);
  if (!text) return std::nullopt;
  const auto json = parseJson(*text);
  auto render = json ? renderIn(*json) : std::nullopt;
  if (!render) return std::nullopt;
  render->id = id;
  std::ifstream told(pathOf(id, progressFile));
  RenderProgress progress;
  if (told >> progress.done >> progress.total) {
    double left = 0, part = 0;
    if (told >> left) progress.secondsLeft = left;
    if (told >> part) progress.finishing = part;
    render->progress = progress;
  }
  return render;
}

std::vector<StoredRender> RenderStore::all() const {
  std::vector<StoredRender> found;
  std::error_code none;
  for (const auto& entry : fs::directory_iterator(folder_, none))
    if (entry.is_directory(none))
      if (auto render = readAlone(entry.path().filename().string())) found.push_back(std::move(*render));
  std::sort(found.begin(), found.end(), [](auto& a, auto& b) { return std::tie(a.order, a.id) < std::tie(b.order, b.id); });
  const bool runs = std::any_of(found.begin(), found.end(), [](auto& one) { return one.state == State::Running; });
  if (runs && !isWorkedOn())
    for (StoredRender& one : found)
      if (one.state == State::Running) one.state = State::Waiting;
  return found;
}

Result<StoredRender> RenderStore::read(const std::string& id) const {
  auto render = readAlone(id);
  if (!render) return Error{"The render is not in the list any more."};
  if (!render->keeps.empty()) return *render;
  auto loaded = loadProject(pathOf(id, project));
  if (!loaded) return loaded.error();
  render->job.project = std::move(*loaded);
  return *render;
}

Status RenderStore::change(const std::string& id, const std::function<void(StoredRender&)>& act) {
  const auto held = lock("changes", true);
  auto render = readAlone(id);
  if (!render) return Error{"The render is not in the list any more."};
  act(*render);
  return write(*render);
}

void RenderStore::tellProgress(const std::string& id, const RenderProgress& progress) {
  const std::string path = pathOf(id, progressFile), temporary = path + ".new";
  {
    std::ofstream out(temporary);
    out << progress.done << ' ' << progress.total;
    if (progress.secondsLeft) out << ' ' << *progress.secondsLeft;
    if (progress.finishing) out << ' ' << *progress.finishing;
    out << '\n';
  }
  std::error_code none;
  fs::rename(temporary, path, none);
}

Status RenderStore::move(const std::string& id, int by) {
  const auto held = lock("changes", true);
  auto list = all();
  std::erase_if(list, [](const StoredRender& one) { return one.over(); });
  const auto at = std::find_if(list.begin(), list.end(), [&](auto& one) { return one.id == id; });
  if (at == list.end()) return Error{"The render is not in the list any more."};
  const auto place = at - list.begin(), to = place + by;
  if (to < 0 || to >= std::ssize(list)) return {};
  StoredRender &a = *at, &b = list[static_cast<std::size_t>(to)];
  std::swap(a.order, b.order);
  // What runs was read as it is in truth, and is written as it was said to be.
  if (auto done = write(a); !done) return done;
  return write(b);
}

void RenderStore::discardPieces(const StoredRender& render) const {
  if (render.path().empty() || !render.keeps.empty()) return;
  for (const StoredRender& one : all())
    if (one.id != render.id && one.path() == render.path() && one.state != State::Written) return;
  PieceFolder::discard(piecesBeside(render.path()));
}

void RenderStore::discardJoined(const StoredRender& render) {
  discardPieces(render);
  if (render.joining) (void)change(render.id, [](StoredRender& stored) { stored.joining = false; });
}

Status RenderStore::remove(const std::string& id) {
  const auto held = lock("changes", true);
  const auto list = all();
  const auto at = std::find_if(list.begin(), list.end(), [&](auto& one) { return one.id == id; });
  if (at == list.end()) return {};
  if (at->state == State::Running) return Error{"The render is under way: cancel it first."};
  // What stands there after a result is written is not this render's.
  if (at->state != State::Written || at->joining) discardPieces(*at);
  std::error_code failed;
  fs::remove_all(fs::path(folder_) / id, failed);
  return failed ? Status(Error{"The list of renders cannot be changed: " + failed.message() + "."}) : Status();
}

}  // namespace molten

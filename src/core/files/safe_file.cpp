#include "core/files/safe_file.h"

#include <signal.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <set>
#include <sstream>

#include "core/files/disk.h"
#include "core/number_text.h"

namespace molten {
namespace {

namespace fs = std::filesystem;

fs::path folderOf(const fs::path& path) {
  return path.has_parent_path() ? path.parent_path() : fs::path(".");
}

/// When a process began, in ticks since the machine did; empty if there is none. With its number this is its own for
/// as long as the machine runs.
std::string beginOf(const std::string& process) {
  std::ifstream in("/proc/" + process + "/stat");
  std::string all((std::istreambuf_iterator<char>(in)), {});
  // The name, in brackets, may hold anything.
  const auto after = all.rfind(')');
  if (after == std::string::npos) return {};
  std::istringstream words(all.substr(after + 1));
  std::string word;
  constexpr int field = 20;  // the 22nd of all
  for (int i = 0; i < field; ++i)
    if (!(words >> word)) return {};
  return word;
}

std::string machine() {
  char name[256] = "";
  gethostname(name, sizeof name - 1);
  return hexText(std::hash<std::string>{}(name)).substr(8);
}

/// `machine-process-begin`: who writes a temporary file.
std::string thisProcess() {
  std::string id = machine();
  return id.append("-").append(std::to_string(getpid())).append("-").append(beginOf("self"));
}

constexpr std::string_view ending = ".part";

/// A name beside the file's own that no other process and no other file has.
std::string temporaryName(const fs::path& target) {
  static std::atomic<unsigned> counter{0};
  // A name may be 255 bytes long.
  std::string name = ".";
  name.append(target.filename().string(), 0, 180).append(".").append(thisProcess()).append("-");
  name.append(std::to_string(counter++)).append(ending);
  return (folderOf(target) / name).string();
}

/// True if a name is that of a temporary file whose writer, on this machine, is no more.
bool isLeftover(const std::string& name) {
  if (!name.starts_with('.') || !name.ends_with(ending)) return false;
  const std::string rest = name.substr(0, name.size() - ending.size());
  const std::string id = rest.substr(rest.rfind('.') + 1);
  std::vector<std::string> parts;
  std::istringstream words(id);
  for (std::string part; std::getline(words, part, '-');) parts.push_back(part);
  const auto isNumber = [](const std::string& s) {
    return !s.empty() && s.find_first_not_of("0123456789") == std::string::npos;
  };
  if (parts.size() != 4 || parts[0] != machine() || !isNumber(parts[1]) || !isNumber(parts[2]) || !isNumber(parts[3]))
    return false;
  return beginOf(parts[1]) != parts[2];
}

bool isFull(int error) {
  return error == ENOSPC || error == EDQUOT || error == EFBIG;
}

Error noRoom(const std::string& name) {
  return {"There is no room left for " + name + "; nothing was written. Free some space or choose another disk."};
}

/// Where a path leads to, if a file can have that name.
Result<fs::path> targetOf(const std::string& path) {
  if (path.find('\0') != std::string::npos) return Error{"A file's name cannot hold a zero byte; choose another one."};
  std::error_code error;
  fs::path target(path);
  if (target.filename().empty()) return Error{"The output has no file name: " + path + "."};
  // A link goes on being one: what it leads to is written.
  if (fs::is_symlink(fs::symlink_status(target, error)))
    if (const fs::path end = fs::weakly_canonical(target, error); !error) target = end;
  const fs::file_status there = fs::status(target, error);
  if (fs::is_directory(there)) return Error{path + " is a folder; name a file in it."};
  if (fs::exists(there) && !fs::is_regular_file(there))
    return Error{path + " is no file but a device or a pipe; choose another name."};
  return target;
}

/// Why no file can be made in its folder, by errno.
Error cannotCreate(const fs::path& target, int failed) {
  const std::string folder = folderOf(target).string(), name = target.filename().string();
  std::error_code none;
  if ((failed == ENOENT || failed == ENOTDIR) && fs::is_directory(folder, none))
    return Error{name + " cannot be written: " + folder + " takes no new files. Choose another folder."};
  if (failed == ENOENT || failed == ENOTDIR)
    return Error{"The folder " + folder + " does not exist; make it, or choose another place for " + name + "."};
  if (isFull(failed)) return noRoom(name);
  return Error{name + " cannot be written to " + folder + ": " + std::strerror(failed) + ". Choose another place."};
}

}  // namespace

Status SafeFile::mayCreate(const std::string& path) {
  const auto target = targetOf(path);
  if (!target) return target.error();
  const fs::path folder = folderOf(*target);
  std::error_code none;
  if (fs::exists(folder, none) && !fs::is_directory(folder, none)) return cannotCreate(*target, ENOTDIR);
  if (::access(folder.c_str(), W_OK | X_OK) != 0) return cannotCreate(*target, errno);
  return {};
}

Result<SafeFile> SafeFile::create(const std::string& path) {
  const auto target = targetOf(path);
  if (!target) return target.error();
  for (int tries = 0; tries < 100; ++tries) {
    const std::string temporary = temporaryName(*target);
    int file = -1;
    const int failed = disk::create(temporary, file);
    if (!failed) return SafeFile(target->string(), temporary, file);
    if (failed != EEXIST) return cannotCreate(*target, failed);
  }
  return cannotCreate(*target, EEXIST);
}

Result<SafeFile> SafeFile::growing(const std::string& path) {
  const auto target = targetOf(path);
  if (!target) return target.error();
  int file = -1;
  const int failed = disk::create(target->string(), file);
  if (failed == EEXIST) return Error{path + " is there already; choose another name."};
  if (failed) return cannotCreate(*target, failed);
  return SafeFile(target->string(), {}, file);
}

Result<SafeFile> SafeFile::of(const std::string& path, std::span<const std::uint8_t> bytes) {
  auto file = create(path);
  if (!file) return file;
  if (auto put = file->write(bytes); !put) return put.error();
  if (auto closed = file->close(); !closed) return closed.error();
  return file;
}

Result<SafeFile> SafeFile::of(const std::string& path, const std::string& text) {
  return of(path, {reinterpret_cast<const std::uint8_t*>(text.data()), text.size()});
}

SafeFile::SafeFile(SafeFile&& other) noexcept
    : path_(std::move(other.path_)),
      temporary_(std::exchange(other.temporary_, {})),
      file_(std::exchange(other.file_, -1)) {}

SafeFile::~SafeFile() {
  if (file_ >= 0) ::close(file_);
  // Not by a call that a test may make fail: what is left behind is what the test looks for.
  if (!temporary_.empty()) ::unlink(temporary_.c_str());
}

Error SafeFile::failure(int error) const {
  const std::string name = fs::path(path_).filename().string();
  if (temporary_.empty())
    return {name + (isFull(error) ? " ends here: there is no room left on the disk." : std::string(" ends here: ") + std::strerror(error) + ".") +
            " What was written so far can be played."};
  if (isFull(error)) return noRoom(name);
  return {name + " could not be written: " + std::strerror(error) + ". Nothing was changed."};
}

Status SafeFile::write(std::span<const std::uint8_t> bytes) {
  if (const int failed = disk::write(file_, temporary_, bytes.data(), bytes.size())) return failure(failed);
  return {};
}

std::int64_t SafeFile::seek(std::int64_t offset, int whence) {
  return ::lseek(file_, offset, whence);
}

Status SafeFile::close() {
  if (file_ < 0) return {};
  const int failed = disk::sync(file_, temporary_);
  const bool closed = ::close(std::exchange(file_, -1)) == 0;
  if (failed) return failure(failed);
  if (!closed) return failure(errno);
  return {};
}

Status commitTogether(std::vector<SafeFile> files) {
  for (SafeFile& file : files)
    if (auto closed = file.close(); !closed) return closed;
  // What bore a name before is kept under the temporary one until all have theirs.
  struct Named {
    SafeFile* file;
    bool replaced;
  };
  std::vector<Named> named;
  const auto takeBack = [&] {
    for (auto it = named.rbegin(); it != named.rend(); ++it) {
      const std::string &temporary = it->file->temporary_, &path = it->file->path_;
      // Straight from the system: undoing must not fail as the doing was made to.
      if (it->replaced ? ::rename(temporary.c_str(), path.c_str()) : ::unlink(path.c_str())) continue;
      it->file->temporary_.clear();
    }
  };
  for (SafeFile& file : files) {
    if (file.temporary_.empty()) continue;  // it has its name
    std::error_code error;
    // After the last one nothing is taken back.
    const bool replaces = &file != &files.back() && fs::exists(fs::symlink_status(file.path_, error));
    int failed = replaces ? disk::exchange(file.temporary_, file.path_) : disk::rename(file.temporary_, file.path_);
    if (replaces && (failed == EINVAL || failed == ENOSYS)) {
      // Where names cannot be exchanged, what is there steps aside first.
      const std::string aside = temporaryName(file.path_);
      failed = disk::rename(file.path_, aside);
      if (!failed && (failed = disk::rename(file.temporary_, file.path_))) ::rename(aside.c_str(), file.path_.c_str());
      if (!failed) file.temporary_ = aside;
    }
    if (failed) {
      takeBack();
      return file.failure(failed);
    }
    named.push_back({&file, replaces});
  }
  std::set<std::string> folders;
  for (const SafeFile& file : files) folders.insert(folderOf(file.path_).string());
  for (const std::string& folder : folders) (void)disk::syncFolder(folder);
  // What was replaced goes with the objects.
  for (const Named& one : named)
    if (!one.replaced) one.file->temporary_.clear();
  return {};
}

void clearLeftovers(const std::string& folder) {
  std::error_code error;
  for (fs::directory_iterator entry(folder.empty() ? "." : folder, error), end; !error && entry != end;
       entry.increment(error)) {
    std::error_code ignored;
    if (isLeftover(entry->path().filename().string()) && fs::is_regular_file(entry->symlink_status(ignored)))
      (void)disk::remove(entry->path().string());
  }
}

}  // namespace molten

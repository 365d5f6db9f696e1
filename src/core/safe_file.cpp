#include "core/safe_file.h"

#include <fcntl.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <iterator>

namespace molten {
namespace fs = std::filesystem;

Result<SafeFile> SafeFile::create(const std::string& path) {
  static std::atomic<unsigned> counter{0};
  const fs::path target(path);
  const fs::path folder = target.has_parent_path() ? target.parent_path() : fs::path(".");
  if (target.filename().empty()) return Error{"The output has no file name: " + path + "."};
  std::error_code error;
  if (fs::is_directory(target, error)) return Error{path + " is a folder; name a file in it."};
  for (int tries = 0; tries < 100; ++tries) {
    const fs::path temporary = folder / ("." + target.filename().string().substr(0, 200) + "." +
                                         std::to_string(getpid()) + "-" + std::to_string(counter++) + ".part");
    const int file = ::open(temporary.c_str(), O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0666);
    if (file >= 0) return SafeFile(path, temporary.string(), file);
    if (errno == EEXIST) continue;
    if (errno == ENOENT || errno == ENOTDIR)
      return Error{"The folder " + folder.string() + " does not exist; make it, or choose another place for " +
                   target.filename().string() + "."};
    return Error{target.filename().string() + " cannot be written to " + folder.string() + ": " + std::strerror(errno) +
                 ". Choose another place."};
  }
  return Error{target.filename().string() + " cannot be written to " + folder.string() + "."};
}

SafeFile::SafeFile(SafeFile&& other) noexcept
    : path_(std::move(other.path_)),
      temporary_(std::exchange(other.temporary_, {})),
      file_(std::exchange(other.file_, -1)) {}

SafeFile::~SafeFile() {
  if (file_ >= 0) ::close(file_);
  if (!temporary_.empty()) ::unlink(temporary_.c_str());
}

Error SafeFile::failure(int error) const {
  const fs::path target(path_);
  const std::string name = target.filename().string();
  if (error == ENOSPC || error == EDQUOT || error == EFBIG)
    return {"There is no room left for " + name + "; nothing was written. Free some space or choose another disk."};
  return {name + " could not be written: " + std::strerror(error) + ". Nothing was changed."};
}

Status SafeFile::write(std::span<const std::uint8_t> bytes) {
  while (!bytes.empty()) {
    const auto put = ::write(file_, bytes.data(), bytes.size());
    if (put < 0 && errno == EINTR) continue;
    if (put < 0) return failure(errno);
    bytes = bytes.subspan(static_cast<std::size_t>(put));
  }
  return {};
}

Status SafeFile::close() {
  if (file_ < 0) return {};
  const bool synced = ::fsync(file_) == 0 || errno == EINVAL;
  const int error = errno;
  const bool closed = ::close(std::exchange(file_, -1)) == 0;
  if (!synced || !closed) return failure(synced ? errno : error);
  return {};
}

Status SafeFile::commit() {
  if (auto closed = close(); !closed) return closed;
  if (::rename(temporary_.c_str(), path_.c_str()) != 0) return failure(errno);
  temporary_.clear();
  return {};
}

Result<std::string> readWhole(const std::string& path, std::size_t most) {
  const std::string name = fs::path(path).filename().string();
  std::error_code error;
  if (!fs::exists(path, error)) return Error{name + " is not there (looked for " + path + ")."};
  if (fs::is_directory(path, error)) return Error{name + " is a folder, not a file."};
  const auto size = fs::file_size(path, error);
  if (!error && size > most) return Error{name + " is too large to be what it is taken for."};
  std::ifstream in(path, std::ios::binary);
  if (!in) return Error{name + " cannot be read: " + std::strerror(errno) + "."};
  return std::string(std::istreambuf_iterator<char>(in), {});
}

}  // namespace molten

#include "core/files/read_file.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <utility>

namespace molten {

Result<OpenFile> OpenFile::open(const std::string& path) {
  if (path.find('\0') != std::string::npos) return Error{"A path with a zero byte in it names no file."};
  const std::string name = std::filesystem::path(path).filename().string();
  // Opening a pipe waits for its writer, unless it is told not to.
  const int file = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK | O_NOCTTY);
  if (file < 0) {
    if (errno == ENOENT || errno == ENOTDIR) return noSuchFile(path);
    return Error{name + " cannot be read: " + std::strerror(errno) + ". Check its permissions."};
  }
  OpenFile opened(file, 0);
  struct stat info {};
  if (::fstat(file, &info) != 0) return Error{name + " cannot be read: " + std::strerror(errno) + "."};
  if (S_ISDIR(info.st_mode)) return Error{name + " is a folder, not a file."};
  if (!S_ISREG(info.st_mode)) return Error{name + " is a device or a pipe, not a file that can be read from."};
  opened.size_ = info.st_size;
  return opened;
}

OpenFile::OpenFile(OpenFile&& other) noexcept : file_(std::exchange(other.file_, -1)), size_(other.size_) {}

OpenFile::~OpenFile() {
  if (file_ >= 0) ::close(file_);
}

int OpenFile::release() {
  return std::exchange(file_, -1);
}

Result<std::string> readWhole(const std::string& path, std::size_t most) {
  auto file = OpenFile::open(path);
  if (!file) return file.error();
  const std::string name = std::filesystem::path(path).filename().string();
  const Error large{name + " is too large to be what it is taken for."};
  if (file->size() > static_cast<std::int64_t>(most)) return large;
  std::string all;
  char piece[1 << 16];
  for (;;) {
    const auto got = ::read(file->descriptor(), piece, sizeof piece);
    if (got < 0 && errno == EINTR) continue;
    if (got < 0) return Error{name + " cannot be read: " + std::strerror(errno) + "."};
    if (got == 0) return all;
    all.append(piece, static_cast<std::size_t>(got));
    // It may grow while it is read.
    if (all.size() > most) return large;
  }
}

std::optional<FileIdentity> identityOf(const std::string& path) {
  struct stat info {};
  if (::stat(path.c_str(), &info) != 0) return std::nullopt;
  return FileIdentity{info.st_dev, info.st_ino};
}

std::optional<FileStamp> stampOf(const std::string& path) {
  struct stat info {};
  if (::stat(path.c_str(), &info) != 0) return std::nullopt;
  return FileStamp{{info.st_dev, info.st_ino}, info.st_size, info.st_mtim.tv_sec, info.st_mtim.tv_nsec};
}

Error noSuchFile(const std::string& path) {
  const auto colon = path.find("://");
  if (colon != std::string::npos && colon > 0 && path.find('/') == colon + 1)
    return Error{path + " is an address, and no addresses are opened. Save what is there as a file, and open that."};
  std::error_code none;
  const std::filesystem::path whole = std::filesystem::absolute(path, none).lexically_normal();
  const std::string folder = whole.parent_path().string(), name = whole.filename().string();
  if (name.empty()) return Error{"There is no folder " + path + "."};
  if (!std::filesystem::is_directory(folder, none)) return Error{"There is no folder " + folder + ", and so no " + name + " in it."};
  return Error{"There is no file " + name + " in " + folder + "."};
}

std::filesystem::path placeOfBytes(const std::string& path) {
  std::error_code error;
  const std::filesystem::path whole = std::filesystem::absolute(path, error);
  if (error) return path;
  const std::filesystem::path place = std::filesystem::weakly_canonical(whole, error);
  return error ? whole : place;
}

}  // namespace molten

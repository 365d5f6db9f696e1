#pragma once
// Reading what a path names, and nothing that only looks like a file.

#include <sys/types.h>

#include <compare>
#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>

#include "core/result.h"

namespace molten {

/// A file opened for reading; closed with the object.
class OpenFile {
 public:
  /// Fails with a sentence if the path is missing, cannot be read, or is no regular file, or a link to one. Never waits:
  /// a pipe without a writer is refused like any other.
  static Result<OpenFile> open(const std::string& path);
  OpenFile(OpenFile&& other) noexcept;
  OpenFile& operator=(OpenFile&&) = delete;
  ~OpenFile();
  int descriptor() const { return file_; }
  std::int64_t size() const { return size_; }  ///< bytes, when it was opened
  /// The descriptor is the caller's from now on.
  int release();

 private:
  OpenFile(int file, std::int64_t size) : file_(file), size_(size) {}
  int file_;
  std::int64_t size_;
};

/// Says of a path at which no file is, why: there is none of that name in its folder, or no such folder, or it is an address.
Error noSuchFile(const std::string& path);

/// The whole of a small file. Fails with a sentence if it cannot be read or is larger than `most` bytes.
Result<std::string> readWhole(const std::string& path, std::size_t most);

/// The absolute path at which a file's bytes lie or will lie, after all links on the way. Whatever a project or a starter
/// names lies relative to the folder of that, not to the folder of a link.
std::filesystem::path placeOfBytes(const std::string& path);

/// What tells a file from all others, whatever name leads to it.
struct FileIdentity {
  dev_t device = 0;
  ino_t number = 0;
  friend auto operator<=>(const FileIdentity&, const FileIdentity&) = default;
};
/// None if nothing is there.
std::optional<FileIdentity> identityOf(const std::string& path);

/// What changes when a file is written anew.
struct FileStamp {
  FileIdentity identity;
  std::int64_t bytes = 0, seconds = 0, nanoseconds = 0;  ///< when it was last written, since 1970
  friend bool operator==(const FileStamp&, const FileStamp&) = default;
};
/// None if nothing is there.
std::optional<FileStamp> stampOf(const std::string& path);

}  // namespace molten

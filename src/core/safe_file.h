#pragma once
// A file that appears under its name only when it is whole.

#include <cstdint>
#include <span>
#include <string>

#include "core/result.h"

namespace molten {

/// Written under a temporary name in the same folder, synced and renamed by commit(). Without commit() nothing
/// is left behind.
class SafeFile {
 public:
  /// Fails with a sentence if the folder is missing or cannot be written to.
  static Result<SafeFile> create(const std::string& path);
  SafeFile(SafeFile&& other) noexcept;
  SafeFile& operator=(SafeFile&&) = delete;
  ~SafeFile();

  int descriptor() const { return file_; }
  Status write(std::span<const std::uint8_t> bytes);
  /// Syncs and closes the file, still under its temporary name.
  Status close();
  /// Closes if that has not been done, and gives the file its name.
  Status commit();
  /// The sentence for a failed write to this file, by errno.
  Error failure(int error) const;

 private:
  SafeFile(std::string path, std::string temporary, int file)
      : path_(std::move(path)), temporary_(std::move(temporary)), file_(file) {}
  std::string path_, temporary_;
  int file_ = -1;
};

/// The whole of a small file. Fails with a sentence if it cannot be read or is larger than `most` bytes.
Result<std::string> readWhole(const std::string& path, std::size_t most);

}  // namespace molten

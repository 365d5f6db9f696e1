#pragma once
// Files that appear under their names only when they are whole.

#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "core/result.h"

namespace molten {

/// Written under a temporary name in the same folder; commitTogether() gives it its own. Without that nothing is left
/// behind. All but those that grow.
class SafeFile {
 public:
  /// Whether create() would find the place as it should be, as far as can be told without making anything.
  static Status mayCreate(const std::string& path);
  /// Fails with a sentence if the folder is missing or cannot be written to.
  static Result<SafeFile> create(const std::string& path);
  /// One that stands under its own name from the beginning, and stays there, whatever happens. Fails if something is there
  /// already.
  static Result<SafeFile> growing(const std::string& path);
  /// A small file, written and closed.
  static Result<SafeFile> of(const std::string& path, std::span<const std::uint8_t> bytes);
  static Result<SafeFile> of(const std::string& path, const std::string& text);
  SafeFile(SafeFile&& other) noexcept;
  SafeFile& operator=(SafeFile&&) = delete;
  ~SafeFile();

  /// That it is to have.
  const std::string& path() const { return path_; }
  /// That it has until then; empty of one that grows.
  const std::string& temporary() const { return temporary_; }
  Status write(std::span<const std::uint8_t> bytes);
  /// The place where the next bytes go, as lseek() says it; −1: errno says why.
  std::int64_t seek(std::int64_t offset, int whence);
  /// Syncs and closes the file, still under its temporary name.
  Status close();
  /// The sentence for a failed write to this file, by errno.
  Error failure(int error) const;

 private:
  friend Status commitTogether(std::vector<SafeFile> files);
  SafeFile(std::string path, std::string temporary, int file)
      : path_(std::move(path)), temporary_(std::move(temporary)), file_(file) {}
  std::string path_, temporary_;
  int file_ = -1;
};

/// Gives several files their names as one act: if one of them cannot have its name, all names are as they were before.
/// They get them in this order: where only the last one tells of the others, a process that is ended on the way leaves
/// everything that is told of as it was.
Status commitTogether(std::vector<SafeFile> files);

/// Temporary files in a folder whose process has ended without removing them go. Those of other machines stay.
void clearLeftovers(const std::string& folder);

}  // namespace molten

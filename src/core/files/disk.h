#pragma once
// The calls by which files come to be: the only ones, so that a test can make any of them fail.

#include <sys/types.h>

#include <cstddef>
#include <functional>
#include <string>

namespace molten::disk {

enum class Call { Create, Write, Sync, Rename, Remove };

/// Asked before a call is made; an errno other than 0 is what the call fails with, without being made.
using Fault = std::function<int(Call call, const std::string& path)>;
/// Until the object goes, calls of this process ask `fault` first. For tests.
class Faults {
 public:
  explicit Faults(Fault fault);
  ~Faults();
  Faults(const Faults&) = delete;
  Faults& operator=(const Faults&) = delete;
};

/// Each gives back 0 or an errno.
int create(const std::string& path, int& descriptor);  ///< EEXIST if it is there
int write(int descriptor, const std::string& path, const void* bytes, std::size_t count);
int sync(int descriptor, const std::string& path);
/// The folder's own entries.
int syncFolder(const std::string& folder);
int rename(const std::string& from, const std::string& to);
/// `from` gets the name `to`, and what bore it gets the name `from`, in one step. EINVAL or ENOSYS where the file
/// system cannot do that.
int exchange(const std::string& a, const std::string& b);
int remove(const std::string& path);

}  // namespace molten::disk

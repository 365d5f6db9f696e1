#include "core/files/disk.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstdio>
#include <memory>
#include <mutex>

namespace molten::disk {
namespace {

std::mutex faultMutex;
std::shared_ptr<const Fault> fault;

int faultOf(Call call, const std::string& path) {
  std::shared_ptr<const Fault> now;
  {
    const std::scoped_lock lock(faultMutex);
    now = fault;
  }
  return now ? (*now)(call, path) : 0;
}

}  // namespace

Faults::Faults(Fault with) {
  const std::scoped_lock lock(faultMutex);
  fault = std::make_shared<const Fault>(std::move(with));
}

Faults::~Faults() {
  const std::scoped_lock lock(faultMutex);
  fault.reset();
}

int create(const std::string& path, int& descriptor) {
  if (const int bad = faultOf(Call::Create, path)) return bad;
  descriptor = ::open(path.c_str(), O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0666);
  return descriptor < 0 ? errno : 0;
}

int write(int descriptor, const std::string& path, const void* bytes, std::size_t count) {
  const char* from = static_cast<const char*>(bytes);
  if (const int bad = faultOf(Call::Write, path)) return bad;
  while (count > 0) {
    const auto put = ::write(descriptor, from, count);
    if (put < 0 && errno == EINTR) continue;
    if (put < 0) return errno;
    from += put, count -= static_cast<std::size_t>(put);
  }
  return 0;
}

int sync(int descriptor, const std::string& path) {
  if (const int bad = faultOf(Call::Sync, path)) return bad;
  // Some file systems have nothing to sync.
  return ::fsync(descriptor) == 0 || errno == EINVAL ? 0 : errno;
}

int syncFolder(const std::string& folder) {
  const int opened = ::open(folder.empty() ? "." : folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
  if (opened < 0) return errno;
  const int error = ::fsync(opened) == 0 || errno == EINVAL ? 0 : errno;
  ::close(opened);
  return error;
}

int rename(const std::string& from, const std::string& to) {
  if (const int bad = faultOf(Call::Rename, to)) return bad;
  return ::rename(from.c_str(), to.c_str()) == 0 ? 0 : errno;
}

int exchange(const std::string& a, const std::string& b) {
  if (const int bad = faultOf(Call::Rename, b)) return bad;
  return ::renameat2(AT_FDCWD, a.c_str(), AT_FDCWD, b.c_str(), RENAME_EXCHANGE) == 0 ? 0 : errno;
}

int remove(const std::string& path) {
  if (const int bad = faultOf(Call::Remove, path)) return bad;
  return ::unlink(path.c_str()) == 0 ? 0 : errno;
}

}  // namespace molten::disk

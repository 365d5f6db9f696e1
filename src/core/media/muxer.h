#pragma once
// A file that encoded packets are put into.

#include <memory>
#include <optional>
#include <string>

#include "core/files/safe_file.h"
#include "core/media/av_handles.h"
#include "core/media/av_versions.h"
#include "core/result.h"

namespace molten {

/// Streams are added to format() first, then begin(), put() and finish(). Nothing stands under the file's name before that is
/// committed.
class Muxer {
 public:
  /// The kind of file is what its name's ending says. Growing: it stands under its name from the beginning, in pieces each of
  /// which can be read once it is written.
  enum class Stands { AtTheEnd, Growing };
  static Result<std::unique_ptr<Muxer>> open(const std::string& path, Stands stands = Stands::AtTheEnd);
  ~Muxer();
  Muxer(const Muxer&) = delete;
  Muxer& operator=(const Muxer&) = delete;

  const std::string& extension() const { return extension_; }
  AVFormatContext& format() { return *format_; }
  /// Writes the header. `what`: is to be in it, for a sentence.
  Status begin(const std::string& what);
  /// With stream and time stamps set; the packet is taken over.
  Status put(AVPacket& packet);
  /// Writes what belongs to the end.
  Status finish();
  /// What was written, once it is finished.
  SafeFile takeFile() { return std::move(sink_.file); }

 private:
  /// Where libav writes, and the first failure of that.
  struct Sink {
    SafeFile file;
    std::optional<Error> failed = std::nullopt;
  };
  explicit Muxer(SafeFile file) : sink_{std::move(file)} {}
  static int write(void* opaque, AvWrittenBytes bytes, int count);
  static std::int64_t seek(void* opaque, std::int64_t offset, int whence);
  Status failed() { return sink_.failed ? *sink_.failed : sink_.file.failure(EIO); }

  Sink sink_;
  bool growing_ = false, begun_ = false, ended_ = false;
  std::string extension_;
  AVFormatContext* format_ = nullptr;
  AVIOContext* io_ = nullptr;
};

}  // namespace molten

#include "core/media/stills_files.h"

namespace molten {

Result<std::unique_ptr<PacketSink>> StillsFiles::open(const OutputSpec& spec) {
  // A place that cannot be written to is found out before the work, not after it.
  if (auto probe = SafeFile::create(outputFile(spec, 0)); !probe) return probe.error();
  return std::unique_ptr<PacketSink>(new StillsFiles(spec));
}

Status StillsFiles::put(AVPacket& packet) {
  auto file = SafeFile::of(outputFile(spec_, packet.pts), {packet.data, static_cast<std::size_t>(packet.size)});
  if (!file) return file.error();
  files_.push_back(std::move(*file));
  return {};
}

Status StillsFiles::finish(std::vector<SafeFile> beside, const FinishWatch&) {
  for (SafeFile& file : beside) files_.push_back(std::move(file));
  return commitTogether(std::move(files_));
}

}  // namespace molten

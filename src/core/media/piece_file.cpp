#include "core/media/piece_file.h"

#include <unistd.h>

#include <bit>
#include <cstring>

extern "C" {
#include <libavutil/crc.h>
}

namespace molten {
namespace {

static_assert(std::endian::native == std::endian::little, "numbers are written as they lie in memory");

constexpr std::string_view mark = "molten piece 1\n";
constexpr std::size_t writtenAtOnce = 1 << 20, longestKey = 200;
/// More than any picture takes; what says more is damaged.
constexpr std::uint32_t largest = 0x7f000000;

std::uint32_t summed(std::uint32_t sum, const void* bytes, std::size_t count) {
  return av_crc(av_crc_get_table(AV_CRC_32_IEEE_LE), sum, static_cast<const std::uint8_t*>(bytes), count);
}

/// Before anything of it is used.
bool hasItsSum(int descriptor) {
  std::vector<std::uint8_t> bytes(writtenAtOnce);
  std::uint32_t sum = 0, written = 0;
  std::size_t kept = 0;
  off_t at = 0;
  // The last four bytes are the sum of all others.
  for (ssize_t count; (count = pread(descriptor, bytes.data() + kept, bytes.size() - kept, at)) > 0;) {
    at += count;
    const std::size_t all = kept + static_cast<std::size_t>(count), ours = all > sizeof sum ? all - sizeof sum : 0;
    sum = summed(sum, bytes.data(), ours);
    std::memmove(bytes.data(), bytes.data() + ours, kept = all - ours);
  }
  if (kept != sizeof written) return false;
  std::memcpy(&written, bytes.data(), sizeof written);
  return written == sum;
}

}  // namespace

Result<std::unique_ptr<PieceSink>> PieceSink::create(const std::string& path, const std::string& key, std::int64_t first) {
  auto file = SafeFile::create(path);
  if (!file) return file.error();
  std::unique_ptr<PieceSink> sink(new PieceSink(std::move(*file)));
  sink->waiting_ = mark;
  sink->add(static_cast<std::uint32_t>(key.size()));
  sink->waiting_ += key;
  sink->add(first);
  return sink;
}

template <class Number>
void PieceSink::add(Number number) {
  waiting_.append(reinterpret_cast<const char*>(&number), sizeof number);
}

Status PieceSink::append(const void* bytes, std::size_t count) {
  waiting_.append(static_cast<const char*>(bytes), count);
  if (waiting_.size() < writtenAtOnce) return {};
  sum_ = summed(sum_, waiting_.data(), waiting_.size());
  auto written = file_.write({reinterpret_cast<const std::uint8_t*>(waiting_.data()), waiting_.size()});
  waiting_.clear();
  return written;
}

Status PieceSink::put(AVPacket& packet) {
  add(std::uint8_t(1));
  add(std::int64_t(packet.pts));
  add(std::int64_t(packet.dts));
  add(std::int64_t(packet.duration));
  add(std::int32_t(packet.flags));
  add(std::int32_t(packet.side_data_elems));
  for (int i = 0; i < packet.side_data_elems; ++i) {
    const AVPacketSideData& side = packet.side_data[i];
    add(static_cast<std::int32_t>(side.type));
    add(static_cast<std::uint32_t>(side.size));
    if (auto done = append(side.data, side.size); !done) return done;
  }
  add(static_cast<std::uint32_t>(packet.size));
  return append(packet.data, static_cast<std::size_t>(packet.size));
}

Status PieceSink::close() {
  add(std::uint8_t(0));
  sum_ = summed(sum_, waiting_.data(), waiting_.size());
  add(sum_);
  if (auto written = file_.write({reinterpret_cast<const std::uint8_t*>(waiting_.data()), waiting_.size()}); !written) return written;
  waiting_.clear();
  return file_.close();
}

Status PieceSink::finish(std::vector<SafeFile> beside, const FinishWatch&) {
  if (auto closed = close(); !closed) return closed;
  beside.push_back(std::move(file_));
  return commitTogether(std::move(beside));
}

Result<PieceFile> PieceFile::open(const std::string& path, const std::string& key) {
  auto opened = OpenFile::open(path);
  if (!opened) return opened.error();
  const auto size = static_cast<std::uint64_t>(opened->size());
  const bool whole = hasItsSum(opened->descriptor());
  std::FILE* const file = fdopen(opened->release(), "rb");
  if (!file) return outOfMemoryError();
  PieceFile piece(path, file);
  piece.left_ = size;
  std::string found(mark.size(), '\0');
  std::uint32_t length = 0;
  if (!piece.read(found.data(), found.size()) || found != mark || !piece.get(length) || length > longestKey) return piece.damaged();
  found.resize(length);
  if (!piece.read(found.data(), length)) return piece.damaged();
  if (found != key)
    return Error{fileName(path) + " is a piece of another render, or of this one before something in it was changed. Remove it; it will be made again."};
  if (!whole || !piece.get(piece.first_)) return piece.damaged();
  return piece;
}

Error PieceFile::damaged() const {
  return {fileName(path_) + " is damaged. Remove it; it will be made again."};
}

bool PieceFile::read(void* bytes, std::size_t count) {
  if (count > left_) return false;
  left_ -= count;
  return std::fread(bytes, 1, count, file_.get()) == count;
}

template <class Number>
bool PieceFile::get(Number& number) {
  return read(&number, sizeof number);
}

Result<bool> PieceFile::next(AVPacket& packet) {
  av_packet_unref(&packet);
  std::uint8_t more = 0;
  if (!get(more)) return damaged();
  if (more == 0) return false;
  std::int64_t pts = 0, dts = 0, duration = 0;
  std::int32_t flags = 0, sides = 0, type = 0;
  std::uint32_t size = 0;
  if (more != 1 || !get(pts) || !get(dts) || !get(duration) || !get(flags) || !get(sides) || sides < 0 || sides > AV_PKT_DATA_NB)
    return damaged();
  for (int i = 0; i < sides; ++i) {
    if (!get(type) || !get(size) || size > largest || size > left_ || type < 0 || type >= AV_PKT_DATA_NB) return damaged();
    std::uint8_t* const side = av_packet_new_side_data(&packet, static_cast<AVPacketSideDataType>(type), size);
    if (!side || !read(side, size)) return damaged();
  }
  if (!get(size) || size > largest || size > left_) return damaged();
  // av_new_packet() would forget the side data.
  if (av_grow_packet(&packet, static_cast<int>(size)) < 0) return outOfMemoryError();
  if (!read(packet.data, size)) return damaged();
  packet.pts = pts, packet.dts = dts, packet.duration = duration, packet.flags = flags;
  return true;
}

}  // namespace molten

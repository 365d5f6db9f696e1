#pragma once
// The encoded pictures of a piece of a render, as they will stand in the result.
//
// Bytes: the mark, the key's length (4) and text, the number of the first picture (8); then for each packet a 1, pts, dts,
// duration (8 each; in pictures), flags (4), the number of side data (4), each with its type and length (4 each) and bytes, the
// length (4) and the bytes; at the end a 0 and a CRC of all before it (4). Numbers are little-endian.

#include <cstdio>
#include <memory>
#include <string>

#include "core/files/read_file.h"
#include "core/media/packet_sink.h"

namespace molten {

/// A piece that is being written.
class PieceSink : public PacketSink {
 public:
  static Result<std::unique_ptr<PieceSink>> create(const std::string& path, const std::string& key, std::int64_t first);
  Status begin(const EncodedStream*) override { return {}; }
  Status put(AVPacket& packet) override;
  Status finish(std::vector<SafeFile> beside, const FinishWatch& watch) override;
  /// The end is written, and the file stays without its name: what it holds can be read by its temporary one.
  Status close();
  const SafeFile& file() const { return file_; }

 private:
  explicit PieceSink(SafeFile file) : file_(std::move(file)) {}
  Status append(const void* bytes, std::size_t count);
  template <class Number>
  void add(Number number);

  SafeFile file_;
  std::string waiting_;  ///< bytes that are not written yet
  std::uint32_t sum_ = 0;
};

/// One that is read.
class PieceFile {
 public:
  /// Fails with a sentence if it is no piece of `key`, or damaged: all of it is looked at.
  static Result<PieceFile> open(const std::string& path, const std::string& key);

  std::int64_t first() const { return first_; }
  /// The next packet; false at the end. Fails with a sentence where the file is damaged.
  Result<bool> next(AVPacket& packet);

 private:
  struct Close {
    void operator()(std::FILE* file) const { std::fclose(file); }
  };
  PieceFile(std::string path, std::FILE* file) : path_(std::move(path)), file_(file) {}
  Error damaged() const;
  bool read(void* bytes, std::size_t count);
  template <class Number>
  bool get(Number& number);

  std::string path_;
  std::unique_ptr<std::FILE, Close> file_;
  std::int64_t first_ = 0;
  std::uint64_t left_ = 0;  ///< bytes that are not read yet
};

}  // namespace molten

#pragma once
// Sound of a file, whatever it is coded in: exact to the sample, from any moment on.

#include <cstdint>
#include <deque>
#include <memory>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "core/media/demuxer.h"
#include "core/sound/sound.h"
#include "core/time/rational.h"

struct SwrContext;

namespace molten {

/// As it lies in the file.
struct SoundDescription {
  int rate = 0;               ///< samples a second
  int channels = 0;
  std::string codec;          ///< its short name
  std::int64_t length = 0;    ///< at soundRate, from the beginning; what the file says, 0 where it says nothing
};

/// What sound is read by, stretch by stretch. For one thread at a time.
class SoundReading {
 public:
  virtual ~SoundReading() = default;
  virtual const SoundDescription& description() const = 0;
  /// The samples from number `first` on, in any order; quickest one stretch after the other.
  virtual Status read(std::int64_t first, Sound& out, std::stop_token stop) = 0;
  /// Packets so far that could not be decoded.
  virtual int damaged() const { return 0; }
  /// The number of the sample after the last one, once the end has been read.
  virtual std::optional<std::int64_t> end() const = 0;
};

/// Of a file. Its beginning is that of the pictures where the file has some, otherwise of its own first sample. Where nothing was recorded,
/// and where what was cannot be decoded, it is silent.
class SoundReader : public SoundReading {
 public:
  /// `beginning`: in seconds, by the file's own clock; none: as above.
  static Result<std::unique_ptr<SoundReader>> open(const std::string& path,
                                                   std::optional<Rational> beginning = std::nullopt);
  ~SoundReader() override;
  SoundReader(const SoundReader&) = delete;
  SoundReader& operator=(const SoundReader&) = delete;

  const SoundDescription& description() const override { return description_; }
  Status read(std::int64_t first, Sound& out, std::stop_token stop) override;
  int damaged() const override { return damaged_; }
  std::optional<std::int64_t> end() const override { return end_; }

 private:
  /// Samples without a gap.
  struct Stretch {
    std::int64_t first = 0;
    std::vector<float> values;
    std::int64_t end() const { return first + static_cast<std::int64_t>(values.size()) / soundChannels; }
  };
  /// What the frames of a stream must be alike in to be converted as one.
  struct Form {
    int rate = 0, format = -1, channels = 0;
    std::uint64_t mask = 0;
    friend bool operator==(const Form&, const Form&) = default;
  };

  SoundReader() = default;
  Status learn(std::optional<Rational> beginning);
  Status goTo(std::int64_t first, std::stop_token stop);
  Status restart();
  Status decodeOn();
  Status take(const AVFrame& frame);
  Status begin(const AVFrame& frame, const Form& form, std::int64_t place);
  Status convert(const std::uint8_t* const* data, int samples);
  Status silence(std::int64_t samples);
  void finish();
  void forget();
  /// In samples of the frame's own rate from the beginning.
  std::int64_t placeOf(const AVFrame& frame) const;

  std::string path_;
  std::unique_ptr<Demuxer> demuxer_;
  AvHandle<AVCodecContext> decoder_;
  AvHandle<AVPacket> packet_ = newPacket();
  AvHandle<AVFrame> frame_ = newFrame();
  SwrContext* converter_ = nullptr;
  SoundDescription description_;
  Form form_;
  std::optional<Rational> beginning_;  ///< by the file's clock, in seconds
  std::int64_t firstPlace_ = 0;   ///< of the second frame: the first may be cut
  int grid_ = 0;                  ///< samples of every frame; 0: they differ
  std::int64_t slack_ = 1;        ///< so far off, in samples, time stamps may be
  std::int64_t fed_ = 0;          ///< place of the sample to be converted next
  int seen_ = 0;                  ///< frames since the file was opened, as far as they are counted
  bool jumped_ = false;           ///< what comes next is decoded without what was before it
  std::deque<Stretch> stretches_; ///< converted; rising; between them it is silent
  std::int64_t from_ = 0, to_ = 0;  ///< what is known: within, and in no stretch, it is silent
  bool ended_ = false;
  std::optional<std::int64_t> end_;
  int damaged_ = 0;
};

}  // namespace molten

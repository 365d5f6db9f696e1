#pragma once
// A piece of footage: what it is, and readers for it.

#include <functional>
#include <memory>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "core/media/frame_index.h"
#include "core/media/frame_reader.h"
#include "core/media/stills_reader.h"
#include "core/picture/video_description.h"

namespace molten {

struct FootageOptions {
  /// Pictures a second of numbered stills (none: 24), or those that footage of a varying rate is counted in (none: the
  /// usual rate that it means). Of no use to others.
  std::optional<Rational> rate = std::nullopt;
};

/// What is told while footage is opened, from the thread that opens it.
struct FootageProgress {
  std::function<void(const Picture&)> firstPicture;  ///< long before the index of a long file is complete
  std::function<void(double)> indexed;               ///< 0…1
};

class Footage {
 public:
  /// A video file, a pattern of numbered stills, a folder of them, or a blank (blankPath()). Works for as long as the index
  /// takes.
  static Result<std::shared_ptr<const Footage>> open(const std::string& path, const FootageOptions& options,
                                                     const FootageProgress& progress, std::stop_token stop);

  /// What pictures are made of that are not a file's own.
  struct MadeFrom {
    std::string path;                ///< by which they are asked for
    std::vector<std::string> files;  ///< all that they depend on
    std::string keptIn = {};         ///< a file that they are read from for now; empty: they are made as they are asked for
  };
  using NewReader = std::function<Result<std::unique_ptr<FrameReader>>(int threads)>;
  /// Pictures of one shape at an even rate. `newReader`: gives readers of them.
  static std::shared_ptr<const Footage> made(MadeFrom from, const PictureShape& shape, Rational rate, std::int64_t frames, NewReader newReader);

  const std::string& path() const { return path_; }
  std::string name() const;
  const PictureShape& shape() const { return shape_; }
  const FrameClock& clock() const { return clock_; }
  /// At its nominal rate.
  VideoDescription video(InBetween between = InBetween::Whole) const;
  /// True if its frames have no rate of their own, so that another one can be set.
  bool hasFreeRate() const { return isStills() || clock_.varying(); }
  bool isStills() const { return stills_ != nullptr; }
  /// The rate that it was opened to have, where it has none of its own.
  const std::optional<Rational>& rateAsked() const { return rateAsked_; }
  /// Files that what is made depends on; none: it is a file's own.
  const std::vector<std::string>& madeFrom() const { return madeFrom_; }
  const std::string& keptIn() const { return keptIn_; }
  /// `h264`, `png`: the codec's short name; empty: it is made.
  const std::string& codec() const { return codec_; }
  /// What has been amiss with frames that readers of it have read so far.
  const FrameFaults& faults() const { return *faults_; }
  /// Whether its file, or one of its stills, is another one now than when it was opened, cut short, or gone. Asks the disk.
  bool changedOnDisk(const std::stop_token& stop = {}) const;
  /// Sentences about what was found amiss when it was opened, and how it is dealt with.
  const std::vector<std::string>& warnings() const { return warnings_; }
  /// The frame at which decoding of frame n begins: n itself, or one before it that needs no other.
  std::int32_t startOf(std::int32_t n) const { return index_ ? index_->startFrameFor(n) : n; }
  /// A reader of one's own, for one thread.
  Result<std::unique_ptr<FrameReader>> newReader(int decoderThreads) const;

 private:
  Footage() = default;
  Status becomeBlank(const FootageProgress& progress);
  Status take(const FirstFrame& first, const FootageProgress& progress);

  std::string path_, codec_;
  std::optional<Rational> rateAsked_;
  ImportTarget target_;
  PictureShape shape_;
  FrameClock clock_ = FrameClock::constant(25, 1);
  std::shared_ptr<const FrameIndex> index_;
  std::shared_ptr<const StillsList> stills_;
  bool blank_ = false;
  NewReader maker_;                    ///< of what is made
  std::vector<std::string> madeFrom_;  ///< likewise
  std::string keptIn_;                 ///< likewise
  std::shared_ptr<FrameFaults> faults_ = std::make_shared<FrameFaults>();
  std::vector<std::string> warnings_;
};

}  // namespace molten

#pragma once
// What a camera gives, or what is made of it, into a file as it runs.

#include <condition_variable>
#include <deque>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <thread>

#include "core/engine/live_ring.h"
#include "core/media/picture_writer.h"

namespace molten {

/// Written on a thread of its own. The file can be played at any time up to its last half second, also if the process ends.
/// Thread-safe.
class LiveRecording {
 public:
  /// An .mp4 or .mov that is not there yet.
  explicit LiveRecording(std::string path);
  /// Ends it.
  ~LiveRecording();

  const std::string& path() const { return path_; }
  /// Does not wait: where the encoder is behind by a second a picture is left out. `number`: as a LiveRing
  /// counts at that rate; what it lost shows the picture before. A picture of another shape or rate than the first one is brought
  /// to that.
  void add(const Picture& picture, std::int64_t number, Rational rate);
  struct State {
    double seconds = 0;          ///< that are written
    std::int64_t pictures = 0;   ///< likewise
    std::int64_t leftOut = 0;    ///< since the encoder was behind
    std::optional<Error> failed;  ///< nothing more is written
  };
  State state() const;
  /// Returns when all that was added is written.
  Status finish();

 private:
  struct Waiting {
    Picture picture;
    std::int64_t number;
    Rational rate;
  };
  void write();
  Status put(const Waiting& next);

  const std::string path_;
  mutable std::mutex mutex_;
  std::condition_variable_any changed_;
  std::deque<Waiting> waiting_;
  bool ending_ = false;
  State state_;
  // Of its thread alone:
  std::unique_ptr<PictureWriter> writer_;
  PictureShape shape_;
  Rational rate_ = 30;
  std::optional<std::int64_t> first_;
  Converter converter_;
  std::optional<std::int64_t> last_;
  std::jthread thread_;  // last
};

/// Writes frames that a ring holds as a clip of an even rate; `spec` says how, besides shape and rate. Works on the thread that
/// asks. `progress`: 0…1.
Status keepAsClip(const std::vector<LiveRing::Kept>& frames, Rational rate, OutputSpec spec, const Progress& progress, std::stop_token stop);

}  // namespace molten

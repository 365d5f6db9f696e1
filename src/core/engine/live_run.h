#pragma once
// A chain on a camera, as it comes.

#include <atomic>
#include <condition_variable>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <thread>
#include <vector>

#include "core/engine/live_ring.h"
#include "core/media/camera.h"
#include "core/project/project.h"
#include "core/stages/live_reach.h"

namespace molten {

/// What is made of the camera's pictures.
struct LiveChain {
  Chain stages;
  InBetween between = InBetween::Whole;
  FollowedSounds sounds = {};
  friend bool operator==(const LiveChain&, const LiveChain&) = default;
};

/// A picture of the chain.
struct LivePicture {
  Picture picture;
  std::int64_t number = 0;  ///< of the newest frame when it was made: see LiveRing
  double seconds = 0;       ///< when that was taken, by the clock
  double arrived = 0;       ///< when it came
  bool late = false;        ///< it came late
  Rational rate = 30;       ///< that numbers are counted in
  int scale = 1;            ///< it is so many times smaller each way than the camera's pictures make it
};

/// How it goes.
struct LiveState {
  bool there = false;         ///< the camera gives pictures
  std::string trouble;        ///< why it does not: a sentence; it is tried again
  std::string chainTrouble;   ///< why the chain gives no picture: a sentence
  std::vector<std::string> leftOut;  ///< sentences about stages that cannot run on a camera
  Size size;                  ///< of the camera's pictures
  Rational rate = 30;         ///< likewise
  double seconds = 0;         ///< since it began
  // Each frame that the camera took is counted once among those that follow: taken = shown + late + lost + passedOver + onTheWay.
  std::int64_t shown = 0;       ///< in time
  std::int64_t late = 0;        ///< shown, but it came over a frame's time and a half after it was taken, or was shown over two after it came
  std::int64_t lost = 0;        ///< it never came
  std::int64_t passedOver = 0;  ///< it came, and gave way to a newer one, or the chain made nothing of it
  std::int64_t onTheWay = 0;    ///< it came, and will be one of these
  std::int64_t taken() const { return shown + late + lost + passedOver + onTheWay; }
  std::int64_t arrived() const { return taken() - lost; }
  std::int64_t found = 0;     ///< how often the camera was found again
  double toScreen = 0;        ///< from its arrival to the screen, lately, in seconds
  LiveReach reach;
  RingState ring;
};

struct LiveOptions {
  std::shared_ptr<MemoryBudget> budget = std::make_shared<MemoryBudget>(std::size_t(2) << 30);
  int threads = 2;
  std::shared_ptr<LiveClock> clock = machineClock();
};

/// Thread-safe. Reads the camera on one thread, into a ring, and makes pictures on another: always of the newest frame. A
/// camera that goes is looked for until it is there again; the ring stays.
class LiveRun {
 public:
  /// `made` is called from the thread that makes pictures; `came` from the one that reads the camera, with each frame as it
  /// came.
  using Made = std::function<void(const LivePicture&)>;
  using Came = std::function<void(const CameraFrame&, std::int32_t number, Rational rate)>;
  LiveRun(CameraChoice camera, RingSettings ring, LiveChain chain, LiveOptions options, Made made, Came came = nullptr);
  ~LiveRun();

  /// What is made from now on; the newest counts.
  void setChain(LiveChain chain);
  /// Other settings of the ring; one that keeps another kind of picture begins anew.
  void setRing(const RingSettings& settings);
  /// Another camera; the ring begins anew.
  void setCamera(CameraChoice camera);
  /// The picture of a frame that arrived then is on the screen now. Those before it that were not will not be.
  void shown(const LivePicture& picture);

  LiveState state() const;
  /// nullptr until the camera has given a picture.
  std::shared_ptr<LiveRing> ring() const;
  const std::shared_ptr<LiveClock>& clock() const { return options_.clock; }

 private:
  void readCamera(std::stop_token stop);
  void readFrames(Camera& camera, const std::stop_token& stop);
  bool take(const CameraFrame& frame, const PictureShape& shape, Rational rate);
  void troubled(const std::string& sentence);
  void makePictures(std::stop_token stop);

  /// What pictures are made with, for the thread that makes them.
  struct Making;
  void prepare(Making& making);

  const LiveOptions options_;
  const Made made_;
  const Came came_;
  mutable std::mutex mutex_;
  std::condition_variable_any changed_;
  CameraChoice camera_;
  RingSettings settings_;
  LiveChain chain_;
  std::uint64_t cameraNumber_ = 0, chainNumber_ = 0;  ///< another one for each change
  std::shared_ptr<LiveRing> ring_;
  LiveState state_;
  struct Newest {
    std::int32_t number;
    double seconds, arrived;
    bool late;
  };
  std::optional<Newest> newest_;  ///< frame that no picture is made of yet
  std::deque<std::int64_t> unseen_;  ///< of pictures that are not on the screen yet, rising
  std::optional<std::int32_t> last_;  ///< frame that came
  std::stop_source reading_;  ///< ends with another camera
  std::jthread reader_, maker_;  // last: they stop before the rest goes
};

}  // namespace molten

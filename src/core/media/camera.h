#pragma once
// Pictures that come as they are taken: from a device, from a clip that plays, or drawn.

#include <memory>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "core/picture/picture.h"
#include "core/result.h"

namespace molten {

/// What passes the time of whoever waits for a camera: the machine's clock, or one that is moved by hand. Thread-safe.
class LiveClock {
 public:
  virtual ~LiveClock() = default;
  /// Seconds since it began.
  virtual double now() const = 0;
  /// Returns true at a moment, at once if it is over; false as soon as it is asked to stop.
  virtual bool waitUntil(double seconds, const std::stop_token& stop) = 0;
};
/// It begins now.
std::shared_ptr<LiveClock> machineClock();

struct CameraFrame {
  Picture picture;
  double seconds = 0;  ///< when it was taken, by the clock of whoever reads the camera; rising
};

/// One that is open. For one thread.
class Camera {
 public:
  virtual ~Camera() = default;
  /// Of all its frames.
  virtual const PictureShape& shape() const = 0;
  /// Frames a second, as it says itself.
  virtual Rational rate() const = 0;
  /// The next frame, when it comes. Fails when the camera has gone, or when asked to stop.
  virtual Result<CameraFrame> next(std::stop_token stop) = 0;
};

/// A way in which a camera can be read.
struct CameraMode {
  Size size;
  std::vector<Rational> rates;  ///< frames a second, falling; none: it does not say
  friend bool operator==(const CameraMode&, const CameraMode&) = default;
};

/// A camera that can be chosen.
struct CameraOffer {
  std::string id;                 ///< `simulated`, `/dev/video0`
  std::string name;               ///< for a person
  std::vector<CameraMode> modes;  ///< largest first; none: any size, any rate
};

/// What goes wrong with a simulated camera, on request.
struct CameraTroubles {
  double late = 0;           ///< 0…1 of the frames come up to three frames' time late
  double lost = 0;           ///< 0…1 of the frames never come
  bool irregular = false;    ///< frames are taken up to a third of a frame's time beside their moments
  double comesOffAfter = 0;  ///< seconds after which it is gone; 0: never. It can be opened again at once.
  bool numbered = false;     ///< see number_bars.h
  friend bool operator==(const CameraTroubles&, const CameraTroubles&) = default;
};

inline constexpr std::string_view simulatedCamera = "simulated";

struct CameraChoice {
  std::string id{simulatedCamera};  ///< an offer's, or the path of a clip, which plays round and round
  std::optional<Size> size = std::nullopt;      ///< none: the camera's own choice
  std::optional<Rational> rate = std::nullopt;  ///< likewise
  CameraTroubles troubles = {};                 ///< of the simulated one
  friend bool operator==(const CameraChoice&, const CameraChoice&) = default;
};

/// What is there now; the simulated one first.
std::vector<CameraOffer> listCameras();
/// Fails with a sentence that says what to do. Opens no network.
Result<std::unique_ptr<Camera>> openCamera(const CameraChoice& choice, std::shared_ptr<LiveClock> clock, std::stop_token stop);

}  // namespace molten

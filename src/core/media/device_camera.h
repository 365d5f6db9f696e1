#pragma once
// Cameras of the machine, read by libavdevice.

#include "core/media/camera.h"

namespace molten {

/// libavdevice's name of what reads the system's cameras.
inline constexpr const char* deviceFormat = "video4linux2";

/// What libavdevice opens.
struct DeviceName {
  std::string format;  ///< deviceFormat, or another that takes pictures as time passes
  std::string name;    ///< `/dev/video0`
};

bool isDevice(const std::string& id);
/// Those that take pictures, with the sizes and rates that they say.
std::vector<CameraOffer> listDevices();
Result<std::unique_ptr<Camera>> openDevice(const DeviceName& device, const CameraChoice& choice, std::shared_ptr<LiveClock> clock);

}  // namespace molten

#pragma once
// A camera that is drawn as it runs: someone's silhouette walking before the furnace.

#include "core/media/camera.h"

namespace molten {

/// Any size of 16 to 8192 pixels a side (1280 × 720) and rate up to 240 (30).
Result<std::unique_ptr<Camera>> openSimulatedCamera(const CameraChoice& choice, std::shared_ptr<LiveClock> clock);

}  // namespace molten

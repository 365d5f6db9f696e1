#pragma once
// A clip that plays as a camera would give it.

#include "core/media/camera.h"

namespace molten {

/// Round and round, at its own rate or the chosen one; whatever size is chosen it has its own.
Result<std::unique_ptr<Camera>> openClipCamera(const CameraChoice& choice, std::shared_ptr<LiveClock> clock, std::stop_token stop);

}  // namespace molten

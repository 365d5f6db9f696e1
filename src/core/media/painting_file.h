#pragma once
// Painted pictures as 16-bit PNG files.

#include <memory>

#include "core/field/painting.h"
#include "core/result.h"

namespace molten {

Result<std::shared_ptr<const PaintedPicture>> readPainting(const std::string& path);
/// Appears under its name only when it is whole.
Status writePainting(const PaintedPicture& painting, const std::string& path);

}  // namespace molten

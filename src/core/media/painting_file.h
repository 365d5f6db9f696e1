#pragma once
// Painted pictures as 16-bit PNG files.

#include <cstdint>
#include <memory>
#include <vector>

#include "core/field/painting.h"
#include "core/result.h"

namespace molten {

Result<std::shared_ptr<const PaintedPicture>> readPainting(const std::string& path);
/// What such a file holds.
Result<std::vector<std::uint8_t>> paintingBytes(const PaintedPicture& painting);

}  // namespace molten

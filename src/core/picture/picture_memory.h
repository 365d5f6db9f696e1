#pragma once
// Memory for samples. Pictures come and go many times a second, of few sizes: what one has let go the next one takes, so
// that the system need not clear pages for each.

#include <cstddef>
#include <memory>

namespace molten {

/// Rows begin at multiples of it, in bytes.
inline constexpr std::size_t rowAlignment = 64;

/// Undefined bytes that begin at a multiple of rowAlignment; they may be those of a picture that is no more. Up to 64 MB
/// are kept for later in the whole process, the newest. Thread-safe. Throws std::bad_alloc.
std::shared_ptr<void> pictureMemory(std::size_t bytes);

}  // namespace molten

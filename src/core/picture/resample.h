#pragma once
// A picture laid out anew: turned, enlarged, reduced, moved.

#include <span>

#include "core/picture/affine.h"
#include "core/picture/picture.h"

namespace molten {

/// What is seen beyond a picture's edges.
enum class Beyond { StandStill, Mirror, Clear };

/// Pixel (i, j) of what comes out has its centre at (i + 0.5, j + 0.5) and shows the place of `picture` to which a way
/// leads from there. The values as they are shown, by Lanczos' window of three lobes,
///   w(d) = sinc(d/s)·sinc(d/3s) for |d| < 3s, across times down, the sum of the weights being 1,
/// d the distance of a pixel's centre in pixels of `picture`, s = max(1, √|determinant|): stretched where the picture is
/// reduced, so that nothing is left out. Several ways: the mean of the light that they show. With an alpha by what is there.
/// `to`: the shape of what comes out, of the same model; its size may be any. On the threads of the caller's ThreadLimit.
Picture resampled(const Picture& picture, std::span<const Affine> ways, Beyond beyond, const PictureShape& to);

}  // namespace molten

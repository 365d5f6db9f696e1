#include "core/picture/primaries.h"

#include <algorithm>
#include <opencv2/core.hpp>

extern "C" {
#include <libavutil/csp.h>
}

namespace molten {
namespace {

cv::Vec3d xyz(const AVCIExy& colour) {
  const double x = av_q2d(colour.x), y = av_q2d(colour.y);
  return {x / y, 1, (1 - x - y) / y};
}

/// Red, green and blue of 1 together give the white.
cv::Matx33d toXyz(const AVColorPrimariesDesc& described) {
  const cv::Vec3d r = xyz(described.prim.r), g = xyz(described.prim.g), b = xyz(described.prim.b);
  const cv::Matx33d columns(r[0], g[0], b[0], r[1], g[1], b[1], r[2], g[2], b[2]);
  const cv::Vec3d weights = columns.inv() * xyz(described.wp);
  return columns * cv::Matx33d::diag(weights);
}

cv::Matx33d adapted(const cv::Vec3d& from, const cv::Vec3d& to) {
  const cv::Matx33d bradford(0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296);
  const cv::Vec3d a = bradford * from, b = bradford * to;
  return bradford.inv() * cv::Matx33d::diag(cv::Vec3d(b[0] / a[0], b[1] / a[1], b[2] / a[2])) * bradford;
}

}  // namespace

std::optional<ColourMatrix> betweenPrimaries(AVColorPrimaries from, AVColorPrimaries to) {
  const AVColorPrimariesDesc *const a = av_csp_primaries_desc_from_id(from), *const b = av_csp_primaries_desc_from_id(to);
  if (!a || !b || from == to) return std::nullopt;
  const cv::Matx33d way = toXyz(*b).inv() * adapted(xyz(a->wp), xyz(b->wp)) * toXyz(*a);
  if (cv::norm(way - cv::Matx33d::eye()) < 1e-6) return std::nullopt;
  ColourMatrix matrix{};
  for (int i = 0; i < 3; ++i)
    for (int j = 0; j < 3; ++j) matrix[static_cast<std::size_t>(i)][static_cast<std::size_t>(j)] = static_cast<float>(way(i, j));
  return matrix;
}

void apply(const ColourMatrix& matrix, WorkingTile& tile) {
  float *const red = tile.channels[0].data(), *const green = tile.channels[1].data(), *const blue = tile.channels[2].data();
  const auto& m = matrix;
  for (std::size_t i = 0; i < tile.channels[0].size(); ++i) {
    const float r = red[i], g = green[i], b = blue[i];
    red[i] = std::max(0.0f, m[0][0] * r + m[0][1] * g + m[0][2] * b);
    green[i] = std::max(0.0f, m[1][0] * r + m[1][1] * g + m[1][2] * b);
    blue[i] = std::max(0.0f, m[2][0] * r + m[2][1] * g + m[2][2] * b);
  }
}

}  // namespace molten

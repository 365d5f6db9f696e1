#include "core/media/painting_file.h"

#include <algorithm>
#include <cmath>

#include "core/media/footage.h"
#include "core/media/picture_writer.h"

namespace molten {

Result<std::shared_ptr<const PaintedPicture>> readPainting(const std::string& path) {
  auto footage = Footage::open(path, {}, {}, {});
  if (!footage) return footage.error();
  auto reader = (*footage)->newReader(1);
  if (!reader) return reader.error();
  auto picture = (*reader)->read(0, {}, {});
  if (!picture) return picture.error();
  const GrayPicture gray = grayOf(*picture);
  std::vector<std::uint16_t> samples;
  samples.reserve(gray.samples.size());
  for (const float value : gray.samples)
    samples.push_back(static_cast<std::uint16_t>(std::lround(std::clamp(value, 0.0f, 1.0f) * 65535)));
  return std::make_shared<const PaintedPicture>(Size{gray.width, gray.height}, samples);
}

Result<std::vector<std::uint8_t>> paintingBytes(const PaintedPicture& painting) {
  OutputSpec spec;
  spec.path = "painting.png";
  spec.codec = "png16";
  spec.single = true;
  spec.shape.format = {ColourModel::Gray, 16, 0, 0, false, false};
  spec.shape.size = painting.size();
  spec.shape.colour.range = AVCOL_RANGE_JPEG;
  spec.threads = 1;
  Picture picture(spec.shape);
  const auto samples = painting.samples();
  const auto width = static_cast<std::size_t>(painting.size().width);
  for (int y = 0; y < painting.size().height; ++y)
    std::copy_n(samples.data() + static_cast<std::size_t>(y) * width, width,
                reinterpret_cast<std::uint16_t*>(picture.writableRow(0, y)));
  return stillBytes(spec, picture);
}

}  // namespace molten

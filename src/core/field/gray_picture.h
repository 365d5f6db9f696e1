#pragma once
// A picture as numbers, to be read as a field.

#include <memory>
#include <vector>

#include "core/field/field_shape.h"

namespace molten {

/// One plane of numbers, row after row; 0 is black, 1 is white; floats of a file may lie outside. Immutable once
/// shared.
struct GrayPicture {
  int width = 0, height = 0;
  std::vector<float> samples;
  std::size_t bytes() const { return samples.size() * sizeof(float); }
};

/// How bright a picture is, at its full depth. Luma of Y'CbCr by its range; of RGB 0.2126 R + 0.7152 G + 0.0722 B, of
/// the values as displayed. Alpha is left aside.
GrayPicture grayOf(const Picture& picture);

/// Blurred by a Gaussian of standard deviation `radius`, in pixels of the picture.
GrayPicture blurred(const GrayPicture& picture, double radius);

/// How a picture is laid over the frame.
enum class PictureFit {
  Stretch,  ///< its corners on the frame's
  Fit,      ///< all of it in sight, in its own proportions
  Fill,     ///< no place left free
  Placed    ///< `width` frame widths wide, its middle at `centre`
};

/// f is the sample, between samples by straight interpolation; beyond the picture's edge the edge goes on. Over a frame
/// of its own size the samples are taken as they are. What the file holds beyond 0…1 is left to the levels.
class PictureField : public FieldShape {
 public:
  PictureField(std::shared_ptr<const GrayPicture> picture, PictureFit fit, Place centre, double width,
               const FieldFrame& frame);
  void row(const PlaneSites& sites, int y, std::span<float> out) const override;
  std::size_t bytes() const override { return picture_->bytes(); }

  /// The samples that 0 and 1 of f stand for: f = (sample − black) / (white − black).
  void setLevels(double black, double white) { black_ = black, white_ = white; }

 private:
  std::shared_ptr<const GrayPicture> picture_;
  double left_, top_, across_, down_;  ///< of the picture's corner in frame pixels; its samples a frame pixel
  double black_ = 0, white_ = 1;
};

}  // namespace molten

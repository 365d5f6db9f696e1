#pragma once
// The field as a picture: what each pixel reads, in the colours of time, with contour lines that say their moments.

#include <QImage>
#include <vector>

#include "core/stages/chain_reading.h"

namespace molten {

struct FieldLabel {
  Place place;         ///< on its line, as fractions of the picture
  double seconds = 0;  ///< beside the present moment
};

struct FieldPicture {
  QImage image;  ///< with an alpha, to be laid over the Picture; null: nothing is displaced
  std::vector<FieldLabel> labels;
};

/// `full`: the picture's own size; `shown`: the image's; `coarse`: what is read is looked at in every so many-th pixel
/// and column, and lies evenly between; `now`: what an undisplaced pixel reads, and `rate`: of the
/// source, both in its frames.
FieldPicture fieldPicture(const ChainReading& reading, const Moment& moment, Size full, Size shown, int coarse,
                          double now, double rate);

/// A step between contour lines, in seconds: 1, 2 or 5 times a power of ten, or a frame at least; about six lines over
/// such a range.
double contourStep(double range, double frame);

}  // namespace molten

#pragma once
// What the Picture is given to draw beside its image.

#include <QString>
#include <array>
#include <optional>
#include <string>
#include <vector>

#include "core/field/field_shape.h"

namespace molten {

/// Something of the selected stage to take hold of, as it is drawn.
struct Handle {
  std::size_t index = 0;                     ///< among the stage's handles, or of a key on its path
  std::string label;                         ///< the moment: `now`, `−1.000 s`; or a name
  Place place;                               ///< fractions of the picture
  std::optional<double> share;               ///< −1 (all the reach back) … 1 (all ahead): its colour; none: neutral
  std::optional<std::size_t> anchor;         ///< index of the handle from which Shift holds it to straight ways
  std::optional<std::size_t> pathParameter;  ///< it is a key of this parameter, small, without a tag
  friend bool operator==(const Handle&, const Handle&) = default;
};

/// A line on the picture, its colour going from one moment's to another's.
struct ShownLine {
  std::vector<Place> points;
  std::optional<double> from, to;  ///< as a handle's share; none: neutral
  friend bool operator==(const ShownLine&, const ShownLine&) = default;
};

/// Where something begins or ends: a straight line over the whole picture.
struct Guide {
  Place from, to;  ///< fractions of the picture
  friend bool operator==(const Guide&, const Guide&) = default;
};

/// A moment that is written on the picture.
struct PictureLabel {
  Place place;
  QString words;
};

/// The selected stage's frame: what it shows of the picture that enters it, drawn on a small one in the corner.
struct ShownFrame {
  std::array<Place, 4> corners;  ///< from the top left one on, clockwise; fractions of what enters
  double aspect = 1;             ///< width over height of what enters
  friend bool operator==(const ShownFrame&, const ShownFrame&) = default;
};

/// How the picture is compared with another one.
enum class Comparing { Off, Wipe, SideBySide, Difference };

/// What the left button does on the picture, off the handles.
enum class PictureTool { Look, Pick, Paint };

struct PictureState {
  QString title;          ///< `Picture · 00:00:04:12`
  QString message;        ///< a sentence instead of a picture, or beside it
  QString corner;         ///< a remark at the lower edge
  bool bypassed = false;  ///< the footage is shown without the chain
  std::vector<Handle> handles;
  std::vector<ShownLine> lines;
  std::vector<Guide> guides;
  PictureTool tool = PictureTool::Look;
  double brush = 0;            ///< radius in picture heights, while painting
  std::optional<ShownFrame> frame;
  std::optional<Place> marks;  ///< the column (x) and the row (y) that Down and Across show
  std::optional<Place> ring;   ///< what another view points at
  bool field = false;          ///< the field is laid over it
  QString pointed;             ///< about the pixel under the pointer
  Comparing comparing = Comparing::Off;
  QString otherName;  ///< what it is compared with
  friend bool operator==(const PictureState&, const PictureState&) = default;
};

}  // namespace molten

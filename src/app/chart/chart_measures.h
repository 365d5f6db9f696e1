#pragma once
// Measures of the chart's drawing, in pixels of the widget.

namespace molten::chart {

inline constexpr double gutterWidth = 96, pictureWidth = 46, pictureHeight = 26, rulerHeight = 22, topMargin = 5, bottomMargin = 4;
inline constexpr double markRadius = 5, hatchHeight = 8;
/// Above and below the clip: room for what is said about reads outside of it.
inline constexpr double edgeRoom = 20;
/// A lower chart has no small pictures.
inline constexpr double leastForPictures = 130;
/// From this width of a picture on it is drawn as the step that it is.
inline constexpr double stepWidth = 6;
inline constexpr double leastOffset = 13;  ///< of a glide's handles from their mark

}  // namespace molten::chart

#pragma once
// How the time of a video runs beside that of its footage, as far as values that move may go by it.

#include <functional>
#include <memory>

namespace molten {

/// Positions are in pictures of the video's rate. For several threads.
struct Course {
  /// Seconds of the footage in a second: 1 as it was shot, 0 standing still, negative backwards. What is shown in steps
  /// runs as what is stepped.
  std::function<double(double position)> speedAt;
  /// A number for each picture that is held: the same for two positions at which it is the same one. None: nothing is
  /// held.
  std::function<double(double position)> pictureAt;
};

/// The course of what reads `incoming` (nullptr: as it was shot) at readAt(position).
struct CourseStep {
  std::function<double(double position)> readAt;
  std::function<double(double position)> speedAt = nullptr;  ///< of that reading; none: 1
  bool holds = false;                                        ///< it reads in steps
};
std::shared_ptr<const Course> courseAfter(std::shared_ptr<const Course> incoming, CourseStep step);

}  // namespace molten

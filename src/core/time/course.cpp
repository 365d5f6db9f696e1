#include "core/time/course.h"

namespace molten {

std::shared_ptr<const Course> courseAfter(std::shared_ptr<const Course> incoming, CourseStep step) {
  auto course = std::make_shared<Course>();
  course->speedAt = [incoming, step](double position) {
    const double own = step.speedAt ? step.speedAt(position) : 1;
    return incoming ? own * incoming->speedAt(step.readAt(position)) : own;
  };
  const bool below = incoming && incoming->pictureAt;
  if (step.holds || below)
    course->pictureAt = [incoming, step, below](double position) {
      const double read = step.readAt(position);
      return below ? incoming->pictureAt(read) : read;
    };
  return course;
}

}  // namespace molten

#include "core/opencv_threads.h"

#include <opencv2/core/utility.hpp>

namespace molten {

void keepOpenCvOnOneThread() {
  static const bool done = [] {
    cv::setNumThreads(1);
    return true;
  }();
  static_cast<void>(done);
}

}  // namespace molten

#pragma once
// OpenCV's threads, which are the process's.

namespace molten {

/// OpenCV works on the caller's thread alone from here on: its own threads would cut pictures up by their number, and
/// change results. Whoever calls what it does to pictures asks for this first; it is done once.
void keepOpenCvOnOneThread();

}  // namespace molten

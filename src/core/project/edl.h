#pragma once
// A reel as an edit list in the CMX 3600 form: events with reels, timecodes, dissolves (D) and speeds (M2), and notes that name
// files. Timecodes are counted without dropping any.

#include <string>
#include <vector>

#include "core/project/cut_list.h"

namespace molten {

/// Timecodes are in the list's rate, rounded up to a whole number. What such a list cannot say is said in `lost`.
std::string edlText(const CutList& list, std::vector<std::string>& lost);
/// `rate`: of the list, which its text does not say. `folder`: relative paths begin there. Fails with a sentence that names the
/// line.
Result<CutList> parseEdl(const std::string& text, Rational rate, const std::string& folder, std::vector<std::string>& lost);

}  // namespace molten

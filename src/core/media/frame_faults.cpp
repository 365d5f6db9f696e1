#include "core/media/frame_faults.h"

#include <algorithm>

namespace molten {

void FrameFaults::note(std::int32_t frame, FrameFault fault) {
  const std::scoped_lock lock(mutex_);
  // The graver one counts.
  const auto [at, fresh] = faults_.emplace(frame, fault);
  if (!fresh) at->second = std::max(at->second, fault);
}

bool FrameFaults::empty() const {
  const std::scoped_lock lock(mutex_);
  return faults_.empty();
}

std::size_t FrameFaults::count() const {
  const std::scoped_lock lock(mutex_);
  return faults_.size();
}

std::vector<std::int32_t> FrameFaults::frames(FrameFault fault) const {
  const std::scoped_lock lock(mutex_);
  std::vector<std::int32_t> found;
  for (const auto& [frame, what] : faults_)
    if (what == fault) found.push_back(frame);
  return found;
}

std::vector<std::int32_t> FrameFaults::frames() const {
  const std::scoped_lock lock(mutex_);
  std::vector<std::int32_t> found;
  for (const auto& [frame, what] : faults_) found.push_back(frame);
  return found;
}

std::vector<std::string> FrameFaults::sentences(const std::string& name) const {
  std::vector<std::string> all;
  const auto say = [&](FrameFault fault, const char* one, const char* many, const char* then) {
    const auto found = frames(fault);
    if (found.empty()) return;
    const bool single = found.size() == 1;
    all.push_back((single ? "Frame " + framesText(found) : std::to_string(found.size()) + " frames") + " of " + name +
                  (single ? one : many) + (single ? "" : " (" + framesText(found) + ")") + then);
  };
  say(FrameFault::Damaged, " is damaged", " are damaged", ": what could be saved of it is shown.");
  say(FrameFault::Missing, " is missing", " are missing", ": the nearest one that there is stands in.");
  say(FrameFault::Changed, " was read after its file had changed", " were read after their file had changed",
      ": open the footage anew.");
  return all;
}

std::string framesText(const std::vector<std::int32_t>& rising) {
  constexpr std::size_t mostRuns = 4;
  std::string text;
  std::size_t runs = 0, told = 0;
  for (std::size_t i = 0; i < rising.size() && runs < mostRuns; ++runs) {
    std::size_t end = i + 1;
    while (end < rising.size() && rising[end] == rising[end - 1] + 1) ++end;
    text += (text.empty() ? "" : ", ") + std::to_string(rising[i]);
    if (end - i > 1) text += "-" + std::to_string(rising[end - 1]);
    told += end - i;
    i = end;
  }
  if (told < rising.size()) text += " and " + std::to_string(rising.size() - told) + " more";
  return text;
}

}  // namespace molten

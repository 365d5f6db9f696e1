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

std::string FrameFaults::sentence(FrameFault fault, const std::string& name) const {
  const auto found = frames(fault);
  if (found.empty()) return {};
  const bool one = found.size() == 1;
  const std::string what =
      one ? "Frame " + framesText(found) + " of " + name
          : std::to_string(found.size()) + " frames of " + name + " (" + framesText(found) + ")";
  switch (fault) {
    case FrameFault::Damaged:
      return what + (one ? " is" : " are") + " damaged: what could be saved is shown.";
    case FrameFault::Missing:
      return what + (one ? " is" : " are") + " missing: the nearest one that there is stands in.";
    case FrameFault::Changed:
      break;
  }
  return what + (one ? " was read after its file" : " were read after their file") +
         " had changed: open the footage anew.";
}

std::vector<std::string> FrameFaults::sentences(const std::string& name) const {
  std::vector<std::string> all;
  for (const FrameFault fault : {FrameFault::Damaged, FrameFault::Missing, FrameFault::Changed})
    if (std::string words = sentence(fault, name); !words.empty()) all.push_back(std::move(words));
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

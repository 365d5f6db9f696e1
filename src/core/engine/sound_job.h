#pragma once
// The sound of a project on its way into a file: beside pictures, or alone.

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/engine/heard.h"
#include "core/engine/render_job.h"

namespace molten {

/// What is heard of a render; none where nothing is, or nothing is to be. Fails with a sentence if a laid sound is to be heard and
/// cannot be read.
/// `describe`: what shots after the first give.
Result<std::optional<Heard>> heardIn(const RenderSettings& settings, const Played& played, const DescribeSource& describe,
                             const std::shared_ptr<MemoryBudget>& budget);

/// Sound that goes as far as pictures do.
class SoundWriting {
 public:
  SoundWriting(std::shared_ptr<const SoundSource> mix, std::int64_t firstPicture, Rational rate)
      : mix_(std::move(mix)), rate_(rate), first_(firstPicture), at_(samplesBefore(firstPicture, rate)) {}
  /// What lasts until the end of the k-th picture, and has not been given yet.
  Result<Sound> upTo(std::int64_t k, std::stop_token stop);

 private:
  std::shared_ptr<const SoundSource> mix_;
  Rational rate_;
  std::int64_t first_, at_;
};

/// A sentence about how loud it has become; empty: it is silent.
std::string loudnessOf(const SoundTrack& track);
/// One about sound that was cut where it was too loud; empty: none was.
std::string tooLoud(const SoundTrack& track);

/// True of .wav and .flac.
bool holdsSoundAlone(const std::string& path);
/// The sound of in to out alone. Progress is told in pictures. On failure or when stopped nothing is left behind.
struct SoundRendered {
  std::vector<std::string> notes;     ///< sentences about how loud it is
  std::vector<std::string> findings;  ///< about what was amiss
};
Result<SoundRendered> renderSound(const RenderSettings& settings,
                                             const std::function<void(const RenderProgress&)>& progress, std::stop_token stop);

}  // namespace molten

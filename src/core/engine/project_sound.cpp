#include "core/engine/project_sound.h"

#include <algorithm>

#include "core/engine/heard.h"
#include "core/engine/project_footage.h"
#include "core/engine/source_material.h"
#include "core/project/files_behind.h"
#include "core/project/project_file.h"

namespace molten {
namespace {

class MixReading : public SoundReading {
 public:
  /// So many samples of a mix, from number `first` on.
  MixReading(std::shared_ptr<const SoundSource> mix, std::int64_t first, std::int64_t length)
      : mix_(std::move(mix)), first_(first), description_{soundRate, soundChannels, "", length} {}
  const SoundDescription& description() const override { return description_; }
  std::optional<std::int64_t> end() const override { return description_.length; }
  Status read(std::int64_t first, Sound& out, std::stop_token stop) override {
    if (auto read = mix_->read(first_ + first, out, std::move(stop)); !read) return read;
    const auto count = static_cast<std::int64_t>(out.samples());
    const auto silent = [&](std::int64_t from, std::int64_t to) {
      from = std::clamp<std::int64_t>(from - first, 0, count), to = std::clamp<std::int64_t>(to - first, from, count);
      std::fill(out.values().begin() + from * soundChannels, out.values().begin() + to * soundChannels, 0.0f);
    };
    silent(first, 0);
    silent(description_.length, first + count);
    return {};
  }

 private:
  std::shared_ptr<const SoundSource> mix_;
  std::int64_t first_;
  SoundDescription description_;
};

}  // namespace

Result<std::shared_ptr<SoundFeed>> openProjectSound(const std::string& path, const std::shared_ptr<MemoryBudget>& budget, Outline outline) {
  if (const auto files = filesBehind(path); !files) return files.error();
  const auto project = loadProject(path);
  if (!project) return project.error();
  const auto footage = openSource(project->source.path, {project->source.rate}, {}, {});
  if (!footage) return footage.error();
  SourceMaterial material(std::make_shared<Sources>(*footage, budget, 1), 1);
  const DescribeSource describe = describedBy(material);
  const VideoDescription video = (*footage)->video(project->source.between);
  const auto played = playedOf(*project, video, describe);
  if (!played) return played.error();
  SoundFiles files(budget, Outline::No);
  const Heard heard = heardOf(*project, *played, readingsOf(*project, *played, video, describe), files);
  if (heard.own.empty() && heard.laid.empty()) return Error{fileName(path) + " has no sound."};
  const Span span = spanOf(*project, played->piece.length);
  const std::int64_t first = samplesBefore(span.first, played->piece.rate), length = samplesBefore(span.last + 1, played->piece.rate) - first;
  return SoundFeed::of(path, [mix = heard.mix, first, length]() -> Result<std::unique_ptr<SoundReading>> {
    return std::unique_ptr<SoundReading>(new MixReading(mix, first, length));
  }, budget, outline);
}

}  // namespace molten

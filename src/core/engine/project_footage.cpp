#include "core/engine/project_footage.h"

#include "core/engine/evaluator.h"
#include "core/engine/kept_result.h"
#include "core/engine/source_material.h"
#include "core/picture/blank.h"
#include "core/project/files_behind.h"
#include "core/project/project_file.h"

namespace molten {
namespace {

/// What all readers of a project's result hold of the footage under it. In bytes.
constexpr std::size_t readerBytes = std::size_t(256) << 20;

/// What readers are made of.
struct MadeOf {
  std::shared_ptr<Sources> sources;           ///< over what the first of its stages reads
  std::shared_ptr<const SourceVideo> result;
};

class ResultReader : public FrameReader {
 public:
  ResultReader(std::shared_ptr<const MadeOf> of, int threads)
      : of_(std::move(of)),
        evaluator_(of_->sources, threads),
        plan_(evaluator_.plan(of_->result->stages, settingsOf(*of_->result), nullptr, of_->result)) {}
  const PictureShape& shape() const { return plan_.shape(); }

  Result<Picture> read(std::int32_t n, const FrameSink& sink, std::stop_token stop) override {
    auto picture = evaluator_.picture(plan_, Moment{n}, std::move(stop));
    if (picture && sink) sink(n, *picture);
    return picture;
  }
  bool staysFor(std::int32_t) const override { return true; }
  std::int32_t distanceTo(std::int32_t) const override { return 1; }

 private:
  static PlanSettings settingsOf(const SourceVideo& result) { return {1, result.video.between, result.made.rate, result.sounds}; }

  std::shared_ptr<const MadeOf> of_;
  Evaluator evaluator_;
  PicturePlan plan_;
};

std::shared_ptr<const Footage> footageMade(const std::shared_ptr<const MadeOf>& made, Footage::MadeFrom from) {
  const VideoDescription& video = made->result->made;
  const ResultReader looked(made, 1);
  return Footage::made(std::move(from), looked.shape(), video.rate, video.pictures().floor(), [made](int threads) -> Result<std::unique_ptr<FrameReader>> {
    return std::unique_ptr<FrameReader>(new ResultReader(made, threads));
  });
}

std::shared_ptr<Sources> sourcesOver(const std::shared_ptr<const Footage>& footage) {
  return std::make_shared<Sources>(footage, std::make_shared<MemoryBudget>(readerBytes), 1, readerBytes / 2);
}

}  // namespace

Result<std::shared_ptr<const Footage>> makeSource(const std::string& path, std::stop_token stop) {
  auto files = filesBehind(path);
  if (!files) return files.error();
  auto project = loadProject(path);
  if (!project) return project.error();
  if (project->source.path.empty()) return Error{fileName(path) + " has no footage. Open it and choose some."};
  auto under = openSource(project->source.path, {project->source.rate}, {}, stop);
  if (!under) return under.error();
  const auto sources = sourcesOver(*under);
  auto result = SourceMaterial(sources, 1, stop).made(path);
  if (!result) return result.error();
  files->push_back(keptNameOf(*files));
  return footageMade(std::make_shared<const MadeOf>(MadeOf{sources, *result}), {path, std::move(*files)});
}

Result<std::shared_ptr<const Footage>> rowAsFootage(const Project& reel, const std::string& name, std::stop_token stop) {
  Project row = reel;
  row.reelChain.clear();
  if (!row.place.from) row.place.from = 0;  // a row also of one shot
  // Nothing of what lies under it is seen.
  auto under = Footage::open(blankPath({}), {}, {}, stop);
  if (!under) return under.error();
  const auto sources = sourcesOver(*under);
  std::optional<Error> trouble;
  auto result = SourceMaterial(sources, 1, stop).made(row, trouble);
  if (!result) return result.error();
  return footageMade(std::make_shared<const MadeOf>(MadeOf{sources, *result}), {name, {}});
}

Result<std::shared_ptr<const Footage>> openSource(const std::string& path, const FootageOptions& options, const FootageProgress& progress,
                                                  std::stop_token stop) {
  if (!namesProject(path)) return Footage::open(path, options, progress, std::move(stop));
  if (const auto kept = currentKept(path)) {
    auto files = filesBehind(path);
    auto footage = Footage::open(*kept, {}, progress, stop);
    if (files && footage) {
      files->push_back(*kept);
      return Footage::made({path, std::move(*files), *kept}, (*footage)->shape(), (*footage)->clock().rate(), (*footage)->clock().frameCount(),
                           [kept = *footage](int threads) { return kept->newReader(threads); });
    }
  }
  return makeSource(path, std::move(stop));
}

}  // namespace molten

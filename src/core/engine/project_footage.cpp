#include "core/engine/project_footage.h"

#include <algorithm>
#include <filesystem>

#include "core/engine/evaluator.h"
#include "core/engine/source_material.h"
#include "core/project/project_file.h"

namespace molten {
namespace {

/// What a reader of a project's result holds of the footage under it. In bytes.
constexpr std::size_t readerBytes = std::size_t(128) << 20;
/// Projects in projects, at most so deep.
constexpr std::size_t deepest = 8;

/// What a reader is made of.
struct MadeOf {
  Project project;
  std::shared_ptr<const Footage> first;
  Played played;
  Span span;
  PlanSettings wish;
};

class ResultReader : public FrameReader {
 public:
  ResultReader(std::shared_ptr<const MadeOf> of, int threads)
      : of_(std::move(of)),
        evaluator_(std::make_shared<Sources>(of_->first, std::make_shared<MemoryBudget>(readerBytes), threads, readerBytes / 2), threads),
        plan_(evaluator_.plan(of_->played.chain, of_->wish)) {}
  const PictureShape& shape() const { return plan_.shape(); }

  Result<Picture> read(std::int32_t n, const FrameSink& sink, std::stop_token stop) override {
    auto picture = evaluator_.picture(plan_, of_->played.piece.moment(of_->span.first + n), std::move(stop));
    if (picture && sink) sink(n, *picture);
    return picture;
  }
  bool staysFor(std::int32_t) const override { return true; }
  std::int32_t distanceTo(std::int32_t) const override { return 1; }

 private:
  std::shared_ptr<const MadeOf> of_;
  Evaluator evaluator_;
  PicturePlan plan_;
};

Result<std::shared_ptr<const Footage>> openWithin(const std::string& path, const FootageOptions& options, const FootageProgress& progress,
                                                          std::vector<std::string> inside, std::stop_token stop) {
  if (!namesProject(path)) return Footage::open(path, options, progress, std::move(stop));
  std::error_code none;
  const std::string whole = std::filesystem::weakly_canonical(path, none).string();
  if (std::count(inside.begin(), inside.end(), whole) || inside.size() >= deepest)
    return Error{fileName(path) + " contains itself, or lies too deep in other projects. Choose another source in one of them."};
  inside.push_back(whole);
  auto project = loadProject(path);
  if (!project) return project.error();
  if (project->source.path.empty()) return Error{fileName(path) + " has no footage. Open it and choose some."};
  auto first = openWithin(project->source.path, {project->source.rate}, {}, inside, stop);
  if (!first) return first.error();
  // What its shots are made of must not lead back to it either.
  for (std::size_t i = 1; i < shotCount(*project); ++i)
    if (const std::string& other = sourceOf(*project, i).path; namesProject(other))
      if (auto opened = openWithin(other, {}, {}, inside, stop); !opened) return opened.error();
  const VideoDescription video = (*first)->video(project->source.between);
  SourceMaterial material(std::make_shared<Sources>(*first, std::make_shared<MemoryBudget>(readerBytes), 1), 1, stop);
  std::optional<Error> trouble;
  auto played = playedOf(*project, video, describedBy(material), &trouble);
  if (!played) return played.error();
  if (trouble) return *trouble;
  auto made = std::make_shared<MadeOf>();
  made->span = spanOf(*project, played->piece.length);
  made->wish = {1, project->source.between, played->piece.rate, followedSounds(*project)};
  made->first = *first;
  made->played = std::move(*played);
  made->project = std::move(*project);
  const ResultReader looked(made, 1);
  if (progress.indexed) progress.indexed(1);
  return Footage::made(path, looked.shape(), made->played.piece.rate, made->span.count(),
                       [made](int threads) -> Result<std::unique_ptr<FrameReader>> { return std::unique_ptr<FrameReader>(new ResultReader(made, threads)); });
}

}  // namespace

bool namesProject(const std::string& path) {
  return std::filesystem::path(path).extension() == ".molten";
}

Result<std::shared_ptr<const Footage>> openSource(const std::string& path, const FootageOptions& options, const FootageProgress& progress,
                                                  std::stop_token stop) {
  return openWithin(path, options, progress, {}, std::move(stop));
}

}  // namespace molten

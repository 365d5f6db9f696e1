#pragma once
// What stages are made of besides numbers, read from a project's sources.

#include <atomic>
#include <list>
#include <map>
#include <mutex>
#include <optional>
#include <stop_token>

#include "core/engine/flow_field.h"
#include "core/engine/picture_plan.h"
#include "core/engine/sources.h"
#include "core/project/played.h"
#include "core/stages/material.h"

namespace molten {

class Evaluator;

/// Reads on the thread that asks, one at a time. Keeps what it has read of late.
class SourceMaterial {
 public:
  /// After a stop what is asked for is not there, for whoever is to be stopped as well.
  SourceMaterial(std::shared_ptr<Sources> sources, int threads, std::stop_token stop = {},
                Urgency urgency = Urgency::Shown);
  ~SourceMaterial();

  using Gray = std::shared_ptr<const GrayPicture>;
  Gray ofFile(const std::string& path, const FileMoment& at, Measured what);
  /// Of a source (nullptr: the footage), looked at as the pictures are wanted that it is for.
  Gray ofVideo(const Chain& upstream, const Moment& moment, Measured what, const PlanSettings& settings,
               const std::shared_ptr<const SourceVideo>& source);
  /// `inside`: the projects that ask for it, from the outermost on; none of them may come again.
  std::shared_ptr<const SourceVideo> source(const SourceUse& use, InBetween between, SourceStays stays,
                                            const std::vector<std::string>& inside);
  /// Likewise, or why it cannot be had.
  Result<std::shared_ptr<const SourceVideo>> described(const SourceUse& use, InBetween between);
  /// What makes the result of a project, of its footage.
  Result<std::shared_ptr<const SourceVideo>> made(const std::string& path);
  /// The same of one whose first shot has the footage that this is of, or of a reel. `trouble`: of the first shot that cannot be shown.
  Result<std::shared_ptr<const SourceVideo>> made(const Project& project, std::optional<Error>& trouble);
  /// True once something was made of pictures of a video itself, since that was forgotten.
  bool looksAtVideo() const { return looksAtVideo_; }
  void forgetLooking() { looksAtVideo_ = false; }
  std::size_t mostKept() const;
  std::shared_ptr<const TitleOnPicture> title(const TitleLook& look, int scale);
  /// Of a source (nullptr: the footage), or of a sound that is laid.
  std::shared_ptr<const LoudnessCourse> loudness(const Follow::Listening& listening, const FollowedSounds& sounds,
                                                 const std::shared_ptr<const SourceVideo>& source);
  VideoDescription footage(InBetween between) const { return sources_->footage()->video(between); }

  /// Why a file that these stages are to read cannot be had: a sentence for the user.
  std::optional<Error> troubleWith(const Chain& stages) const;
  /// Sentences about what was amiss with files besides the footage.
  std::vector<std::string> findings() const { return sources_->findings(); }

 private:
  struct Kept {
    std::string what;
    Gray gray;
  };
  /// How a project is read: on through its stages, or its result, picture by picture.
  enum class Reading { Stages, Pictures };
  /// A source that was asked for.
  struct Asked {
    SourceUse use;
    InBetween between;
    Reading reading;
    std::filesystem::file_time_type written;
    std::shared_ptr<FrameFeed> feed;  ///< held, so that it stays open; nullptr: it need not
    std::shared_ptr<const SourceVideo> source;
  };

  struct Title {
    TitleLook look;
    int scale;
    std::shared_ptr<const TitleOnPicture> title;
  };

  Result<Picture> read(FrameFeed& feed, std::int32_t frame);
  Status fill(SourceVideo& source, const std::shared_ptr<const Footage>& footage, const Project* project, InBetween between,
              const std::vector<std::string>& inside, std::optional<Error>& trouble);
  Result<Asked> open(const SourceUse& use, InBetween between, const std::vector<std::string>& inside, Reading reading);
  Result<std::shared_ptr<const SourceVideo>> known(const SourceUse& use, InBetween between, SourceStays stays,
                                                   const std::vector<std::string>& inside);
  std::optional<Error> troubleIn(const Chain& stages) const;
  GrayPicture motion(const Picture& before, const Picture& now, double rate);
  Gray find(const std::string& what);
  /// Counts in the budget for as long as anybody holds it.
  Gray keep(const std::string& what, GrayPicture gray);

  const std::shared_ptr<Sources> sources_;
  const int threads_;
  const std::stop_token stop_;
  const Urgency urgency_;
  std::atomic<bool> looksAtVideo_ = false;
  mutable std::mutex mutex_;
  std::map<std::string, std::shared_ptr<FrameFeed>> files_;  ///< that fields are made of, by path
  std::list<Asked> asked_;                                   ///< the newest first
  std::list<Title> titles_;                                  ///< likewise
  std::map<std::string, Error> failed_;                      ///< by path
  std::list<Kept> kept_;                                     ///< the newest first
  std::unique_ptr<Evaluator> evaluator_;
  std::unique_ptr<PicturePlan> plan_;
  Chain planned_;
  std::unique_ptr<FlowFinder> finder_;
};

/// What a project's shots give, as it knows it.
inline DescribeSource describedBy(SourceMaterial& material) {
  return [&material](const Source& shot) -> Result<VideoDescription> {
    auto source = material.described({shot.path, shot.rate}, shot.between);
    if (!source) return source.error();
    return (*source)->made;
  };
}

/// The same for a chain over one source, which is read as for pictures with these settings.
class MaterialAt : public Material {
 public:
  MaterialAt(std::shared_ptr<SourceMaterial> material, const PlanSettings& settings,
             std::shared_ptr<const SourceVideo> source = {}, std::vector<std::string> inside = {})
      : material_(std::move(material)), settings_(settings), source_(std::move(source)), inside_(std::move(inside)) {}
  std::shared_ptr<const GrayPicture> ofFile(const std::string& path, const FileMoment& at, Measured what) override {
    return material_->ofFile(path, at, what);
  }
  std::shared_ptr<const GrayPicture> ofVideo(const Chain& upstream, const Moment& moment, Measured what) override {
    return material_->ofVideo(upstream, moment, what, settings_, source_);
  }
  std::shared_ptr<const SourceVideo> source(const SourceUse& use, InBetween between, SourceStays stays) override {
    return material_->source(use, between, stays, inside_);
  }
  std::shared_ptr<Material> over(const std::shared_ptr<const SourceVideo>& source,
                                 const std::optional<FollowedSounds>& sounds) override {
    PlanSettings settings = settings_;
    settings.between = source->video.between;
    if (sounds) settings.sounds = *sounds;
    // Stages of a project that is read go by its own sounds.
    if (!source->project.empty()) settings.sounds = source->sounds;
    std::vector<std::string> inside = inside_;
    if (!source->project.empty()) inside.push_back(source->project);
    return std::make_shared<MaterialAt>(material_, settings, source, std::move(inside));
  }
  std::shared_ptr<const TitleOnPicture> title(const TitleLook& look, int scale) override { return material_->title(look, scale); }
  VideoDescription footage() const override { return source_ ? source_->video : material_->footage(settings_.between); }
  std::shared_ptr<const LoudnessCourse> loudness(const Follow::Listening& listening) override {
    return material_->loudness(listening, settings_.sounds, source_);
  }
  std::size_t mostKept() const override { return material_->mostKept(); }

 private:
  std::shared_ptr<SourceMaterial> material_;
  PlanSettings settings_;
  std::shared_ptr<const SourceVideo> source_;  ///< nullptr: the footage
  std::vector<std::string> inside_;
};

}  // namespace molten

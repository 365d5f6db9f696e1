#pragma once
// Files and footage read as fields.

#include <filesystem>
#include <list>
#include <map>
#include <mutex>
#include <optional>
#include <stop_token>

#include "core/engine/flow_field.h"
#include "core/memory_budget.h"
#include "core/engine/picture_plan.h"
#include "core/media/footage.h"
#include "core/stages/material.h"

namespace molten {

class Evaluator;

/// Reads on the thread that asks, one at a time. Keeps what it has read of late.
class FieldMaterial : public Material {
 public:
  /// After a stop what is asked for is not there, for whoever is to be stopped as well.
  FieldMaterial(std::shared_ptr<const Footage> footage, std::shared_ptr<MemoryBudget> budget, int threads,
                std::stop_token stop = {});
  ~FieldMaterial() override;

  std::shared_ptr<const GrayPicture> ofFile(const std::string& path, const FileMoment& at, Measured what) override;
  std::shared_ptr<const GrayPicture> ofVideo(const Chain& upstream, const Moment& moment, Measured what) override {
    return ofVideo(upstream, moment, what, {});
  }
  /// Looked at as the pictures are wanted that it is for.
  std::shared_ptr<const GrayPicture> ofVideo(const Chain& upstream, const Moment& moment, Measured what,
                                             const PlanSettings& settings);

  std::size_t mostKept() const override;

  /// Why a file that these stages are to read cannot be had: a sentence for the user.
  std::optional<Error> troubleWith(const Chain& stages) const;
  /// Sentences about what was amiss with files that fields were made of.
  std::vector<std::string> findings() const;

 private:
  using Gray = std::shared_ptr<const GrayPicture>;
  struct File {
    std::shared_ptr<const Footage> footage;
    std::unique_ptr<FrameReader> reader;
    std::filesystem::file_time_type written;  ///< of a single file: another time means another picture
  };
  struct Kept {
    std::string what;
    Gray gray;
  };

  Result<File*> open(const std::string& path);
  GrayPicture motion(const Picture& before, const Picture& now, double rate);
  Gray find(const std::string& what);
  /// Counts in the budget for as long as anybody holds it.
  Gray keep(const std::string& what, GrayPicture gray);

  std::shared_ptr<const Footage> footage_;
  const std::shared_ptr<MemoryBudget> budget_;
  const int threads_;
  const std::stop_token stop_;
  mutable std::mutex mutex_;
  std::map<std::string, File> files_;
  std::map<std::string, Error> failed_;  ///< by path
  std::list<Kept> kept_;                 ///< the newest first
  std::unique_ptr<Evaluator> evaluator_;
  std::unique_ptr<PicturePlan> plan_;
  Chain planned_;
  std::unique_ptr<FlowFinder> finder_;
};

/// The same material, the shot being read as for pictures with these settings.
class MaterialAt : public Material {
 public:
  MaterialAt(std::shared_ptr<FieldMaterial> material, const PlanSettings& settings)
      : material_(std::move(material)), settings_(settings) {}
  std::shared_ptr<const GrayPicture> ofFile(const std::string& path, const FileMoment& at, Measured what) override {
    return material_->ofFile(path, at, what);
  }
  std::shared_ptr<const GrayPicture> ofVideo(const Chain& upstream, const Moment& moment, Measured what) override {
    return material_->ofVideo(upstream, moment, what, settings_);
  }
  std::size_t mostKept() const override { return material_->mostKept(); }

 private:
  std::shared_ptr<FieldMaterial> material_;
  PlanSettings settings_;
};

}  // namespace molten

#pragma once
// A render's pictures on their way into a writer: decoded, assembled and encoded at the same time.

#include <functional>
#include <memory>
#include <new>
#include <optional>
#include <stop_token>

#include "core/engine/picture_plan.h"
#include "core/engine/render_job.h"
#include "core/engine/sound_job.h"
#include "core/engine/source_material.h"
#include "core/project/played.h"

namespace molten {

/// What is rendered, and from what.
struct RenderWork {
  std::shared_ptr<MemoryBudget> budget;
  std::shared_ptr<Sources> sources;
  std::shared_ptr<SourceMaterial> material;
  Played played;
  PlanSettings wish;
};

PlanFootage planFootageOf(const Footage& footage);
/// Of a reel what its shots give is to be known (`looks`); a chain says it without being read.
PicturePlan planOf(const RenderSettings& settings, const RenderWork& work, bool looks);

/// Pictures, and the sound that goes along with them, on their way into a writer.
struct Delivery {
  PictureWriter& writer;
  Span pictures;  ///< numbers in the result
  std::optional<SoundWriting> sounds;
  TimeMapMaker* maker;  ///< nullptr: pictures
};

/// `spec`: of the pictures that are written.
Status deliver(const RenderSettings& settings, const RenderWork& work, const OutputSpec& spec, Delivery to,
               const std::function<void(const RenderProgress&)>& progress, const std::stop_token& stop);

}  // namespace molten

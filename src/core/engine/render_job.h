#pragma once
// A chain over footage, written to a file.

#include <functional>
#include <memory>
#include <stop_token>
#include <string>
#include <vector>

#include "core/engine/time_map_file.h"
#include "core/media/picture_writer.h"
#include "core/project/project.h"

namespace molten {

class Footage;

/// What becomes of the sound.
enum class SoundWish {
  Mix,   ///< what is heard of the project, where there is something
  Copy,  ///< the footage's as it lies in its file, whatever becomes of its time
  None   ///< the pictures alone
};

struct RenderSettings {
  std::shared_ptr<const Footage> footage;
  Project project;               ///< chain, in and out, output
  std::optional<Span> pictures;  ///< of the result at its own rate; none: all of in to out
  std::size_t memoryBytes = std::size_t(1) << 30;
  int threads = 2;
  /// Instead of the pictures, how far from now their pixels read; a file beside them says the scale.
  std::optional<TimeMapUnit> timeMap = std::nullopt;
  /// What is open besides: what it reads is not written over either.
  std::optional<Project> open = std::nullopt;
  /// How many files may be replaced; none: any number.
  std::optional<std::int64_t> mayReplace = std::nullopt;
  SoundWish sound = SoundWish::Mix;
};

struct RenderProgress {
  std::int64_t done = 0, total = 0;   ///< pictures
  std::optional<double> secondsLeft = std::nullopt;  ///< see TimeLeft
  /// All pictures are rendered, and the file is put together or gone through once more: so much of that is done, 0…1. Then it is
  /// known how long that takes.
  std::optional<double> finishing = std::nullopt;
  bool over() const { return finishing ? *finishing >= 1 : done == total; }
};

/// What a render will write, without rendering: also finds out early what cannot be done.
struct RenderOutline {
  OutputSpec spec;
  OutputPlan plan;
  Span pictures;  ///< numbers of the pictures written, counted from in, at the result's rate
  std::vector<std::string> findings;  ///< after a render: sentences about footage that was damaged, missing, changed
  std::int64_t replaced = 0;  ///< files of their names that are there already
  std::string firstReplaced, lastReplaced;  ///< their names, without folders; empty where there are none
};
Result<RenderOutline> outlineRender(const RenderSettings& settings, std::stop_token stop = {});

/// Decoding, assembling and encoding go on at the same time. On failure or when stopped nothing is left behind. To a .wav or
/// .flac the sound alone is written (see sound_job.h). Returns what was written.
Result<RenderOutline> render(const RenderSettings& settings, const std::function<void(const RenderProgress&)>& progress,
                             std::stop_token stop);

/// A stretch of a render in pieces: numbers of its first and last picture, counted from the first of the result.
using PieceSpan = Span;

/// What a run of pieces is written to.
struct PieceRun {
  std::vector<PieceSpan> spans;  ///< one after another, each beginning at a multiple of the plan's closed group
  std::function<std::string(const PieceSpan&)> path;  ///< where a piece goes, under that name once it is whole
  std::string key;  ///< what they are pieces of
};
/// The pictures of some neighbouring pieces, without sound. Pieces that are whole stay when it fails or is stopped. Gives back findings.
Result<std::vector<std::string>> renderPieces(const RenderSettings& settings, const PieceRun& run,
                                              const std::function<void(const RenderProgress&)>& progress, std::stop_token stop);
/// All pieces of a render put together, with its sound: to the byte what render() writes.
Result<RenderOutline> joinPieces(const RenderSettings& settings, const PieceRun& run,
                                 const std::function<void(const RenderProgress&)>& progress, std::stop_token stop);

/// A quarter of the machine's memory, at most 4 GB: the budget where none is named. In bytes.
std::size_t usualBudget();

}  // namespace molten

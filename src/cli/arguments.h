#pragma once
// The words of a molten-render call.

#include <optional>
#include <string>
#include <vector>

#include "core/engine/piece_folder.h"
#include "core/engine/render_job.h"
#include "core/engine/time_map_file.h"
#include "core/project/project.h"
#include "core/result.h"

namespace molten {

enum class ProgressKind { Bar, Json, None };

struct Arguments {
  std::string input;
  std::vector<std::string> stages;       ///< as written: their units need the footage's rate
  std::vector<std::string> assignments;  ///< STAGE.param=value
  std::string shot;                      ///< whose those are: its number from 1, `all`: after the last cut; empty: the first's
  std::vector<std::string> sounds;       ///< laid on the result, as written
  SoundWish sound = SoundWish::Mix;
  std::string output;
  std::string each;  ///< a folder: each clip of it in place of the footage
  std::optional<Span> frames;
  std::optional<Size> size;
  std::optional<Rational> rate;
  std::optional<std::string> length;  ///< as written: its unit may need the result's rate
  std::optional<Rational> footageRate;
  std::optional<InBetween> between;
  std::string codec;
  int quality = -1;
  std::size_t memoryBytes;
  bool memoryNamed = false;
  int threads;
  ProgressKind progress;
  std::optional<TimeMapUnit> timeMap;  ///< instead of pictures
  bool withoutMissing = false;         ///< stages and sounds whose files are missing are left out
  bool noOverwrite = false;            ///< a result that is there already is a failure
  bool strict = false;                 ///< footage that was not whole makes a failure
  bool describe = false;
  std::string pieces;            ///< a folder for the pieces of a render
  std::optional<Share> piece;    ///< which of them are made here
  std::string join;              ///< a folder whose pieces are put together
  bool clearPieces = false;      ///< afterwards they go
  bool queue = false;            ///< with an input: it is put into the list of renders; alone: what waits there is rendered
  bool slurm = false, wait = false;
  int shares = 0;                ///< of a render on many machines; 0: as many as seem right
  std::vector<std::string> slurmOptions;  ///< for sbatch, as written
  bool keep = false, clearKept = false;  ///< of a project that others read
  bool listStages = false;
  std::string stageToList;
  bool json = false;
  bool schema = false;
};

/// The arguments, or the exit code of a call that ends here (help, or words that are off: then it has been said).
struct ParsedCall {
  std::optional<Arguments> arguments;
  int exitCode = 0;
};
ParsedCall parseCall(int argc, char** argv);

/// `512MB`, `2G`, `1.5GiB`: bytes (powers of 1000 and 1024 as written; a bare letter means 1024).
std::optional<std::size_t> parseBytes(const std::string& text);

/// Applies `STAGE.param=value`, STAGE an id (with a number from 0 if there are several: time-field#1), or one of the chain of
/// another's own source: insert/pace.
Status assign(Project& project, const std::string& assignment, Rational rate);

}  // namespace molten

#pragma once
// What is heard of a project: the shots' own sounds along their time, and the sounds that are laid on the piece.

#include <filesystem>
#include <list>
#include <memory>
#include <mutex>
#include <stop_token>
#include <string>
#include <vector>

#include "core/engine/sound_feed.h"
#include "core/project/played.h"
#include "core/sound/sound_curve.h"
#include "core/sound/sound_mix.h"

namespace molten {

/// The sounds that a project reads, each opened once. Thread-safe; what is asked for and not open yet is opened on the thread
/// that asks.
class SoundFiles {
 public:
  explicit SoundFiles(std::shared_ptr<MemoryBudget> budget, Outline outline = Outline::Yes)
      : budget_(std::move(budget)), outline_(outline) {}
  /// Opened anew if the file has changed, even if it could not be read before.
  Result<std::shared_ptr<SoundFeed>> open(const std::string& path);
  const std::shared_ptr<MemoryBudget>& budget() const { return budget_; }

 private:
  struct Open {
    std::string path;
    std::vector<std::string> files;  ///< that it depends on
    std::filesystem::file_time_type written;
    Result<std::shared_ptr<SoundFeed>> feed;
  };
  std::shared_ptr<MemoryBudget> budget_;
  Outline outline_;
  std::mutex mutex_;
  std::list<Open> open_;  ///< the newest first
};

/// Immutable. Samples are counted from the first picture of the piece.
struct Heard {
  /// A shot's own sound.
  struct Own {
    std::size_t shot = 0;
    std::shared_ptr<SoundFeed> feed;
    std::shared_ptr<const SoundCurve> curve;  ///< that it follows, of the piece; nothing where another shot is seen
  };
  struct Laid {
    Stage stage;
    std::shared_ptr<SoundFeed> feed;  ///< nullptr: its file cannot be read
    PlacedSound placed;
  };
  std::vector<Own> own;                     ///< of the shots that have one, in their order
  std::vector<Laid> laid;
  std::int64_t samples = 0;                 ///< as long as the pictures
  std::shared_ptr<const SoundSource> mix;   ///< of all that is not muted
  std::vector<std::string> findings;        ///< sentences about what cannot be read
  std::optional<Error> missing;             ///< of a laid sound that is to be heard and cannot be read: what is heard lacks it
};
/// `readings`: of each shot's chain over its source, by its number; nullptr: it is silent. Works as long as it takes to open
/// files. A stopped one lacks sounds.
Heard heardOf(const Project& project, const Played& played, const std::vector<std::shared_ptr<const ChainReading>>& readings,
              SoundFiles& files, const std::stop_token& stop = {});
/// The same of a project that is no reel.
Heard heardOf(const Project& project, std::shared_ptr<const ChainReading> reading, const Piece& piece, SoundFiles& files,
              const std::stop_token& stop = {});

/// A laid sound in a piece of so many samples. `followed`: by which its gain goes; none: nothing that it follows is known.
PlacedSound placedSound(const Stage& laid, const std::shared_ptr<SoundFeed>& feed, std::int64_t samples,
                        const std::shared_ptr<const Followed>& followed = nullptr);

/// Sentences about what cannot be read, and what was amiss with what has been read so far.
std::vector<std::string> findingsOf(const Heard& heard);

/// Samples from the beginning of a piece to that of a picture.
std::int64_t samplesBefore(std::int64_t picture, Rational rate);

}  // namespace molten

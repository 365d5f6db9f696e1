#include "core/engine/loudness_courses.h"

#include <algorithm>
#include <filesystem>

#include "core/picture/blank.h"
#include "core/stages/laid_sound.h"

namespace molten {
namespace {

constexpr std::size_t coursesKept = 32;
/// A loop without a length goes on for as long as anything may ask.
constexpr std::int64_t asLongAsAny = std::int64_t(soundRate) * 86400 * 2;

}  // namespace

template <class Make>
LoudnessCourses::Course LoudnessCourses::known(const std::shared_ptr<SoundFeed>& feed, const std::optional<Stage>& laid,
                                               const Band& band, Make make) {
  const std::scoped_lock lock(mutex_);
  const auto at = std::find_if(known_.begin(), known_.end(), [&](const Known& one) {
    return one.feed == feed && one.band == band && one.laid == laid;
  });
  if (at != known_.end())
    known_.splice(known_.begin(), known_, at);
  else
    known_.push_front({feed, laid, band, std::make_shared<const LoudnessCourse>(make(), band)});
  if (known_.size() > coursesKept) known_.pop_back();
  return known_.front().course;
}

void LoudnessCourses::miss(const std::string& sentence) {
  const std::scoped_lock lock(mutex_);
  if (std::find(missed_.begin(), missed_.end(), sentence) == missed_.end()) missed_.push_back(sentence);
}

std::vector<std::string> LoudnessCourses::findings() const {
  const std::scoped_lock lock(mutex_);
  return missed_;
}

LoudnessCourses::Course LoudnessCourses::own(const std::string& path, const Band& band) {
  // Stills and blanks have no sound to look for.
  const bool may = !path.empty() && !namesBlank(path) && std::filesystem::is_regular_file(path);
  const auto feed = may ? files_.open(path) : Result<std::shared_ptr<SoundFeed>>(Error{});
  if (!feed) {
    miss("The footage has no sound: a value that follows it stays as it is. Let it follow a laid one.");
    return nullptr;
  }
  return known(*feed, std::nullopt, band, [&]() -> std::shared_ptr<const SoundSource> { return *feed; });
}

LoudnessCourses::Course LoudnessCourses::laid(const Stage& sound, const Band& band) {
  const auto feed = files_.open(laidSound(sound).file);
  if (!feed) {
    miss(feed.error().message);
    return nullptr;
  }
  return known(*feed, sound, band, [&]() -> std::shared_ptr<const SoundSource> {
    return std::make_shared<const SoundMix>(std::vector{placedSound(sound, *feed, asLongAsAny)});
  });
}

}  // namespace molten

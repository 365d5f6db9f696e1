#include "core/project/played.h"

#include <algorithm>

#include "core/stages/laid_sound.h"
#include "core/stages/pace.h"

namespace molten {
namespace {

/// How long a shot is taken to be that cannot be had.
constexpr int unknownSeconds = 1;

/// The laid sounds on a time that begins so many seconds earlier than the reel's.
FollowedSounds soundsLater(const Project& project, const Rational& by, const Chain& chain) {
  if (!anyFollows(chain, Follow::What::Loudness)) return {};
  Chain sounds = project.sounds;
  for (Stage& sound : sounds) {
    LaidSound laid = laidSound(sound);
    laid.at += by.toDouble();
    sound = withLaidSound(sound, laid);
  }
  return FollowedSounds(sounds);
}

/// Stages whose time begins later: their keys come so much earlier on it.
Chain keysEarlier(Chain chain, const Rational& by) {
  for (Stage& stage : chain)
    for (auto& [parameter, track] : stage.keys)
      for (Key& key : track) key.at = key.at - by;
  return chain;
}

}  // namespace

Chain chainOfRow(const Project& project, const std::shared_ptr<const ShotRow>& row) {
  Chain chain{shotRow(row)};
  if (!project.stopsAtCuts) {
    chain.insert(chain.end(), project.reelChain.begin(), project.reelChain.end());
    return chain;
  }
  // Each shot is a row of its own, with those stages after it, before they come together.
  auto all = std::make_shared<ShotRow>(*row);
  for (RowShot& shot : all->shots) {
    auto alone = std::make_shared<ShotRow>(*row);
    alone->shots = {shot};
    alone->shots[0].begin = alone->shots[0].comes = 0;
    const Chain after = keysEarlier(project.reelChain, shot.begin);
    shot.chain = {shotRow(std::move(alone))};
    shot.chain.insert(shot.chain.end(), after.begin(), after.end());
    shot.from = 0;
    shot.sounds = soundsLater(project, Rational(0) - shot.begin, after);
  }
  chain[0] = shotRow(std::move(all));
  return chain;
}

bool isReel(const Project& project) {
  return !project.more.empty() || project.place.from || project.place.to || !project.reelChain.empty();
}

Result<Played> playedOf(const Project& project, const std::optional<VideoDescription>& first, const DescribeSource& describe,
                        std::optional<Error>* trouble) {
  Played played;
  if (!isReel(project)) {
    played.chain = project.chain;
    const auto only = first ? Result<VideoDescription>(*first) : describe(project.source);
    if (!only) return only.error();
    played.piece = pieceOf(project, *only);
    return played;
  }
  std::vector<VideoDescription> videos;
  std::vector<ShotLength> lengths;
  std::vector<bool> known;
  std::optional<std::size_t> shown;  // the first shot that is on and known
  bool any = false;
  for (std::size_t i = 0; i < shotCount(project); ++i) {
    const Shot shot = shotOf(project, i);
    auto source = i == 0 && first ? Result<VideoDescription>(*first) : describe(shot.source);
    known.push_back(static_cast<bool>(source));
    any |= shot.place.on;
    if (shot.place.on && source && !shown) shown = i;
    if (source) {
      videos.push_back(videoAt(shot.chain, shot.chain.size(), *source));
      const VideoDescription& leaving = videos.back();
      lengths.push_back({leaving.seconds(), leaving.endless, nullptr});
      if (leaving.course && leaving.course->speedAt)
        lengths.back().speedAt = [course = leaving.course, rate = leaving.rate.toDouble()](double seconds) { return course->speedAt(seconds * rate); };
      continue;
    }
    if (trouble && !*trouble) *trouble = source.error();
    videos.push_back(VideoDescription{{1280, 720}});
    lengths.push_back({shot.place.to.value_or(shot.place.from.value_or(0) + Rational(unknownSeconds)), false, nullptr});
  }
  if (!any) return Error{"All shots of the reel are off: there is nothing to show. Switch one on."};
  const VideoDescription& shape = videos[shown.value_or(0)];
  auto row = std::make_shared<ShotRow>();
  row->size = project.output.size.value_or(shape.size);
  row->pixelAspect = project.output.size ? Rational(1) : shape.pixelAspect;
  row->between = sourceOf(project, shown.value_or(0)).between;
  row->rate = project.output.rate.value_or(shape.rate);
  played.times = shotTimes(project, lengths, row->rate);
  for (std::size_t k = 0; k < played.times.size(); ++k) {
    const ShotTime& time = played.times[k];
    const Shot shot = shotOf(project, time.shot);
    const SourceUse use = known[time.shot] ? SourceUse{shot.source.path, shot.source.rate} : SourceUse{};
    const bool linear = k > 0 && shotOf(project, played.times[k - 1].shot).place.cut.linearLight;
    row->shots.push_back({{use, shot.source.between}, chainInRow(shot.chain, time), time.begin, time.length,
                          time.course ? Rational(0) : time.from, time.comes, linear, shot.place.fills, soundsLater(project, time.from - time.begin, shot.chain)});
  }
  played.row = row;
  played.chain = chainOfRow(project, row);
  played.piece = pieceOf(played.chain, project.output, shape);
  return played;
}

Chain chainInRow(const Chain& chain, const ShotTime& time) {
  if (!time.course) return chain;
  Chain whole = chain;
  whole.push_back(runningBy(time.course->from().toDouble(), time.course->spans()));
  return whole;
}

std::vector<std::shared_ptr<const ChainReading>> readingsOf(const Project& project, const Played& played, const std::optional<VideoDescription>& first,
                                                            const DescribeSource& describe) {
  std::vector<std::shared_ptr<const ChainReading>> readings;
  for (std::size_t i = 0; i < shotCount(project); ++i) {
    const auto source = i == 0 && first ? Result<VideoDescription>(*first) : describe(sourceOf(project, i));
    const auto time = std::find_if(played.times.begin(), played.times.end(), [&](const ShotTime& one) { return one.shot == i; });
    const Chain chain = shotOf(project, i).chain;
    readings.push_back(source ? std::make_shared<const ChainReading>(time == played.times.end() ? chain : chainInRow(chain, *time), *source) : nullptr);
  }
  return readings;
}

}  // namespace molten

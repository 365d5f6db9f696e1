#include "app/session/reel_reading.h"

#include <algorithm>

#include "core/engine/project_footage.h"
#include "core/parallel.h"

namespace molten {
namespace {

/// Footage that is opened before what was found is told.
constexpr std::size_t atATime = 6;

SourceUse useOf(const Source& source) {
  return {source.path, source.rate};
}

}  // namespace

ReelReading::ReelReading(QObject* parent)
    : QObject(parent),
      opened_(
          [](const std::vector<SourceUse>& wanted, std::stop_token stop) {
            std::vector<std::optional<Known>> made(wanted.size());
            parallelRows(static_cast<int>(wanted.size()), 1, [&](int from, int to) {
              for (int i = from; i < to; ++i) {
                const SourceUse& use = wanted[static_cast<std::size_t>(i)];
                made[static_cast<std::size_t>(i)] = Known{use, openSource(use.path, {use.rate}, {}, stop)};
              }
            });
            std::vector<Known> all;
            for (auto& one : made) all.push_back(std::move(*one));
            return all;
          },
          [this](const std::vector<Known>& found) {
            lookedFor_.clear();
            for (const Known& one : found) {
              if (!one.footage && one.footage.error().cancelled) continue;
              known_.push_back(one);
              if (!one.footage) emit failed(QString::fromStdString(one.footage.error().message));
            }
            emit this->found();
          }) {}

ReelReading::~ReelReading() = default;

const ReelReading::Known* ReelReading::find(const Source& source) const {
  const SourceUse use = useOf(source);
  const auto at = std::find_if(known_.begin(), known_.end(), [&](const Known& one) { return one.use == use; });
  return at == known_.end() ? nullptr : &*at;
}

void ReelReading::forget() {
  opened_.forget();
  lookedFor_.clear();
  known_.clear();
  played_.reset();
}

void ReelReading::forget(const std::string& file) {
  std::erase_if(known_, [&](const Known& one) {
    return !one.footage || std::count((*one.footage)->madeFrom().begin(), (*one.footage)->madeFrom().end(), file) > 0;
  });
}

void ReelReading::know(const Source& source, const std::shared_ptr<const Footage>& footage) {
  expected_.clear();
  std::erase_if(known_, [&](const Known& one) { return one.use == useOf(source); });
  known_.push_back({useOf(source), footage});
}

std::shared_ptr<const Footage> ReelReading::footageOf(const Source& source) const {
  const Known* const known = find(source);
  return known && known->footage ? *known->footage : nullptr;
}

std::string ReelReading::troubleWith(const Source& source) const {
  const Known* const known = find(source);
  return known && !known->footage ? known->footage.error().message : std::string();
}

std::vector<std::pair<SourceUse, std::shared_ptr<const Footage>>> ReelReading::open() const {
  std::vector<std::pair<SourceUse, std::shared_ptr<const Footage>>> all;
  for (const Known& one : known_)
    if (one.footage) all.emplace_back(one.use, *one.footage);
  return all;
}

DescribeSource ReelReading::describer() const {
  return [known = known_](const Source& source) -> Result<VideoDescription> {
    for (const Known& one : known)
      if (one.use == useOf(source)) return one.footage ? Result<VideoDescription>((*one.footage)->video(source.between)) : one.footage.error();
    return Error{"It is not known yet."};
  };
}

void ReelReading::read(const Project& whole) {
  whole_ = whole;
  played_.reset();
  lengths_.clear();
  if (!isReel(whole)) return;
  const DescribeSource describe = describer();
  if (auto played = playedOf(whole, std::nullopt, describe)) played_ = std::move(*played);
  for (std::size_t i = 0; i < shotCount(whole); ++i) {
    const Shot shot = shotOf(whole, i);
    const auto source = describe(shot.source);
    lengths_.push_back(source ? videoAt(shot.chain, shot.chain.size(), *source).seconds() : Rational(1));
  }
  look();
}

bool ReelReading::isComplete() const {
  for (std::size_t i = 0; i < shotCount(whole_); ++i)
    if (const Source& source = sourceOf(whole_, i); !source.path.empty() && !find(source)) return false;
  return true;
}

/// Asks for what is not known, from the first shot on.
void ReelReading::look() {
  std::vector<SourceUse> wanted;
  for (std::size_t i = 0; i < shotCount(whole_) && wanted.size() < atATime; ++i) {
    const Source& source = sourceOf(whole_, i);
    if (!source.path.empty() && source.path != expected_ && !find(source) && !std::count(wanted.begin(), wanted.end(), useOf(source))) wanted.push_back(useOf(source));
  }
  if (wanted.empty() || wanted == lookedFor_) return;
  // What is being opened is waited for.
  if (!lookedFor_.empty()) return;
  lookedFor_ = wanted;
  opened_.ask(std::move(wanted));
}

const ShotTime* ReelReading::timeOf(std::size_t shot) const {
  if (!played_) return nullptr;
  const auto at = std::find_if(played_->times.begin(), played_->times.end(), [&](const ShotTime& time) { return time.shot == shot; });
  return at == played_->times.end() ? nullptr : &*at;
}

}  // namespace molten

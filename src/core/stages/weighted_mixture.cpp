#include "core/stages/weighted_mixture.h"

#include <algorithm>
#include <tuple>

namespace molten {
namespace {

/// From so many pictures of one weight on they are summed up in whole numbers: fewer are mixed sooner than a sum is
/// kept.
constexpr std::size_t fewest = 20;

bool isEarlier(const MixSource& a, const MixSource& b) {
  return std::tie(a.way, a.moment) < std::tie(b.way, b.moment);
}

/// What of `from` is not among `without`, both in order.
std::vector<MixSource> lacking(const std::vector<MixSource>& from, const std::vector<MixSource>& without) {
  std::vector<MixSource> left;
  std::set_difference(from.begin(), from.end(), without.begin(), without.end(), std::back_inserter(left), isEarlier);
  return left;
}

class Combined : public Mixture {
 public:
  Combined(WeightedSources what, const MixShapes& shapes)
      : sources_(std::move(what.sources)), accumulator_(shapes.in, shapes.out, what.recipe, std::move(what.weights)) {}
  const std::vector<MixSource>& sources() const override { return sources_; }
  const KeptLight* keptForm() const override { return accumulator_.keptForm() ? &*accumulator_.keptForm() : nullptr; }
  void add(std::size_t first, std::span<const Picture> pictures) override { accumulator_.add(first, pictures); }
  Picture finish() override { return accumulator_.finish(); }

 private:
  std::vector<MixSource> sources_;
  Accumulator accumulator_;
};

/// Of which only what moves is mixed. The background is looked for first, in a few of the moments, the present among
/// them.
class Moving : public Mixture {
 public:
  Moving(WeightedSources what, const MixShapes& shapes)
      : all_(what.sources),
        present_(what.present),
        accumulator_(shapes.in, shapes.out, what.recipe, std::move(what.weights)) {
    sources_.push_back(all_[present_]);
    const std::size_t step = (all_.size() + mostLookedAt - 1) / mostLookedAt;
    for (std::size_t i = 0; i < all_.size(); i += step)
      if (i != present_) sources_.push_back(all_[i]);
    looked_.resize(sources_.size());
    sources_.insert(sources_.end(), all_.begin(), all_.end());
  }
  const std::vector<MixSource>& sources() const override { return sources_; }
  void add(std::size_t first, std::span<const Picture> pictures) override {
    std::size_t i = 0;
    for (; i < pictures.size() && first + i < looked_.size(); ++i) looked_[first + i] = pictures[i];
    if (first < looked_.size() && first + i == looked_.size()) {
      accumulator_.keepTo({looked_[0], medianOf(looked_), present_});
      looked_.clear(), looked_.resize(sources_.size() - all_.size());
    }
    if (i < pictures.size()) accumulator_.add(first + i - looked_.size(), pictures.subspan(i));
  }
  Picture finish() override { return accumulator_.finish(); }

 private:
  static constexpr std::size_t mostLookedAt = 12;
  std::vector<MixSource> all_, sources_;
  std::size_t present_;
  std::vector<Picture> looked_;
  Accumulator accumulator_;
};

/// One picture with a weight of its own, and many with another.
class Summed : public Mixture {
 public:
  Summed(WeightedSources what, const MixShapes& shapes, RunningSums& running)
      : running_(running), hold_(what.recipe.brightnessOf.has_value()) {
    lead_ = what.weights[0], weight_ = what.weights[1];
    if (what.recipe.blend == BlendMode::Mean) {
      float all = 0;
      for (const float w : what.weights) all += w;
      lead_ /= all, weight_ /= all;
    }
    sources_.push_back(what.sources[0]);
    std::vector<MixSource> wanted(what.sources.begin() + 1, what.sources.end());
    std::sort(wanted.begin(), wanted.end(), isEarlier);
    if (auto kept = running.take(wanted, shapes.in)) {
      const auto in = lacking(wanted, kept->sources), out = lacking(kept->sources, wanted);
      sum_.emplace(std::move(*kept));
      coming_ = in.size();
      sources_.insert(sources_.end(), in.begin(), in.end());
      sources_.insert(sources_.end(), out.begin(), out.end());
    } else {
      sum_.emplace(RunningSums::Kept{{}, EqualSum(shapes.in)});
      coming_ = wanted.size();
      sources_.insert(sources_.end(), wanted.begin(), wanted.end());
    }
    sum_->sources = std::move(wanted);
  }
  const std::vector<MixSource>& sources() const override { return sources_; }
  void add(std::size_t first, std::span<const Picture> pictures) override {
    for (std::size_t i = 0; i < pictures.size();) {
      const std::size_t at = first + i;
      if (at == 0) {
        leading_ = pictures[i++];
        continue;
      }
      // All that come in, or all that go out.
      const std::size_t end = at <= coming_ ? std::min(first + pictures.size(), coming_ + 1) : first + pictures.size();
      sum_->sum.add(pictures.subspan(i, end - at), at <= coming_ ? 1 : -1);
      i += end - at;
    }
  }
  Picture finish() override {
    Picture made = sum_->sum.mixed(weight_, &leading_, lead_, hold_ ? &leading_ : nullptr);
    running_.give(std::move(*sum_));
    return made;
  }

 private:
  RunningSums& running_;
  bool hold_;
  float lead_ = 0, weight_ = 0;
  std::vector<MixSource> sources_;
  std::size_t coming_ = 0;
  Picture leading_;
  std::optional<RunningSums::Kept> sum_;
};

/// One picture leads; all others weigh the same, and are added up.
bool areSummed(const WeightedSources& what, const MixShapes& shapes) {
  const MixRecipe& recipe = what.recipe;
  const bool addsUp = recipe.blend == BlendMode::Sum || recipe.blend == BlendMode::Mean;
  const bool display = recipe.light == Light::Display || shapes.in.colour.transfer == AVCOL_TRC_LINEAR;
  return addsUp && display && shapes.in == shapes.out && EqualSum::holds(shapes.in) && what.weights.size() > fewest &&
         what.present == 0 && what.weights[1] > 0 &&
         std::all_of(what.weights.begin() + 1, what.weights.end(), [&](float w) { return w == what.weights[1]; });
}

}  // namespace

std::optional<RunningSums::Kept> RunningSums::take(const std::vector<MixSource>& wanted, const PictureShape& shape) {
  const std::scoped_lock lock(mutex_);
  auto best = kept_.end();
  std::size_t least = wanted.size();
  for (auto at = kept_.begin(); at != kept_.end(); ++at) {
    if (!(at->sum.shape() == shape)) continue;
    const std::size_t changes = lacking(wanted, at->sources).size() + lacking(at->sources, wanted).size();
    if (changes < least) best = at, least = changes;
  }
  if (best == kept_.end()) return std::nullopt;
  Kept taken = std::move(*best);
  kept_.erase(best);
  return taken;
}

void RunningSums::give(Kept kept) {
  const std::scoped_lock lock(mutex_);
  kept_.push_front(std::move(kept));
  std::size_t bytes = 0;
  for (std::size_t i = 0; i < kept_.size(); ++i) {
    bytes += kept_[i].sum.bytes();
    if (i < mostKept && (bytes <= mostBytes || i == 0)) continue;
    kept_.erase(kept_.begin() + static_cast<std::ptrdiff_t>(i), kept_.end());
    break;
  }
}

std::unique_ptr<Mixture> weightedMixture(WeightedSources what, const MixShapes& shapes, RunningSums& running) {
  if (what.onlyWhatMoves && what.sources.size() > 2) return std::make_unique<Moving>(std::move(what), shapes);
  if (areSummed(what, shapes)) return std::make_unique<Summed>(std::move(what), shapes, running);
  return std::make_unique<Combined>(std::move(what), shapes);
}

}  // namespace molten

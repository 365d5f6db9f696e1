#include "core/engine/seam.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <map>

#include "core/engine/evaluator.h"

namespace molten {
namespace {

constexpr int smallWidth = 96, smallHeight = 54;
/// Pictures on either side of an end that a loop is looked for in, at most.
constexpr std::int64_t farthest = 45;

/// Brightness of a picture as a small grid of means, 0…1.
using Grid = std::vector<float>;

Grid gridOf(const Picture& picture) {
  const PictureFormat& format = picture.shape().format;
  const int width = picture.planeWidth(0), height = picture.planeHeight(0);
  const int across = std::min(smallWidth, width), down = std::min(smallHeight, height);
  Grid grid(static_cast<std::size_t>(across * down));
  std::vector<int> counts(grid.size());
  const double scale = format.floating ? 1 : 1.0 / ((1 << format.bits) - 1);
  // Red, green and blue weigh as in brightness; everything else has it in its first plane.
  const bool rgb = format.model == ColourModel::Rgb;
  const double weights[] = {rgb ? 0.7152 : 1, 0.0722, 0.2126};
  for (int p = 0; p < (rgb ? 3 : 1); ++p)
    for (int y = 0; y < height; ++y) {
      const std::uint8_t* const row = picture.row(p, y);
      for (int x = 0; x < width; ++x) {
        double value;
        if (format.floating) {
          float sample;
          std::memcpy(&sample, row + x * 4, 4);
          value = static_cast<double>(sample);
        } else if (format.bytesPerSample() == 2) {
          std::uint16_t sample;
          std::memcpy(&sample, row + x * 2, 2);
          value = sample;
        } else {
          value = row[x];
        }
        const auto at = static_cast<std::size_t>(y * down / height * across + x * across / width);
        grid[at] += static_cast<float>(value * scale * weights[p]);
        if (p == 0) ++counts[at];
      }
    }
  for (std::size_t i = 0; i < grid.size(); ++i) grid[i] /= static_cast<float>(std::max(1, counts[i]));
  return grid;
}

double difference(const Grid& a, const Grid& b) {
  double sum = 0;
  for (std::size_t i = 0; i < a.size(); ++i) sum += std::abs(static_cast<double>(a[i]) - static_cast<double>(b[i]));
  return sum / static_cast<double>(a.size());
}

/// Grids of a chain's pictures, made once each.
class Grids {
 public:
  Grids(const MeasuredFootage& from, const Chain& chain)
      : evaluator_(from.sources, 1, Urgency::Background),
        plan_(evaluator_.plan(chain, {scaleOf(from.footage()->shape().size), from.between})) {}

  std::int64_t length() const { return plan_.length(); }
  Result<const Grid*> at(std::int64_t picture, std::stop_token stop) {
    const auto known = grids_.find(picture);
    if (known != grids_.end()) return &known->second;
    auto made = evaluator_.picture(plan_, {picture}, stop);
    if (!made) return made.error();
    return &grids_.emplace(picture, gridOf(*made)).first->second;
  }

 private:
  static int scaleOf(Size size) {
    int scale = 1;
    while (scale < 8 && size.width / (scale * 2) >= smallWidth) scale *= 2;
    return scale;
  }
  Evaluator evaluator_;
  PicturePlan plan_;
  std::map<std::int64_t, Grid> grids_;
};

}  // namespace

double Seam::times() const {
  // Differences that no eye sees are none.
  constexpr double unseen = 1e-4;
  return across <= unseen ? std::min(1.0, across / unseen) : across / std::max(neighbours, unseen);
}

Result<Seam> measureSeam(const MeasuredFootage& from, const Chain& chain, std::stop_token stop) {
  Grids grids(from, chain);
  const std::int64_t last = grids.length() - 1;
  if (last < 3) return Error{"A loop of fewer than four pictures has no seam to be measured."};
  const Grid* pictures[4];
  const std::int64_t numbers[] = {last - 1, last, 0, 1};
  for (std::size_t i = 0; i < 4; ++i) {
    auto grid = grids.at(numbers[i], stop);
    if (!grid) return grid.error();
    pictures[i] = *grid;
  }
  return Seam{difference(*pictures[1], *pictures[2]),
              (difference(*pictures[0], *pictures[1]) + difference(*pictures[2], *pictures[3])) / 2};
}

Result<std::optional<double>> measureContrast(const MeasuredFootage& from, const Chain& chain, std::stop_token stop) {
  const auto other = chain.back().kind->contrast(chain.back());
  if (!other) return std::optional<double>();
  Chain beyond = chain;
  beyond.back() = *other;
  Grids own(from, chain), theirs(from, beyond);
  double sum = 0;
  for (const std::int64_t quarter : {1, 2, 3}) {
    const std::int64_t picture = (own.length() - 1) * quarter / 4;
    auto a = own.at(picture, stop);
    if (!a) return a.error();
    auto b = theirs.at(picture, stop);
    if (!b) return b.error();
    sum += difference(**a, **b) / 3;
  }
  return std::optional(sum);
}

Result<FoundLoop> findLoop(const MeasuredFootage& from, const Chain& chain, std::size_t stage, std::stop_token stop) {
  const Chain below(chain.begin(), chain.begin() + static_cast<std::ptrdiff_t>(stage));
  const VideoDescription in = videoAt(below, below.size(), from.footage()->video());
  const auto turned = chain[stage].kind->round(chain[stage].values, in);
  if (!turned) return Error{"This stage makes no loop."};
  const Round now = *turned;
  Grids grids(from, below);
  const std::int64_t reach = std::min(farthest, now.count() / 4);
  std::optional<Error> failed;
  const auto at = [&](std::int64_t picture) -> const Grid* {
    auto grid = grids.at(std::clamp<std::int64_t>(picture, 0, in.length - 1), stop);
    if (grid) return *grid;
    failed = grid.error();
    return nullptr;
  };
  const auto closing = [&](std::int64_t first, std::int64_t last) {
    const Grid *a = at(last + 1), *b = at(first), *c = at(last), *d = at(first - 1);
    return failed ? 1e9 : (difference(*a, *b) + difference(*c, *d)) / 2;
  };
  // A round needs a picture after it and one before it to be judged by.
  FoundLoop found{now, closing(now.first, now.last), 1e9};
  for (std::int64_t first = std::max<std::int64_t>(1, now.first - reach); first <= now.first + reach && !failed;
       ++first)
    for (std::int64_t last = now.last - reach; last <= std::min(in.length - 2, now.last + reach) && !failed; ++last) {
      if (last - first < 3) continue;
      const double difference = closing(first, last);
      if (difference < found.difference) found.difference = difference, found.round = {first, last};
    }
  if (failed) return *failed;
  if (found.difference > 1e8) return Error{"The clip is too short to look for a loop in."};
  return found;
}

}  // namespace molten

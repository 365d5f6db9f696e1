#include "core/stages/slit_scan.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <memory>
#include <mutex>
#include <tuple>

#include "core/number_text.h"
#include "core/stages/common_parameters.h"
#include "core/stages/direction_handle.h"
#include "core/stages/kept_displacements.h"
#include "core/stages/slit_mixture.h"

namespace molten {
namespace {

enum class Slit { Travels, Stands };
enum class SweepCourse { OneWay, ThereAndBack };
enum class Unpassed { Live, Transparent, LastSweep, Fading };
enum class Shows { Moving, OnePicture };
using When = ParameterDescription::Condition;

struct Parameters {
  ParameterList list;
  ChoiceHandle<Slit> slit = list.choice<Slit>(
      {"slit", "Slit", "Slit", "Where the footage is read."},
      {{Slit::Travels, {"travels", "Travels", "Each place of the frame from its own place in the footage."}},
       {Slit::Stands, {"stands", "Stands still", "All of the frame from one place in the footage, unrolled."}}},
      Slit::Travels);
  ParameterHandle<Place> position = list.place(
      {"position", "Position", "Slit", "Where the slit stands.", false, When{"slit", {"stands"}}}, {0.5, 0.5});
  ParameterHandle<double> angle =
      list.number({"angle", "Angle", "Slit", "Which way the slit goes: 0° to the right, 90° down, 180° to the left."},
                  {Unit::Degrees, -360, 360, 0, 5, 180, 1, Tense::None});
  ParameterHandle<double> slitWidth =
      list.number({"slit-width", "Slit width", "Slit", "So many pixels keep one moment."},
                  {Unit::Pixels, 1, 4096, 1, 1, 40, 0, Tense::None, true});
  ParameterHandle<double> sweep =
      list.number({"sweep", "Sweep", "Sweep", "Time in which the slit crosses the frame; all: as long as the clip."},
                  secondsNumber(0, 86400, 0, 0.1, 20, Tense::None, "all"));
  ChoiceHandle<SweepCourse> course = list.choice<SweepCourse>(
      ParameterWords{"at-the-end", "At the end", "Sweep", "How it goes on at the end."}.formerly("way"),
      {{SweepCourse::OneWay, {"one-way", "One way", "From the beginning again."}},
       {SweepCourse::ThereAndBack, {"there-and-back", "There and back", "The way that it came."}}},
      SweepCourse::OneWay);
  ChoiceHandle<Unpassed> unpassed = list.choice<Unpassed>(
      {"before-the-slit", "Before the slit", "Sweep", "What is shown where the slit has not passed yet.", false,
       When{"result", {"one-picture"}, true}},
      {{Unpassed::Live, {"live", "Live picture", "The present moment."}},
       {Unpassed::Transparent,
        {"transparent", "Transparent", "Nothing: transparent, or black where there is no transparency."}},
       {Unpassed::LastSweep, {"last-sweep", "Last sweep", "What the sweep before has left."}},
       {Unpassed::Fading, {"fading", "Fading trail", "What the slit has left, which fades into the live picture until it comes again."}}},
      Unpassed::Live);
  ChoiceHandle<Shows> result = list.choice<Shows>(
      {"result", "Result", "Picture", "What comes out.", false, When{"slit", {"stands"}}},
      {{Shows::Moving, {"moving", "Moving", "A video in which the slit is on its way."}},
       {Shows::OnePicture, {"one-picture", "One picture", "A still of one whole sweep: a strip photograph."}}},
      Shows::Moving);
  ParameterHandle<double> length = list.number(
      {"picture-length", "Picture length", "Picture",
       "Of the picture along the slit's way; footage: as long as that is wide.", false, When{"slit", {"stands"}}},
      {Unit::Pixels, 0, 65536, 0, 16, 8192, 0, Tense::None, true, "footage"});
};
const Parameters& of() {
  static const Parameters parameters;
  return parameters;
}

/// In pictures of what enters.
double sweepOf(const StageValues& values, const VideoDescription& in) {
  const double own = of().sweep(values) * in.rate.toDouble();
  return own > 0 ? own : static_cast<double>(in.length);
}

bool quarterTurn(const StageValues& values) {
  return std::fmod(of().angle(values), 90) == 0;
}
bool upright(const StageValues& values) {
  return std::fmod(of().angle(values), 180) == 0;
}

VideoDescription scanned(const StageValues& values, const VideoDescription& in) {
  VideoDescription out = in;
  const double rounds =
      static_cast<double>(in.length) / sweepOf(values, in) / (of().course(values) == SweepCourse::ThereAndBack ? 2 : 1);
  out.endless = in.endless && std::abs(rounds - std::round(rounds)) < 1e-9;
  if (of().slit(values) != Slit::Stands) return out;
  if (of().result(values) == Shows::OnePicture) out.setLength(1), out.endless = false;
  const auto length = static_cast<int>(of().length(values));
  if (length > 0 && quarterTurn(values)) (upright(values) ? out.size.width : out.size.height) = length;
  return out;
}

StripLayout blocksOf(const StageValues& values, const VideoDescription& video) {
  StripLayout::Cut cut;
  cut.width = std::max(1.0, of().slitWidth(values));
  cut.degrees = of().angle(values);
  return {cut, video};
}

class SlitScanAt : public Displacement {
 public:
  /// `passed`: when the slit passed a block, if it has. `stretch`: lengths of the blocks over those of the footage.
  template <class Passed>
  SlitScanAt(const StripLayout& blocks, double position, Passed passed, Place stretch)
      : blocks_(blocks), stretch_(stretch) {
    for (int b = 0; b < blocks_.count(); ++b) displaced_.push_back(passed(b).value_or(position) - position);
  }
  void row(const PlaneSites& sites, int row, std::span<double> out) const override {
    if (!blocks_.acrossOnly()) return make(sites, row, out);
    // All rows are alike.
    const std::tuple name(sites.x0, sites.stepX, sites.width);
    std::shared_ptr<const std::vector<double>> known;
    {
      const std::scoped_lock lock(mutex_);
      if (const auto at = rows_.find(name); at != rows_.end()) known = at->second;
    }
    if (!known) {
      auto made = std::make_shared<std::vector<double>>(out.size());
      make(sites, row, *made);
      known = std::move(made);
      const std::scoped_lock lock(mutex_);
      if (rows_.size() < mostRows) rows_.emplace(name, known);
    }
    std::copy(known->begin(), known->end(), out.begin());
  }

 private:
  void make(const PlaneSites& sites, int row, std::span<double> out) const {
    blocks_.stripsOf(sites, row, stretch_, [&](int i, int block) {
      out[static_cast<std::size_t>(i)] = displaced_[static_cast<std::size_t>(block)];
    });
  }

  StripLayout blocks_;
  Place stretch_;
  std::vector<double> displaced_;
  mutable std::mutex mutex_;
  static constexpr std::size_t mostRows = 8;
  mutable std::map<std::tuple<double, double, int>, std::shared_ptr<const std::vector<double>>> rows_;  ///< by their sites
};

class SlitScanMap : public DisplacingMap, public Mixing {
 public:
  SlitScanMap(const StageValues& values, const VideoDescription& in)
      : DisplacingMap(scanned(values, in)),
        values_(values),
        in_(in),
        stands_(of().slit(values) == Slit::Stands),
        sweep_(blocksOf(values, outgoing()), sweepOf(values, in), of().course(values) == SweepCourse::ThereAndBack,
               in.endless) {}

  std::shared_ptr<const Displacement> displacement(const Moment& moment) const override {
    return kept_.find(moment, [&] {
      const double position = moment.pictures();
      return std::make_shared<SlitScanAt>(
          sweep_.blocks(), position, [&](int block) { return passed(block, position); }, stretched());
    });
  }
  bool steady() const override { return false; }
  /// When the slit passes a place has nothing to do with pictures.
  void displaceEach(std::span<const double> positions, const PlaneSites& sites, int row,
                    std::span<double> out) const override {
    const Place stretch = stretched();
    if (sweep_.blocks().acrossOnly() && !sweep_.thereAndBack() && !onePicture()) {
      const auto shares = sharesOf(sites, stretch);
      const bool before = leavesTrail();
      for (std::size_t i = 0; i < out.size(); ++i)
        if (!std::isnan(positions[i])) out[i] = sweep_.passedOneWay((*shares)[i], positions[i], before) - positions[i];
      return;
    }
    const double y = (sites.y0 + row * sites.stepY) * stretch.y;
    for (std::size_t i = 0; i < out.size(); ++i) {
      if (std::isnan(positions[i])) continue;
      const int block = sweep_.blocks().stripAt((sites.x0 + static_cast<double>(i) * sites.stepX) * stretch.x, y);
      out[i] = passed(block, positions[i]).value_or(positions[i]) - positions[i];
    }
  }
  Reach reach() const override {
    const double sweep = sweepOf(values_, in_);
    if (onePicture()) return {0, sweep};
    return {-sweep * (leavesTrail() ? 2 : 1), 0};
  }
  Reach reachAt(const Moment& moment) const override {
    const double sweep = sweepOf(values_, in_), position = moment.pictures();
    if (onePicture()) return {0, sweep_.passing(sweep_.blocks().count() - 1, 0)};
    double begun = std::floor(position / sweep) * sweep;
    if (leavesTrail() && (begun > 0 || in_.endless)) begun -= sweep;
    return {begun - position, 0};
  }
  PastTheEnds pastTheEnds() const override { return PastTheEnds::StandStill; }
  const Mixing* mixing() const override {
    return stands_ || fades() || of().unpassed(values_) == Unpassed::Transparent ? this : nullptr;
  }
  std::vector<MixWay> ways() const override {
    if (fades()) {
      Stage trail = newStage(slitScan());
      trail.values = values_;
      of().unpassed.set(trail.values, Unpassed::LastSweep);
      return {{{trail}}, MixWay{}};
    }
    if (stands_) return {MixWay{}};
    Stage travelling = newStage(slitScan());
    travelling.values = values_;
    of().unpassed.set(travelling.values, Unpassed::Live);
    return {{{travelling}}};
  }
  bool mayBeClear() const override { return of().unpassed(values_) == Unpassed::Transparent && !onePicture(); }
  std::vector<MixSource> sources(const Moment& moment) const override {
    if (fades()) return {{0, moment}, {1, moment}};
    return pictureAt(moment).sources;
  }
  bool sharesSources() const override { return !fades(); }
  std::unique_ptr<Mixture> mixture(const Moment& moment, const MixShapes& shapes) const override {
    if (fades()) {
      std::vector<float> live;
      const double position = moment.pictures(), sweep = sweepOf(values_, in_);
      for (int b = 0; b < sweep_.blocks().count(); ++b) {
        const auto when = passed(b, position);
        live.push_back(when ? static_cast<float>(std::clamp((position - *when) / sweep, 0.0, 1.0)) : 1.0f);
      }
      return fadingTrail(sources(moment), sweep_.blocks(), std::move(live), shapes);
    }
    std::optional<StandingSlit> standing;
    if (stands_) standing = StandingSlit{blocksOf(values_, in_), slitBegin()};
    return slitMixture(pictureAt(moment), sweep_.blocks(), standing, shapes);
  }

 private:
  using Shares = std::shared_ptr<const std::vector<double>>;
  /// When columns are passed, which all rows have alike; kept for the planes that ask.
  Shares sharesOf(const PlaneSites& sites, Place stretch) const {
    const std::tuple name(sites.x0, sites.stepX, sites.width);
    const std::scoped_lock lock(sharesMutex_);
    Shares& known = shares_[name];
    if (!known) {
      auto made = std::make_shared<std::vector<double>>();
      for (int i = 0; i < sites.width; ++i) made->push_back(sweep_.share(sweep_.blocks().stripAt((sites.x0 + i * sites.stepX) * stretch.x, 0)));
      known = std::move(made);
    }
    Shares found = known;
    // Pieces of rows are many; planes are few.
    if (shares_.size() > mostShares) shares_.clear();
    return found;
  }
  bool leavesTrail() const {
    const Unpassed unpassed = of().unpassed(values_);
    return unpassed == Unpassed::LastSweep || unpassed == Unpassed::Fading;
  }
  /// A picture of another size has nothing live that it could fade into.
  bool fades() const { return of().unpassed(values_) == Unpassed::Fading && !onePicture() && outgoing().size == in_.size; }
  bool onePicture() const { return stands_ && of().result(values_) == Shows::OnePicture; }
  Place stretched() const {
    return {static_cast<double>(outgoing().size.width) / in_.size.width,
            static_cast<double>(outgoing().size.height) / in_.size.height};
  }
  /// When the slit passed a block, as the picture at a moment shows it.
  std::optional<double> passed(int block, double position) const {
    if (onePicture()) return sweep_.passing(block, 0);
    return sweep_.passed(block, position, leavesTrail());
  }
  double slitBegin() const {
    const Place at = of().position(values_);
    const StripLayout footage = blocksOf(values_, in_);
    const double u = footage.along(at.x * in_.size.width, at.y * in_.size.height), w = of().slitWidth(values_);
    // On whole pixels.
    return std::floor(std::clamp(u - w / 2, 0.0, std::max(0.0, footage.extent() - w)) + 0.5);
  }
  /// What is read of the footage: the slit, and what is beside it where it slants.
  PixelBox partOfSlit() const {
    const Place way = blocksOf(values_, in_).direction();
    const double w = of().slitWidth(values_), begin = slitBegin(), width = in_.size.width, height = in_.size.height;
    PixelBox part{0, 0, in_.size.width, in_.size.height};
    const auto range = [](double a, double b, double most) {
      return std::pair(static_cast<int>(std::clamp(std::floor(std::min(a, b)) - 2, 0.0, most - 1)),
                       static_cast<int>(std::clamp(std::ceil(std::max(a, b)) + 2, 1.0, most)));
    };
    if (way.y == 0) {
      const double a = way.x > 0 ? begin : width - begin, b = way.x > 0 ? begin + w : width - begin - w;
      std::tie(part.left, part.right) = range(a, b, width);
    } else if (way.x == 0) {
      const double a = way.y > 0 ? begin : height - begin, b = way.y > 0 ? begin + w : height - begin - w;
      std::tie(part.top, part.bottom) = range(a, b, height);
    }
    return part;
  }

  SlitPicture pictureAt(const Moment& moment) const {
    SlitPicture made;
    const double position = moment.pictures();
    const StripLayout& blocks = sweep_.blocks();
    if (!stands_) {
      made.sources.push_back({0, moment});
      made.live = 0;
      for (int b = 0; b < blocks.count(); ++b)
        made.ofBlock.push_back(sweep_.passed(b, position, false) ? 0 : SlitPicture::nothing);
      return made;
    }
    const PixelBox part = partOfSlit();
    // The blocks that show each moment; rising in time.
    std::map<double, std::vector<int>> blocksOfMoment;
    bool live = false;
    made.ofBlock.assign(static_cast<std::size_t>(blocks.count()), SlitPicture::nothing);
    const bool sameSize = outgoing().size == in_.size;
    for (int b = 0; b < blocks.count(); ++b) {
      if (const auto when = passed(b, position))
        blocksOfMoment[*foldPosition(*when, in_.length, in_.endless ? PastTheEnds::GoRound : PastTheEnds::StandStill)]
            .push_back(b);
      else
        live = live || (of().unpassed(values_) != Unpassed::Transparent && sameSize);
    }
    for (const auto& [read, its] : blocksOfMoment) {
      for (const int b : its) made.ofBlock[static_cast<std::size_t>(b)] = static_cast<int>(made.sources.size());
      made.sources.push_back({0, Moment::near(read), part});
    }
    if (live || made.sources.empty()) {
      made.live = static_cast<int>(made.sources.size());
      made.sources.push_back({0, moment});
      for (int& of : made.ofBlock)
        if (of == SlitPicture::nothing && live) of = made.live;
    }
    return made;
  }

  StageValues values_;
  VideoDescription in_;
  bool stands_;
  SlitSweep sweep_;
  mutable KeptDisplacements kept_;
  static constexpr std::size_t mostShares = 64;
  mutable std::mutex sharesMutex_;
  mutable std::map<std::tuple<double, double, int>, Shares> shares_;  ///< by their sites
};

class SlitScan : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "slit-scan",           "Slit Scan", "A slit crosses the frame: each place keeps the moment at which it passed.",
        of().list.described(), {},          {{"Slit", false, 2}, {"Sweep", false, 1}, {"Picture", false, 1}}};
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings&) const override {
    return std::make_unique<SlitScanMap>(stage.values, incoming);
  }

  std::optional<std::string> liveTrouble(const Stage& stage) const override {
    if (of().slit(stage.values) == Slit::Stands && of().result(stage.values) == Shows::OnePicture)
      return "One picture of a whole sweep needs a clip; on a camera let the result be moving, or keep the last seconds as footage.";
    if (of().sweep(stage.values) > 0) return std::nullopt;
    return "A sweep as long as the clip needs its length; a camera has none. Say how long the sweep takes.";
  }

  std::string summary(const StageValues& values, const VideoDescription& in) const override {
    const std::string time = secondsText(sweepOf(values, in) / in.rate.toDouble(), 2);
    if (of().slit(values) == Slit::Travels) return "sweep of " + time;
    const VideoDescription out = scanned(values, in);
    if (of().result(values) == Shows::OnePicture)
      return "a picture of " + std::to_string(out.size.width) + " × " + std::to_string(out.size.height);
    return "unrolled in " + time;
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    const VideoDescription out = scanned(values, in);
    const StripLayout blocks = blocksOf(values, out);
    const double frames = sweepOf(values, in), each = blocks.extent() / frames;
    std::vector<StageNote> found;
    found.push_back({"Sweep", shortText(each, 4) + " px for each of " + fixedText(frames, 0) + " frames of a sweep."});
    if (of().slitWidth(values) > each * 1.5)
      found.push_back({"Slit", "The slit is wider than its way in one frame: some frames are left out."});
    else if (each > of().slitWidth(values) * 1.5 && of().slit(values) == Slit::Stands) {
      found.push_back({"Slit", "Each frame is shown " + shortText(each / of().slitWidth(values), 3) + " times in a row; a slit of " +
                                   fixedText(std::max(1.0, std::round(each)), 0) + " px shows it once."});
    }
    if (of().slit(values) == Slit::Stands) {
      if (of().length(values) > 0 && !quarterTurn(values))
        found.push_back({"Picture", "A slanting slit makes pictures of the footage's size."});
      if (of().result(values) == Shows::OnePicture)
        found.push_back({"Picture", std::to_string(out.size.width) + " × " + std::to_string(out.size.height) +
                                        " pixels: render it to one PNG or TIFF."});
    }
    return found;
  }

  /// Of a slit that travels the way that it goes; of one that stands its place besides, as fractions of the footage.
  std::vector<StageHandle> handles(const StageValues& values, const VideoDescription& in) const override {
    const Place centre = slitPlace(values);
    std::vector<StageHandle> all{{directionPlace(centre, of().angle(values), in.size), {}, "way", {}}};
    if (of().slit(values) == Slit::Stands) all.push_back({centre, {}, "slit", {}});
    return all;
  }
  std::vector<FieldLine> lines(const StageValues& values, const VideoDescription& in) const override {
    const Place centre = slitPlace(values);
    std::vector<FieldLine> all{directionLine(centre, of().angle(values), in.size)};
    if (of().slit(values) == Slit::Stands) all.push_back(crossLine(centre, of().angle(values), in.size));
    return all;
  }
  StageValues withHandle(StageValues values, std::size_t handle, Place place,
                         const VideoDescription& in) const override {
    if (handle == 0)
      of().angle.set(values, directionDegrees(slitPlace(values), place, in.size));
    else
      of().position.set(values, place);
    return values;
  }

 private:
  static Place slitPlace(const StageValues& values) {
    return of().slit(values) == Slit::Stands ? of().position(values) : Place{0.5, 0.5};
  }
};

}  // namespace

const StageKind& slitScan() {
  static const SlitScan kind;
  return kind;
}

}  // namespace molten

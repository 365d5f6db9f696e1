#include "core/stages/slit_scan.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <map>

#include "core/stages/common_parameters.h"
#include "core/stages/slit_mixture.h"
#include "core/stages/through.h"

namespace molten {
namespace {

enum Parameter : std::size_t { Slit, Position, Angle, SlitWidth, Sweep, Way, Before, Result, Length, Between };
enum Slits : std::size_t { Travels, Stands };
enum Ways : std::size_t { OneWay, ThereAndBack };
enum Befores : std::size_t { Live, Clear, LastSweep };
enum Results : std::size_t { Moving, OnePicture };

/// In pictures of what enters.
double sweepOf(const StageValues& values, const VideoDescription& in) {
  const double own = numberIn(values, Sweep) * in.rate.toDouble();
  return own > 0 ? own : static_cast<double>(in.length);
}

bool quarterTurn(const StageValues& values) {
  return std::fmod(numberIn(values, Angle), 90) == 0;
}
bool upright(const StageValues& values) {
  return std::fmod(numberIn(values, Angle), 180) == 0;
}

VideoDescription scanned(const StageValues& values, const VideoDescription& in) {
  VideoDescription out = in;
  const double rounds =
      static_cast<double>(in.length) / sweepOf(values, in) / (choiceIn(values, Way) == ThereAndBack ? 2 : 1);
  out.endless = in.endless && std::abs(rounds - std::round(rounds)) < 1e-9;
  if (choiceIn(values, Slit) != Stands) return out;
  if (choiceIn(values, Result) == OnePicture) out.length = 1, out.endless = false;
  const auto length = static_cast<int>(numberIn(values, Length));
  if (length > 0 && quarterTurn(values)) (upright(values) ? out.size.width : out.size.height) = length;
  return out;
}

StripLayout blocksOf(const StageValues& values, const VideoDescription& video) {
  StripLayout::Cut cut;
  cut.width = std::max(1.0, numberIn(values, SlitWidth));
  cut.degrees = numberIn(values, Angle);
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
    const double y = sites.y0 + row * sites.stepY;
    for (int i = 0; i < sites.width; ++i)
      out[static_cast<std::size_t>(i)] = displaced_[static_cast<std::size_t>(
          blocks_.stripAt((sites.x0 + i * sites.stepX) * stretch_.x, y * stretch_.y))];
  }

 private:
  StripLayout blocks_;
  Place stretch_;
  std::vector<double> displaced_;
};

class SlitScanMap : public TimeMap, public Mixing {
 public:
  SlitScanMap(const StageValues& values, const VideoDescription& in)
      : TimeMap(scanned(values, in)),
        values_(values),
        in_(in),
        stands_(choiceIn(values, Slit) == Stands),
        sweep_(blocksOf(values, outgoing()), sweepOf(values, in), choiceIn(values, Way) == ThereAndBack, in.endless) {}

  std::shared_ptr<const Displacement> displacement(const Moment& moment) const override {
    const double position = positionOf(moment);
    const Place stretch{static_cast<double>(outgoing().size.width) / in_.size.width,
                        static_cast<double>(outgoing().size.height) / in_.size.height};
    return std::make_shared<SlitScanAt>(
        sweep_.blocks(), position, [&](int block) { return passed(block, position); }, stretch);
  }
  bool steady() const override { return false; }
  Reach reach() const override {
    const double sweep = sweepOf(values_, in_);
    if (onePicture()) return {0, sweep};
    return {-sweep * (choiceIn(values_, Before) == LastSweep ? 2 : 1), 0};
  }
  Reach reachAt(const Moment& moment) const override {
    const double sweep = sweepOf(values_, in_), position = positionOf(moment);
    if (onePicture()) return {0, sweep_.passing(sweep_.blocks().count() - 1, 0)};
    double begun = std::floor(position / sweep) * sweep;
    if (choiceIn(values_, Before) == LastSweep && (begun > 0 || in_.endless)) begun -= sweep;
    return {begun - position, 0};
  }
  PastTheEnds pastTheEnds() const override { return PastTheEnds::Hold; }
  InBetween inBetween() const override { return inBetweenOf(values_[Between]); }

  const Mixing* mixing() const override { return stands_ || choiceIn(values_, Before) == Clear ? this : nullptr; }
  std::vector<Chain> ways() const override {
    if (stands_) return {{through(inBetween(), PastTheEnds::Hold)}};
    Stage travelling = newStage(slitScan());
    travelling.values = values_;
    travelling.values[Before] = std::size_t{Live};
    return {{travelling}};
  }
  bool mayBeClear() const override { return choiceIn(values_, Before) == Clear && !onePicture(); }
  std::vector<MixSource> sources(const Moment& moment) const override { return pictureAt(moment).sources; }
  std::unique_ptr<Mixture> mixture(const Moment& moment, const MixShapes& shapes) const override {
    std::optional<StandingSlit> standing;
    if (stands_) standing = StandingSlit{blocksOf(values_, in_), slitBegin()};
    return slitMixture(pictureAt(moment), sweep_.blocks(), standing, shapes);
  }

 private:
  bool onePicture() const { return stands_ && choiceIn(values_, Result) == OnePicture; }
  double positionOf(const Moment& moment) const { return static_cast<double>(moment.whole) + moment.rest.toDouble(); }
  /// When the slit passed a block, as the picture at a moment shows it.
  std::optional<double> passed(int block, double position) const {
    if (onePicture()) return sweep_.passing(block, 0);
    return sweep_.passed(block, position, choiceIn(values_, Before) == LastSweep);
  }
  double slitBegin() const {
    const Place at = std::get<Place>(values_[Position]);
    const StripLayout footage = blocksOf(values_, in_);
    const double u = footage.along(at.x * in_.size.width, at.y * in_.size.height), w = numberIn(values_, SlitWidth);
    // On whole pixels.
    return std::floor(std::clamp(u - w / 2, 0.0, std::max(0.0, footage.extent() - w)) + 0.5);
  }
  /// What is read of the footage: the slit, and what is beside it where it slants.
  PixelBox partOfSlit() const {
    const Place way = blocksOf(values_, in_).direction();
    const double w = numberIn(values_, SlitWidth), begin = slitBegin(), width = in_.size.width,
                 height = in_.size.height;
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
    const double position = positionOf(moment);
    const StripLayout& blocks = sweep_.blocks();
    if (!stands_) {
      made.sources.push_back({0, moment});
      made.live = 0;
      for (int b = 0; b < blocks.count(); ++b)
        made.ofBlock.push_back(sweep_.passed(b, position, false) ? 0 : SlitPicture::nothing);
      return made;
    }
    const std::size_t before = choiceIn(values_, Before);
    const PixelBox part = partOfSlit();
    // The blocks that show each moment; rising in time.
    std::map<std::pair<std::int64_t, Rational>, std::vector<int>> blocksOfMoment;
    bool live = false;
    made.ofBlock.assign(static_cast<std::size_t>(blocks.count()), SlitPicture::nothing);
    const bool sameSize = outgoing().size == in_.size;
    for (int b = 0; b < blocks.count(); ++b) {
      const auto when = passed(b, position);
      if (!when) {
        live = live || (before != Clear && sameSize);
        continue;
      }
      Moment read = momentNear(inBetween() == InBetween::Nearest ? std::floor(*when + 0.5) : *when);
      if (in_.endless)
        read.whole = (read.whole % in_.length + in_.length) % in_.length;
      else if (read.whole >= in_.length - 1)
        read = {in_.length - 1, 0};
      blocksOfMoment[{read.whole, read.rest}].push_back(b);
    }
    for (const auto& [read, its] : blocksOfMoment) {
      for (const int b : its) made.ofBlock[static_cast<std::size_t>(b)] = static_cast<int>(made.sources.size());
      made.sources.push_back({0, {read.first, read.second}, part});
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
};

class SlitScan : public StageKind {
 public:
  const StageDescription& description() const override {
    static const ParameterDescription::Condition standing{"slit", {"stands"}};
    static const StageDescription described = {
        "slit-scan",
        "Slit Scan",
        "A slit crosses the frame: each place keeps the moment at which it passed.",
        {
            {"slit", "Slit", "Slit", "Where the footage is read.", false,
             ChoicesDescription{
                 {{"travels", "Travels", "Each place of the frame from its own place in the footage."},
                  {"stands", "Stands still", "All of the frame from one place in the footage, unrolled."}},
                 Travels}},
            {"position", "Position", "Slit", "Where the slit stands.", false, PlaceDescription{{0.5, 0.5}}, standing},
            {"angle", "Angle", "Slit", "Which way the slit goes: 0° to the right, 90° down, 180° to the left.", false,
             NumberDescription{Unit::Degrees, -360, 360, 0, 5, 180, 1, Tense::None}},
            {"slit-width", "Slit width", "Slit", "So many pixels keep one moment.", false,
             NumberDescription{Unit::Pixels, 1, 4096, 1, 1, 40, 0, Tense::None, true}},
            {"sweep", "Sweep", "Sweep", "Time in which the slit crosses the frame; all: as long as the clip.", false,
             NumberDescription{Unit::Seconds, 0, 86400, 0, 0.1, 20, 3, Tense::None, false, "all"}},
            {"way", "Way", "Sweep", "How it goes on at the end.", false,
             ChoicesDescription{{{"one-way", "One way", "From the beginning again."},
                                 {"there-and-back", "There and back", "The way that it came."}},
                                OneWay}},
            {"before-the-slit", "Before the slit", "Sweep", "What is shown where the slit has not passed yet.", false,
             ChoicesDescription{{{"live", "Live picture", "The present moment."},
                                 {"clear", "Clear", "Nothing: transparent, or black where there is no transparency."},
                                 {"last", "Last sweep", "What the sweep before has left."}},
                                Live}},
            {"result", "Result", "Picture", "What comes out.", false,
             ChoicesDescription{{{"moving", "Moving", "A video in which the slit is on its way."},
                                 {"one-picture", "One picture", "A still of one whole sweep: a strip photograph."}},
                                Moving},
             standing},
            {"picture-length", "Picture length", "Picture",
             "Of the picture along the slit's way; footage: as long as that is wide.", false,
             NumberDescription{Unit::Pixels, 0, 65536, 0, 16, 8192, 0, Tense::None, true, "footage"}, standing},
            inBetweenParameter(),
        },
        {},
    };
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings&) const override {
    return std::make_unique<SlitScanMap>(stage.values, incoming);
  }

  std::string summary(const StageValues& values, const VideoDescription& in) const override {
    const std::string time = secondsText(sweepOf(values, in) / in.rate.toDouble(), 2);
    if (choiceIn(values, Slit) == Travels) return "sweep of " + time;
    const VideoDescription out = scanned(values, in);
    if (choiceIn(values, Result) == OnePicture)
      return "a picture of " + std::to_string(out.size.width) + " × " + std::to_string(out.size.height);
    return "unrolled in " + time;
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    const VideoDescription out = scanned(values, in);
    const StripLayout blocks = blocksOf(values, out);
    const double frames = sweepOf(values, in), each = blocks.extent() / frames;
    char text[240];
    std::vector<StageNote> found;
    std::snprintf(text, sizeof text, "%.4g px for each of %.0f frames of a sweep.", each, frames);
    found.push_back({"Sweep", text});
    if (numberIn(values, SlitWidth) > each * 1.5)
      found.push_back({"Slit", "The slit is wider than its way in one frame: some frames are left out."});
    else if (each > numberIn(values, SlitWidth) * 1.5 && choiceIn(values, Slit) == Stands) {
      std::snprintf(text, sizeof text, "Each frame is shown %.3g times in a row; a slit of %.0f px shows it once.",
                    each / numberIn(values, SlitWidth), std::max(1.0, std::round(each)));
      found.push_back({"Slit", text});
    }
    if (choiceIn(values, Slit) == Stands) {
      if (numberIn(values, Length) > 0 && !quarterTurn(values))
        found.push_back({"Picture", "A slanting slit makes pictures of the footage's size."});
      if (choiceIn(values, Result) == OnePicture)
        found.push_back({"Picture", std::to_string(out.size.width) + " × " + std::to_string(out.size.height) +
                                        " pixels: render it to one PNG or TIFF."});
    }
    return found;
  }

  std::vector<StageHandle> handles(const StageValues& values, const VideoDescription& in) const override {
    if (choiceIn(values, Slit) != Stands || scanned(values, in).size != in.size) return {};
    return {{std::get<Place>(values[Position]), {}, "slit", {}}};
  }
  StageValues withHandle(StageValues values, std::size_t, Place place, const VideoDescription&) const override {
    values[Position] = place;
    return values;
  }
};

}  // namespace

const StageKind& slitScan() {
  static const SlitScan kind;
  return kind;
}

}  // namespace molten

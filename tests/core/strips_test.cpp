// Strips and Slit Scan against slow readings of their definitions, sample by sample to the bit.
#include <cmath>
#include <numbers>
#include <random>

#include "core/engine/evaluator.h"
#include "core/engine/render_job.h"
#include "core/engine/seam.h"
#include "core/field/plane_sites.h"
#include "core/project/project.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

class Cuts : public ::testing::Test {
 protected:
  void open(const std::string& format, int frames, Size size, const std::string& arguments = "") {
    test::makeNoiseClip(folder / (format + ".mkv"), frames, size, format, arguments);
    footage = test::openFootage(folder / (format + ".mkv"));
    pictures = test::readAll(*footage);
    evaluator = std::make_unique<Evaluator>(std::make_shared<FrameFeed>(footage, std::size_t(1) << 27, 1), 2);
  }
  Picture picture(const Chain& chain, std::int64_t n) const {
    auto made = evaluator->picture(evaluator->plan(chain, {}), {n, 0}, {});
    EXPECT_TRUE(made) << (made ? "" : made.error().message);
    return made ? *made : Picture();
  }
  /// Every sample against the frame (and place) that `read(site x, site y)` names.
  template <class Read>
  void check(const Picture& made, const Stage& stage, std::int64_t n, Read read) const {
    ASSERT_TRUE(made);
    for (int p = 0; p < pictures[0].format().planes(); ++p) {
      const PlaneSites sites = planeSites(made.shape(), p, 1);
      for (int y = 0; y < sites.height; ++y)
        for (int x = 0; x < sites.width; ++x) {
          const std::optional<std::int64_t> frame = read(sites.x0 + x * sites.stepX, sites.y0 + y * sites.stepY);
          if (!frame) continue;
          const auto i = std::clamp<std::int64_t>(*frame, 0, static_cast<std::int64_t>(pictures.size()) - 1);
          ASSERT_EQ(test::sampleAt(made, p, x, y), test::sampleAt(pictures[static_cast<std::size_t>(i)], p, x, y))
              << stageText(stage) << " picture " << n << ", plane " << p << " at " << x << ", " << y;
        }
    }
  }

  TempFolder folder;
  std::shared_ptr<const Footage> footage;
  std::vector<Picture> pictures;
  std::unique_ptr<Evaluator> evaluator;
};

/// Strips to the right, by the words of their description alone, for every count that a small picture can have.
TEST_F(Cuts, StripsTileTheFrameToThePixel) {
  for (const char* const format : {"yuv420p", "gbrp", "yuv422p10le"}) {
    open(format, 40, {53, 9});
    for (const int count : {1, 2, 3, 7, 20, 31, 52, 53, 60}) {
      Stage stage = *parseStage("strips:stagger=1f", 30);
      setTo(stage, "count", static_cast<double>(count));
      for (const std::int64_t n : {0, 30, 39})
        check(picture({stage}, n), stage, n, [&](double x, double) -> std::optional<std::int64_t> {
          for (int i = 0; i < count; ++i) {
            // round(i·W/N) ≤ x < round((i + 1)·W/N), in whole numbers.
            const int from = (2 * i * 53 + count) / (2 * count), to = (2 * (i + 1) * 53 + count) / (2 * count);
            if (from <= x && x < to) return n - i;
          }
          return std::nullopt;
        });
    }
  }
}

TEST_F(Cuts, EveryShapeAndOrderOfStrips) {
  open("yuv420p", 30, {47, 31});
  const double w = 47, h = 31;
  struct Case {
    const char* text;
    std::function<std::optional<double>(double, double)> along;  ///< 0…count
    std::function<int(int)> rank;
  };
  const auto edge = [](double u) { return std::abs(u - std::round(u)) < 1e-6; };
  const double a = 25 / 180.0 * std::numbers::pi, c = std::cos(a), s = std::sin(a);
  const double reach = std::hypot(0.25 * w > w - 0.25 * w ? 0.25 * w : 0.75 * w, 0.75 * h);
  // Borders lie on whole pixels: band of a length of `extent` cut in `count`.
  const auto band = [&](double u, double extent, int count) -> std::optional<double> {
    if (edge(u)) return std::nullopt;
    for (int i = 0; i < count; ++i)
      if (u < (i + 1 == count ? 1e9 : std::floor((i + 1) * extent / count + 0.5))) return i;
    return std::nullopt;
  };
  const Case cases[] = {
      {"strips:count=6,stagger=2f,angle=180", [&](double x, double) { return band(w - x, w, 6); },
       [](int i) { return i; }},
      {"strips:count=5,stagger=1f,angle=90,now-stands-at=last", [&](double, double y) { return band(y, h, 5); },
       [](int i) { return 4 - i; }},
      {"strips:count=7,stagger=2f,angle=25,now-stands-at=middle",
       [&](double x, double y) { return band(x * c + y * s, w * c + h * s, 7); },
       [](int i) { return std::abs(i - 3); }},
      {"strips:shape=rings,count=5,stagger=2f,centre=0.25x0.25,now-stands-at=both-edges",
       [&](double x, double y) { return band(std::hypot(x - 0.25 * w, y - 0.25 * h), reach, 5); },
       [](int i) { return 2 - std::abs(i - 2); }},
      {"strips:shape=grid,count=4,rows=3,stagger=1f",
       [&](double x, double y) -> std::optional<double> {
         const auto column = band(x, w, 4), row = band(y, h, 3);
         if (!column || !row) return std::nullopt;
         return *row * 4 + *column;
       },
       [](int i) { return i; }},
      {"strips:cut-by=width,width=9px,stagger=1f,delays=drawn,curve=0x1+1x0",
       [&](double x, double) -> std::optional<double> { return std::floor(x / 9); }, [](int i) { return 5 - i; }},
      {"strips:count=8,offset=25%,stagger=2f",
       [&](double x, double) { return band(x < 12 ? x - 12 + w : x - 12, w, 8); }, [](int i) { return i; }},
  };
  for (const Case& one : cases) {
    const Stage stage = *parseStage(one.text, 30);
    const double stagger = valueOf<double>(stage, "stagger");
    check(picture({stage}, 20), stage, 20, [&](double x, double y) -> std::optional<std::int64_t> {
      const auto i = one.along(x, y);
      if (!i) return std::nullopt;
      return 20 - static_cast<std::int64_t>(one.rank(static_cast<int>(*i)) * stagger);
    });
  }
}

TEST_F(Cuts, ShuffledStripsAreEachThereOnce) {
  open("gray", 40, {60, 4});
  std::vector<std::vector<unsigned>> seen;
  for (const char* const seed : {"1", "2"}) {
    const Picture made =
        picture({*parseStage(std::string("strips:count=12,stagger=1f,delays=by-lot,seed=") + seed, 30)}, 20);
    std::vector<unsigned> ranks;
    for (int i = 0; i < 12; ++i)
      for (unsigned r = 0; r < 12; ++r) {
        bool all = true;
        for (int x = 5 * i; x < 5 * i + 5; ++x)
          all = all && test::sampleAt(made, 0, x, 2) == test::sampleAt(pictures[20 - r], 0, x, 2);
        if (all) ranks.push_back(r);
      }
    ASSERT_EQ(ranks.size(), 12u);
    seen.push_back(ranks);
    std::sort(ranks.begin(), ranks.end());
    for (unsigned r = 0; r < 12; ++r) EXPECT_EQ(ranks[r], r);
  }
  EXPECT_NE(seen[0], seen[1]);
}

/// Over a clip that goes round, the picture after the last one is the first one.
TEST_F(Cuts, StripsOverTheClipGoRound) {
  open("yuv420p", 21, {40, 6});
  const Chain chain{*parseStage("loop", 30), *parseStage("strips:count=8,gap=over-the-clip", 30)};
  const PicturePlan plan = evaluator->plan(chain, {});
  EXPECT_EQ(plan.length(), 40);
  EXPECT_TRUE(plan.outgoing().endless);
  check(picture(chain, 3), chain[1], 3, [&](double x, double) -> std::optional<std::int64_t> {
    const int strip = static_cast<int>(x) / 5, at = ((3 - strip * 5) % 40 + 40) % 40;
    return at <= 20 ? at : 40 - at;
  });
}

/// The day fan of the yard: from the last picture to the first one it goes on as between any two others.
TEST(DayFan, HasNoSeam) {
  const auto footage = test::openFootage(std::string(MOLTEN_SOURCE) + "/demo/yard.mp4");
  const Chain chain{*parseStage("loop", 30), *parseStage("strips:count=20,gap=over-the-clip", 30)};
  const MeasuredFootage measured{
      std::make_shared<Sources>(std::make_shared<FrameFeed>(footage, std::size_t(1) << 28, 1), 1), InBetween::Whole};
  const auto seam = measureSeam(measured, chain, {});
  ASSERT_TRUE(seam) << seam.error().message;
  EXPECT_LE(seam->across, seam->neighbours * 1.2);
  // Sample by sample: no more than between others that follow each other.
  Evaluator evaluator(std::make_shared<FrameFeed>(footage, std::size_t(1) << 28, 2), 2);
  const PicturePlan plan = evaluator.plan(chain, {8});
  const auto changed = [&](std::int64_t from, std::int64_t to) {
    const auto a = evaluator.picture(plan, {from, 0}, {}), b = evaluator.picture(plan, {to, 0}, {});
    double sum = 0;
    for (int y = 0; y < a->planeHeight(0); ++y)
      for (int x = 0; x < a->planeWidth(0); ++x)
        sum += std::abs(static_cast<double>(test::sampleAt(*a, 0, x, y)) - test::sampleAt(*b, 0, x, y));
    return sum;
  };
  double most = 0;
  for (std::int64_t n = 3; n < plan.length() - 1; n += 11) most = std::max(most, changed(n, n + 1));
  EXPECT_GT(most, 0);
  EXPECT_LE(changed(plan.length() - 1, 0), most);
  // Neighbouring strips are two seconds apart: to be seen, not harsh. With a tenth of a frame they are all but one.
  const auto balance = measureContrast(measured, chain, {});
  ASSERT_TRUE(balance && *balance);
  EXPECT_GT(**balance, 0.01);
  EXPECT_LT(**balance, 0.15);
  const auto close = measureContrast(measured, {*parseStage("strips:count=20,stagger=1f", 30)}, {});
  ASSERT_TRUE(close && *close);
  EXPECT_LT(**close, **balance / 10);
}

/// Feathered borders and divider lines in the working format, away from which samples stay as they are.
TEST_F(Cuts, FeatherAndDividerLines) {
  open("gbrp", 30, {64, 8});
  const Stage stage = *parseStage("strips:count=4,stagger=3f,feather=50%,divider-line=3px,line-colour=ff8000", 30);
  const Picture made = picture({stage}, 15);
  ASSERT_TRUE(made);
  static constexpr double colour[] = {128, 0, 255};  // G B R
  for (int p = 0; p < 3; ++p)
    for (int x = 0; x < 64; ++x) {
      const int strip = x / 16, within = x % 16;
      // Feathered over 8 pixels about each border; lines cover a pixel before it, on it and after it.
      double wanted = test::sampleAt(pictures[static_cast<std::size_t>(15 - 3 * strip)], p, x, 3);
      const int other = within < 8 ? strip - 1 : strip + 1;
      if (other >= 0 && other < 4) {
        const double off = within < 8 ? within + 0.5 : 16 - within - 0.5;
        const double theirs = test::sampleAt(pictures[static_cast<std::size_t>(15 - 3 * other)], p, x, 3);
        if (off < 4) wanted = wanted * (0.5 + off / 8) + theirs * (0.5 - off / 8);
        if (within == 15 || within == 0 || within == 1) wanted = colour[p];
      }
      EXPECT_NEAR(test::sampleAt(made, p, x, 3), wanted, 0.51) << "plane " << p << " at " << x;
    }
}

/// With keys the strips move through the frame, by whole pixels, and come in again on the other side.
TEST_F(Cuts, StripsTravelByKeys) {
  open("yuv420p", 31, {48, 6});
  const Stage stage = *parseStage("strips:count=4,stagger=2f,offset=0%@0s+100%@1s", 30);
  for (const std::int64_t n : {9, 15, 22, 30})
    check(picture({stage}, n), stage, n, [&](double x, double) -> std::optional<std::int64_t> {
      const double shift = std::floor(static_cast<double>(n % 30) / 30 * 48 + 0.5);
      const double u = x < shift ? x - shift + 48 : x - shift;
      return n - 2 * static_cast<int>(u / 12);
    });
  EXPECT_EQ(stage.keys.size(), 1u);
}

/// Reaches and bounds say no less than what is read: a render that knows from them what to keep is the same.
TEST_F(Cuts, RenderedForwardsAsOneByOne) {
  open("yuv420p", 40, {48, 10});
  for (const char* const text :
       {"strips:count=9,stagger=1f,delays=by-lot,past-the-ends=turn-back",
        "slit-scan:sweep=10f,before-the-slit=last-sweep", "strips:count=4,stagger=2f,offset=0%@0s+100%@1s",
        "slit-scan:sweep=7f,way=there-and-back,angle=33", "strips:count=5,stagger=2f,feather=20%,divider-line=1px",
        "slit-scan:slit=stands,sweep=12f,slit-width=2px"}) {
    RenderSettings settings;
    settings.footage = footage;
    settings.project.chain = {*parseStage(text, 30)};
    settings.project.output.path = folder / "o.mkv";
    ASSERT_TRUE(render(settings, {}, {})) << text;
    const auto rendered = test::readAll(*test::openFootage(folder / "o.mkv"));
    ASSERT_EQ(rendered.size(), 40u) << text;
    for (std::size_t n = 0; n < 40; n += 3)
      EXPECT_TRUE(test::samePicture(rendered[n], picture(settings.project.chain, static_cast<std::int64_t>(n))))
          << text << " at " << n;
  }
}

TEST_F(Cuts, TravellingSlit) {
  for (const char* const format : {"yuv420p", "gbrp"}) {
    open(format, 40, {48, 10});
    for (const char* const text :
         {"slit-scan:sweep=12f", "slit-scan:sweep=12f,slit-width=5px,before-the-slit=last-sweep",
          "slit-scan:sweep=9f,way=there-and-back,before-the-slit=last-sweep", "slit-scan",
          "slit-scan:sweep=12f,before-the-slit=transparent"}) {
      const Stage stage = *parseStage(text, 30);
      const double sweep = valueOf<double>(stage, "sweep") > 0 ? valueOf<double>(stage, "sweep") * 30 : 40;
      const double width = valueOf<double>(stage, "slit-width");
      const bool back = valueOf<std::size_t>(stage, "way") == 1;
      const std::size_t before = valueOf<std::size_t>(stage, "before-the-slit");
      for (const std::int64_t n : {0, 5, 12, 17, 25, 39}) {
        const auto blocks = static_cast<int>(std::ceil(48 / width));
        check(picture({stage}, n), stage, n, [&](double x, double) -> std::optional<std::int64_t> {
          const auto block = static_cast<int>(x / width);
          const auto passes = [&](double round) {
            const bool reversed = back && std::fmod(round, 2) == 1;
            return (round + (reversed ? blocks - 1 - block : block) * width / 48) * sweep;
          };
          const double round = std::floor(static_cast<double>(n) / sweep + 1e-9), now = passes(round);
          double moment = static_cast<double>(n);
          if (now <= static_cast<double>(n) + 1e-6)
            moment = now;
          else if (before == 1)
            return std::nullopt;
          else if (before == 2 && round > 0)
            moment = passes(round - 1);
          // Halfway between two frames rounding decides.
          if (std::abs(moment - std::floor(moment) - 0.5) < 1e-6) return std::nullopt;
          return static_cast<std::int64_t>(std::floor(moment + 0.5));
        });
      }
    }
  }
}

/// A slit that stands still, unrolled into a picture longer than the footage is wide.
TEST_F(Cuts, StandingSlitOfAnyLength) {
  for (const char* const format : {"gbrp", "yuv444p"}) {
    open(format, 50, {40, 12});
    for (const int width : {1, 3}) {
      Stage stage = *parseStage("slit-scan:slit=stands,position=0.3x0.5,result=one-picture,picture-length=131px", 30);
      setTo(stage, "slit-width", static_cast<double>(width));
      const PicturePlan plan = evaluator->plan({stage}, {});
      EXPECT_EQ(plan.length(), 1);
      const Picture made = picture({stage}, 0);
      ASSERT_EQ(made.shape().size, (Size{131, 12}));
      const int begin = static_cast<int>(std::floor(0.3 * 40 - width / 2.0 + 0.5));
      for (int p = 0; p < 3; ++p)
        for (int x = 0; x < 131; ++x) {
          const int block = x / width;
          const auto frame = std::floor(block * width / 131.0 * 50 + 0.5);
          ASSERT_EQ(test::sampleAt(made, p, x, 7),
                    test::sampleAt(pictures[static_cast<std::size_t>(std::min(49.0, frame))], p, begin + x % width, 7))
              << format << " width " << width << " at " << x;
        }
    }
  }
  // Moving, and not passed yet: the live picture.
  open("yuv420p", 50, {40, 12});
  const Stage stage = *parseStage("slit-scan:slit=stands,angle=90", 30);
  const Picture made = picture({stage}, 25);
  for (int y = 0; y < 12; ++y) {
    const double passed = y / 12.0 * 50;
    const auto frame = static_cast<std::size_t>(passed <= 25 ? std::floor(passed + 0.5) : 25);
    ASSERT_EQ(test::sampleAt(made, 0, 9, y), test::sampleAt(pictures[frame], 0, 9, passed <= 25 ? 6 : y)) << y;
  }
}

/// At a slant each place reads the nearest pixel of the slit, moved along the way.
TEST_F(Cuts, SlantingSlit) {
  open("gbrp", 60, {50, 34});
  const Stage stage = *parseStage("slit-scan:slit=stands,angle=20,slit-width=2px", 30);
  const Picture made = picture({stage}, 59);
  const double a = 20 / 180.0 * std::numbers::pi, c = std::cos(a), s = std::sin(a), extent = 50 * c + 34 * s;
  const double begin = std::floor(25 * c + 17 * s - 1 + 0.5);
  int compared = 0;
  for (int y = 0; y < 34; ++y)
    for (int x = 0; x < 50; ++x) {
      const double u = (x + 0.5) * c + (y + 0.5) * s, block = std::floor(u / 2), passed = block * 2 / extent * 60;
      if (passed > 59 || std::abs(passed - std::floor(passed) - 0.5) < 1e-3) continue;
      const double to = begin + u - block * 2, sx = x + c * (to - u), sy = y + s * (to - u);
      const int ix = static_cast<int>(std::floor(sx + 0.5)), iy = static_cast<int>(std::floor(sy + 0.5));
      if (std::abs(sx - std::floor(sx) - 0.5) < 1e-3 || std::abs(sy - std::floor(sy) - 0.5) < 1e-3) continue;
      const auto frame = static_cast<std::size_t>(std::floor(passed + 0.5));
      ASSERT_EQ(test::sampleAt(made, 0, x, y),
                test::sampleAt(pictures[frame], 0, std::clamp(ix, 0, 49), std::clamp(iy, 0, 33)))
          << x << ", " << y;
      ++compared;
    }
  EXPECT_GT(compared, 1000);
}

/// Each tile is the whole picture, a third as large, at its own moment: every sample the mean of nine.
TEST_F(Cuts, TilesAreThePictureSmallerAtTheirMoments) {
  open("gray", 40, {96, 54});
  const Stage stage = *parseStage("strips:shape=tiles,count=3,rows=3,stagger=2f", 30);
  for (const std::int64_t n : {0, 21, 39}) {
    const Picture made = picture({stage}, n);
    ASSERT_EQ(made.shape().size.width, 96);
    for (int y = 0; y < 54; ++y)
      for (int x = 0; x < 96; ++x) {
        const std::int64_t cell = y / 18 * 3 + x / 32, frame = std::max<std::int64_t>(0, n - 2 * cell);
        double sum = 0;
        for (int k = 0; k < 9; ++k)
          sum += test::sampleAt(pictures[static_cast<std::size_t>(frame)], 0, x % 32 * 3 + k % 3, y % 18 * 3 + k / 3);
        ASSERT_NEAR(test::sampleAt(made, 0, x, y), sum / 9, 0.501) << n << " at " << x << ", " << y;
      }
  }
}

/// What is transparent leaves nothing where the slit has not been.
TEST_F(Cuts, BeforeTheSlitNothing) {
  open("yuv444p", 20, {40, 6});
  const Picture made = picture({*parseStage("slit-scan:before-the-slit=transparent", 30)}, 10);
  ASSERT_TRUE(made.format().alpha);
  EXPECT_EQ(test::sampleAt(made, 3, 10, 2), 255u);
  EXPECT_EQ(test::sampleAt(made, 3, 30, 2), 0u);
  EXPECT_EQ(test::sampleAt(made, 0, 30, 2), blackSample(made.shape(), 0));
}

}  // namespace
}  // namespace molten

// Framing: what is resampled, where its frame lies, and that all that asks about places agrees with what is seen.
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/engine/evaluator.h"
#include "core/engine/render_job.h"
#include "core/picture/accumulator.h"
#include "core/picture/resample.h"
#include "core/stages/framing_view.h"
#include "support/clips.h"
#include "support/random_chains.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

const double pi = std::acos(-1.0);

double sinc(double x) {
  return x == 0 ? 1 : std::sin(pi * x) / (pi * x);
}

PictureShape floats(Size size, bool alpha) {
  PictureShape shape;
  shape.format = {ColourModel::Rgb, 32, 0, 0, alpha, true};
  shape.size = size;
  return shape;
}
float& valueOf(Picture& picture, int plane, int x, int y) {
  return reinterpret_cast<float*>(picture.writableRow(plane, y))[x];
}

/// Slow and obvious, in doubles: R G B and alpha of a pixel.
std::array<double, 4> reference(Picture& picture, const Affine& way, Beyond beyond, int px, int py) {
  const Size size = picture.shape().size;
  const double s = std::max(1.0, std::sqrt(std::abs(way.xx * way.yy - way.xy * way.yx)));
  const double u = way.xx * (px + 0.5) + way.xy * (py + 0.5) + way.x0,
               v = way.yx * (px + 0.5) + way.yy * (py + 0.5) + way.y0;
  const auto weight = [&](double d) { return std::abs(d / s) < 3 ? sinc(d / s) * sinc(d / s / 3) : 0; };
  const auto place = [&](int at, int length) {
    while (beyond == Beyond::Mirror && (at < 0 || at >= length)) at = at < 0 ? -1 - at : 2 * length - 1 - at;
    return beyond == Beyond::StandStill ? std::min(std::max(at, 0), length - 1) : at;
  };
  std::array<double, 4> sum{};
  double across = 0, down = 0;
  const int reach = static_cast<int>(3 * s) + 2;
  for (int j = static_cast<int>(std::floor(v)) - reach; j <= v + reach; ++j) down += weight(j + 0.5 - v);
  for (int i = static_cast<int>(std::floor(u)) - reach; i <= u + reach; ++i) across += weight(i + 0.5 - u);
  for (int j = static_cast<int>(std::floor(v)) - reach; j <= v + reach; ++j)
    for (int i = static_cast<int>(std::floor(u)) - reach; i <= u + reach; ++i) {
      const double w = weight(i + 0.5 - u) * weight(j + 0.5 - v) / across / down;
      const int x = place(i, size.width), y = place(j, size.height);
      if (x < 0 || y < 0 || x >= size.width || y >= size.height) continue;
      const bool has = picture.format().alpha;
      const double a = has ? static_cast<double>(valueOf(picture, 3, x, y)) : 1;
      static constexpr int planes[] = {2, 0, 1};
      for (std::size_t c = 0; c < 3; ++c)
        sum[c] += w * a * static_cast<double>(valueOf(picture, planes[c], x, y));
      sum[3] += w * a;
    }
  return sum;
}

double toLight(double v) {
  const double a = std::abs(v);
  return std::copysign(a <= 0.04045 ? a / 12.92 : std::pow((a + 0.055) / 1.055, 2.4), v);
}
double toShown(double l) {
  const double a = std::abs(l);
  return std::copysign(a <= 0.0031308 ? a * 12.92 : 1.055 * std::pow(a, 1 / 2.4) - 0.055, l);
}

/// Random ways, one or several, enlarging, reducing, turned and mirrored, far beyond the edges too: one part in 65535.
TEST(Resampling, IsLanczosToOnePartIn65535) {
  std::mt19937 random(3);
  const auto within = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
  for (int round = 0; round < 24; ++round) {
    const bool alpha = round % 3 == 1, turned = round % 2 == 1;
    Picture picture(floats({37, 22}, alpha));
    for (int p = 0; p < (alpha ? 4 : 3); ++p)
      for (int y = 0; y < 22; ++y)
        for (int x = 0; x < 37; ++x)
          valueOf(picture, p, x, y) = static_cast<float>(p == 3 ? within(0.2, 1) : within(0, 1));
    std::vector<Affine> ways;
    const double angle = turned ? within(-3, 3) : 0, scale = round < 12 ? within(0.2, 1) : within(1, 4);
    for (int k = round % 4 == 2 ? 3 : 1; k > 0; --k)
      ways.push_back({scale * std::cos(angle), scale * std::sin(angle), within(-9, 30), -scale * std::sin(angle),
                      scale * std::cos(angle), within(-9, 20)});
    const auto beyond = static_cast<Beyond>(round % 3);
    const PictureShape shape = floats({41, 19}, alpha || beyond == Beyond::Clear);
    Picture made = resampled(picture, ways, beyond, shape);
    for (int y = 0; y < 19; ++y)
      for (int x = 0; x < 41; ++x) {
        std::array<double, 4> wanted{};
        double clear = 1e9;
        for (const Affine& way : ways) {
          std::array<double, 4> one = reference(picture, way, beyond, x, y);
          clear = std::min(clear, one[3]);
          for (std::size_t c = 0; c < 3; ++c)
            wanted[c] += (ways.size() > 1 ? toLight(one[c] / one[3]) : one[c] / one[3]) * one[3] /
                         static_cast<double>(ways.size());
          wanted[3] += one[3] / static_cast<double>(ways.size());
        }
        // Where hardly anything is, its colour says nothing.
        if (clear < 0.05) continue;
        static constexpr int planes[] = {2, 0, 1};
        for (std::size_t c = 0; c < 3; ++c) {
          const double colour = wanted[c] / wanted[3];
          EXPECT_NEAR(valueOf(made, planes[c], x, y), ways.size() > 1 ? toShown(colour) : colour, 1 / 65535.0)
              << round << " " << x << " " << y;
        }
        if (shape.format.alpha) {
          EXPECT_NEAR(valueOf(made, 3, x, y), wanted[3], 1 / 65535.0) << round;
        }
      }
  }
}

class FramingTest : public ::testing::Test {
 protected:
  static Stage stage(const std::string& values = "") {
    const auto parsed = parseStage("framing" + (values.empty() ? "" : ":" + values), 30);
    EXPECT_TRUE(parsed) << (parsed ? "" : parsed.error().message);
    return *parsed;
  }
  std::shared_ptr<const Footage> clip(const char* format = "yuv420p", Size size = {42, 26}) {
    const std::string path = folder / (std::string(format) + std::to_string(size.width) + ".mkv");
    if (!std::filesystem::exists(path)) test::makeNoiseClip(path, 30, size, format, "");
    return test::openFootage(path);
  }
  static Evaluator evaluator(const std::shared_ptr<const Footage>& footage, int threads = 2) {
    return Evaluator(std::make_shared<FrameFeed>(footage, std::size_t(1) << 26, 1), threads);
  }
  static Picture made(Evaluator& evaluator, const Chain& chain, std::int64_t n) {
    const PicturePlan plan = evaluator.plan(chain, {1, InBetween::Whole, 25});
    auto picture = evaluator.picture(plan, {n, 0}, {});
    EXPECT_TRUE(picture);
    return *picture;
  }
  static FramingView view(const Stage& stage, const VideoDescription& in) { return {stage, in, {}}; }
  static VideoDescription video(Size size = {1280, 720}, Rational aspect = 1) {
    return {size, aspect, 30, 180, false, 0, InBetween::Whole, {}};
  }
  TempFolder folder;
};

TEST_F(FramingTest, AtItsDefaultsNoSampleChanges) {
  for (const char* format : {"yuv420p", "yuv420p10le", "gray", "yuva444p", "gbrp"}) {
    const auto footage = clip(format);
    Evaluator evaluator = FramingTest::evaluator(footage);
    EXPECT_TRUE(test::samePicture(made(evaluator, {stage()}, 7), made(evaluator, {}, 7))) << format;
    // Mirrored twice is as it was, to the bit.
    const Chain twice{stage("mirror=both"), stage("mirror=across"), stage("mirror=down")};
    EXPECT_FALSE(test::samePicture(made(evaluator, {twice[0]}, 7), made(evaluator, {}, 7))) << format;
    if (std::string(format) == "gray" || std::string(format) == "gbrp") {
      EXPECT_TRUE(test::samePicture(made(evaluator, twice, 7), made(evaluator, {}, 7))) << format;
    }
  }
}

/// Random framings that show no edge: however it shakes and turns, no corner is ever beyond one; and it is not enlarged
/// by more than that needs.
TEST_F(FramingTest, AShakeNeverShowsAnEdgeAndEnlargesByJustThat) {
  std::mt19937 random(5);
  const auto within = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
  for (int round = 0; round < 60; ++round) {
    char text[400];
    const bool shakes = round % 4 != 0;
    std::snprintf(text, sizeof text,
                  "zoom=%.0f%%,place=%.3fx%.3f,turn=%.2f,shape=%s,shake=%.1f%%,shakes=%.1f,shake-turn=%.2f,shake-zoom="
                  "%.1f%%,shake-seed=%d,shake-goes=%s",
                  round % 3 ? 100.0 : within(100, 300), within(0, 1), within(0, 1), round % 2 ? within(-180, 180) : 0.0,
                  round % 5 ? "as-it-comes" : "tall", shakes ? within(0.5, 12) : 0.0, within(1, 9),
                  shakes ? within(0, 6) : 0.0, shakes ? within(0, 9) : 0.0, round, round % 7 ? "smooth" : "jumps");
    const VideoDescription in = video({1280, 720}, round % 6 == 5 ? Rational(4, 3) : Rational(1));
    const FramingView view = this->view(stage(text), in);
    const Size out = view.outgoing().size;
    double nearest = 1e9;
    for (double at = 0; at < 180; at += 0.37) {
      const Affine way = view.wayAt(at);
      for (const double x : {0.0, static_cast<double>(out.width)})
        for (const double y : {0.0, static_cast<double>(out.height)}) {
          const double to[] = {way.x(x, y), way.y(x, y), 1280 - way.x(x, y), 720 - way.y(x, y)};
          for (const double room : to) {
            EXPECT_GE(room, -1e-6) << text << " at " << at;
            nearest = std::min(nearest, room);
          }
        }
    }
    // With a shake: draws of several directions do not all go furthest at once.
    if (view.enlargedAt(0) > 1 + 1e-9) {
      EXPECT_LT(nearest, shakes ? 720 * 0.13 : 1e-6) << text;
    }
  }
  EXPECT_NEAR(view(stage("shake=5%,shake-turn=0"), video()).enlargedAt(0), 1.1, 0.005) << "5 % at either side";
  EXPECT_EQ(view(stage("shake=5%,zoom=200%"), video()).enlargedAt(0), 1) << "there is room";
}

TEST_F(FramingTest, TheHeldPlaceIsHeldWhileItGrows) {
  const Stage grows = stage("zoom=100%@0s+400%@6s,place=0.7x0.2");
  const FramingView view = this->view(grows, video());
  for (double at = 0; at <= 180; at += 9) {
    const Affine way = view.wayAt(at);
    EXPECT_NEAR(way.x(0.7 * 1280, 0.2 * 720), 0.7 * 1280, 1e-6);
    EXPECT_NEAR(way.y(0.7 * 1280, 0.2 * 720), 0.2 * 720, 1e-6);
    EXPECT_NEAR(way.xx, 1 / (1 + 3 * at / 180), 1e-9);
  }
  const FramingView turned = this->view(stage("edges=stand-still,turn=30,zoom=150%,place=0.2x0.9"), video());
  EXPECT_NEAR(turned.wayAt(0).x(0.2 * 1280, 0.9 * 720), 0.2 * 1280, 1e-6);
  EXPECT_NEAR(turned.wayAt(0).y(0.2 * 1280, 0.9 * 720), 0.9 * 720, 1e-6);
  // Clockwise: what was right of the place lies below it.
  const Affine back = this->view(stage("edges=stand-still,turn=90"), video()).wayAt(0).inverse();
  EXPECT_NEAR(back.x(740, 360), 640, 1e-6);
  EXPECT_NEAR(back.y(740, 360), 460, 1e-6);
}

/// Wherever the frame is dragged to: its middle lies there, or at the nearest place to which it can go; nothing else changes.
TEST_F(FramingTest, ItsMiddleGoesWhereItIsDragged) {
  std::mt19937 random(23);
  std::uniform_real_distribution<> part(0, 1);
  const char* const frames[] = {"zoom=250%",
                                "zoom=180%,turn=17,mirror=across",
                                "zoom=220%,shake=3%,shake-turn=4,shakes=5",
                                "edges=stand-still,zoom=150%,turn=-40",
                                "edges=transparent,zoom=60%",
                                "shape=tall,zoom=130%",
                                "shape=tall"};
  for (const char* const frame : frames)
    for (int i = 0; i < 40; ++i) {
      const Stage before = stage(frame);
      const Place to{part(random), part(random)};
      const double position = 170 * part(random);
      Stage after = before;
      after.values = before.kind->withFrameAt(before.values, to, position, video());
      const FramingView view = this->view(after, video());
      const Size out = view.outgoing().size;
      const Affine way = view.wayAt(position);
      const Place is{way.x(out.width / 2.0, out.height / 2.0) / 1280, way.y(out.width / 2.0, out.height / 2.0) / 720};
      const Place held = valueOf<Place>(after, "place");
      const auto inside = [](double value) { return value > 1e-9 && value < 1 - 1e-9; };
      const bool turned = std::string_view(frame).find("turn") != std::string_view::npos;
      if (inside(held.x) && inside(held.y)) {
        EXPECT_NEAR(is.x, to.x, 1e-6) << frame;
        // All of it is seen from top to bottom: there it cannot go.
        EXPECT_NEAR(is.y, std::string_view(frame) == "shape=tall" ? 0.5 : to.y, 1e-6) << frame;
      } else if (!turned && !inside(held.x)) {
        // At the end of its way that is nearer.
        setTo(after, "place", Place{1 - held.x, held.y});
        const double other = this->view(after, video()).wayAt(position).x(out.width / 2.0, out.height / 2.0) / 1280;
        EXPECT_LE(std::abs(is.x - to.x), std::abs(other - to.x) + 1e-9) << frame;
      }
      after.values = before.values;
      EXPECT_EQ(after, before);
    }
  // Where all is seen nothing moves.
  const Stage all = stage("zoom=100%,place=0.3x0.4");
  EXPECT_EQ(all.kind->withFrameAt(all.values, {0.9, 0.1}, 0, video()), all.values);
}

TEST_F(FramingTest, HasASizeAndShapeOfItsOwn) {
  const auto size = [&](const char* values, Size in = {1280, 720}, Rational aspect = 1) {
    return view(stage(values), video(in, aspect)).outgoing().size;
  };
  EXPECT_EQ(size("shape=tall"), (Size{404, 720}));
  EXPECT_EQ(size("shape=square"), (Size{720, 720}));
  EXPECT_EQ(size("shape=wide", {640, 480}), (Size{640, 360}));
  EXPECT_EQ(size("shape=square", {720, 576}, Rational(16, 15)), (Size{540, 576}));
  EXPECT_EQ(size("shape=own,width=1080,height=1350"), (Size{1080, 1350}));
  // The frame goes from the one side to the other.
  const FramingView tall = view(stage("shape=tall,place=0x0.5@0s+1x0.5@6s"), video());
  EXPECT_NEAR(tall.wayAt(0).x(0, 0), 0, 1e-9);
  EXPECT_NEAR(tall.wayAt(180).x(404, 0), 1280, 1e-9);
  // What comes out of a render has that size.
  RenderSettings settings;
  settings.footage = clip("yuv420p", {96, 64});
  settings.project.chain = {stage("shape=square,zoom=130%"), *parseStage("finish:exposure=0.3", 25)};
  settings.project.output.path = folder / "square.mkv";
  ASSERT_TRUE(render(settings, {}, {}));
  EXPECT_EQ(test::openFootage(folder / "square.mkv")->shape().size, (Size{64, 64}));
}

/// Window, render, piece and any number of threads alike; and wherever it stands among the others.
TEST_F(FramingTest, RendersAsItIsSeenWholeOrInPieces) {
  const auto footage = clip();
  const Stage moves = stage("zoom=110%@0s+190%@1s,turn=5,shake=3%,shake-turn=2,blur=50%,place=0.3x0.6");
  const Stage field = *parseStage("time-field:back=0.3s", 25), finish = *parseStage("finish:saturation=0%@0s+100%@1s", 25),
              echoes = *parseStage("echoes:repeats=3,spacing=0.1s", 25);
  for (const Chain& chain : {Chain{moves}, Chain{field, moves}, Chain{moves, field}, Chain{field, finish, moves, finish},
                             Chain{echoes, moves, finish}, Chain{moves, echoes, stage("shape=tall")}}) {
    RenderSettings settings;
    settings.footage = footage;
    settings.project.chain = chain;
    Evaluator window = evaluator(footage, 3);
    for (const bool piece : {false, true}) {
      settings.threads = piece ? 1 : 4;
      settings.project.output.path = folder / "out.mkv";
      settings.pictures = piece ? std::optional(Span{9, 14}) : std::nullopt;
      ASSERT_TRUE(render(settings, {}, {}));
      const auto frames = test::readAll(*test::openFootage(folder / "out.mkv"));
      ASSERT_EQ(frames.size(), piece ? 6u : 30u);
      for (std::size_t i = 0; i < frames.size(); i += 3)
        EXPECT_TRUE(test::samePicture(frames[i], made(window, chain, static_cast<std::int64_t>(i) + (piece ? 9 : 0))))
            << test::chainWords(chain) << i;
    }
  }
}

/// Places of the pictures that leave and of those that enter, and what is read there, agree with what is seen.
TEST_F(FramingTest, PlacesAreTrueAboveAndBelow) {
  // Each frame is of one value, its number.
  const std::string path = folder / "plain.mkv";
  test::makeGrayClip(path, 30, {96, 64}, [](int frame, int, int) { return 16 + frame * 6; });
  const auto footage = test::openFootage(path);
  Evaluator evaluator = FramingTest::evaluator(footage);
  const Stage field = *parseStage("time-field:back=1s,start=0x0.3,end=1x0.6", 25);
  const Stage moves = stage("zoom=180%,place=0.8x0.3,turn=20,mirror=across,shape=square");
  for (const Chain& chain : {Chain{field, moves}, Chain{moves, field}, Chain{*parseStage("pace:spans=1s@-100%,from=1s", 25), field, moves, field}}) {
    const ChainReading reading(chain, footage->video(InBetween::Whole), nullptr, {}, footage->clock());
    const Moment moment{20};
    const Picture picture = made(evaluator, chain, 20);
    int told = 0;
    for (int y = 1; y < picture.shape().size.height - 1; ++y)
      for (int x = 1; x < picture.shape().size.width - 1; ++x) {
        const unsigned value = test::sampleAt(picture, 0, x, y);
        // On a border between two frames both are mixed.
        bool border = false;
        for (int dy = -1; dy <= 1; ++dy)
          for (int dx = -1; dx <= 1; ++dx)
            border = border || std::abs(static_cast<int>(test::sampleAt(picture, 0, x + dx, y + dy)) - static_cast<int>(value)) > 1;
        if (border) continue;
        ++told;
        EXPECT_NEAR(value, 16 + reading.at(moment, x, y).frame * 6, 1) << x << " " << y;
      }
    EXPECT_GT(told, 300);
    const Place place{0.3, 0.8};
    const Place there = reading.placeInto(0, place, moment), back = reading.placeOutOf(0, there, moment);
    EXPECT_NEAR(back.x, place.x, 1e-9);
    EXPECT_NEAR(back.y, place.y, 1e-9);
    EXPECT_GT(std::hypot(there.x - place.x, there.y - place.y), 0.05);
  }
}

/// A slow zoom over a fine grating: what an eye sees of each place, a few lines together, stays.
TEST_F(FramingTest, ASlowZoomDoesNotShimmer) {
  for (const int line : {1, 2, 3}) {
    const PictureShape shape = floats({320, 180}, false);
    Picture grating(shape);
    for (int p = 0; p < 3; ++p)
      for (int y = 0; y < 180; ++y)
        for (int x = 0; x < 320; ++x) valueOf(grating, p, x, y) = (x / line + y / line) % 2 ? 0.8f : 0.2f;
    const FramingView view = this->view(stage("zoom=100%@0s+180%@6s"), video({320, 180}));
    std::vector<double> before;
    double most = 0;
    for (int n = 0; n < 180; n += n % 20 == 3 ? 16 : 1) {
      const Affine way = view.wayAt(n);
      Picture now = resampled(grating, {&way, 1}, Beyond::StandStill, shape);
      std::vector<double> seen;
      constexpr int wide = 20;
      const auto bell = [](int i) { return (1 - std::cos(2 * pi * (i + 0.5) / wide)) / wide; };
      for (int y = 0; y + wide <= 180; y += wide / 2)
        for (int x = 0; x + wide <= 320; x += wide / 2) {
          double sum = 0;
          for (int j = 0; j < wide; ++j)
            for (int i = 0; i < wide; ++i) sum += static_cast<double>(valueOf(now, 0, x + i, y + j)) * bell(i) * bell(j);
          seen.push_back(sum);
        }
      for (std::size_t i = 0; i < before.size() && n % 20 != 0; ++i) most = std::max(most, std::abs(seen[i] - before[i]));
      before = seen;
    }
    EXPECT_LT(most, 0.03) << line;
  }
}

TEST_F(FramingTest, ItsMovesAreBlurredByLight) {
  const FramingView still = view(stage("blur=50%,zoom=150%"), video());
  EXPECT_EQ(still.waysAt(10).size(), 1u) << "what does not move is not blurred";
  const FramingView slow = view(stage("blur=50%,zoom=100%@0s+101%@6s"), video());
  EXPECT_EQ(slow.waysAt(90).size(), 1u) << "nor what moves by less than is seen";
  const FramingView fast = view(stage("blur=50%,place=0x0.5@0s+1x0.5@1s,zoom=200%"), video());
  const auto ways = fast.waysAt(15);
  EXPECT_GT(ways.size(), 8u);
  EXPECT_NEAR(ways.back().x0 - ways.front().x0, 640.0 / 30 * 0.5, 1) << "half of a picture's time";
  EXPECT_EQ(view(stage("blur=50%,positions=8,place=0x0.5@0s+1x0.5@1s,zoom=200%"), video()).waysAt(15).size(), 8u);
}

}  // namespace
}  // namespace molten

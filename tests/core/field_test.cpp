// Every shape of a Time Field, and all that is done to it, against a slow reading of the definitions: the frame that
// each pixel of real pictures reads, and the field itself.
#include <cmath>
#include <functional>
#include <numbers>
#include <random>

#include "core/engine/evaluator.h"
#include "core/engine/source_material.h"
#include "core/field/field_shaping.h"
#include "core/field/noise_field.h"
#include "core/files/safe_file.h"
#include "core/media/painting_file.h"
#include "core/project/project.h"
#include "core/stages/time_field_map.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

constexpr double turn = 2 * std::numbers::pi;

/// f of a shape at a place in pixels, by its words in the headers. Picture and painted fields take `gray`.
struct SlowField {
  const Stage& stage;
  VideoDescription video;
  double seconds = 0;
  std::string prefix;
  const GrayPicture* gray = nullptr;

  double number(const char* id) const { return valueOf<double>(stage, prefix + id); }
  Place place(const char* id) const { return valueOf<Place>(stage, prefix + id); }

  double at(double x, double y) const {
    const double w = video.size.width, h = video.size.height, a = video.pixelAspect.toDouble();
    const auto& shapes = std::get<ChoicesDescription>(stage.kind->description().parameters[0].kind).choices;
    const std::string shape = shapes[valueOf<std::size_t>(stage, prefix + "shape")].id;
    if (shape == "linear") {
      const Place s = place("start"), e = place("end");
      const double dx = (e.x - s.x) * w, dy = (e.y - s.y) * h, length = a * a * dx * dx + dy * dy;
      return length > 0 ? std::clamp(((x - s.x * w) * a * a * dx + (y - s.y * h) * dy) / length, 0.0, 1.0) : 0;
    }
    if (shape == "picture" || shape == "painted" || shape == "footage") {
      const double gx = std::clamp(x / w * gray->width - 0.5, 0.0, gray->width - 1.0),
                   gy = std::clamp(y / h * gray->height - 0.5, 0.0, gray->height - 1.0);
      const auto sample = [&](double px, double py) {
        return static_cast<double>(
            gray->samples[static_cast<std::size_t>(std::min<int>(static_cast<int>(py), gray->height - 1) * gray->width +
                                                   std::min<int>(static_cast<int>(px), gray->width - 1))]);
      };
      const double fx = gx - std::floor(gx), fy = gy - std::floor(gy);
      return (sample(gx, gy) * (1 - fx) + sample(gx + 1, gy) * fx) * (1 - fy) +
             (sample(gx, gy + 1) * (1 - fx) + sample(gx + 1, gy + 1) * fx) * fy;
    }
    const Place c = place("centre");
    const double dx = (x - c.x * w) * a / h, dy = (y - c.y * h) / h;
    if (shape == "radial") {
      const double angle = number("angle") / 360 * turn;
      const double along = dx * std::cos(angle) + dy * std::sin(angle),
                   aside = (dy * std::cos(angle) - dx * std::sin(angle)) / number("stretch");
      const double r = std::sqrt(along * along + aside * aside), inner = number("inner"), outer = number("outer");
      return std::clamp((r - inner) / (outer - inner), 0.0, 1.0);
    }
    if (shape == "sweep") {
      double turns = std::atan2(dy, dx) / turn - number("angle") / 360;
      turns -= std::floor(turns);
      return std::min(turns / (number("turn") / 360), 1.0);
    }
    // Noise: eight corners, octave by octave.
    double sum = 0, total = 0, detail = number("finer-layers"), height = 1, times = 1 / number("cloud-size");
    for (int octave = 0; octave < detail; ++octave, height /= 2, times *= 2) {
      const double part = height * std::min(1.0, detail - octave);
      const double p[] = {dx * times, dy * times, seconds * number("change") * (1 << octave)};
      double value = 0;
      for (int corner = 0; corner < 8; ++corner) {
        double weight = 1, away[3];
        std::uint32_t hash = 0;
        for (int i = 0; i < 3; ++i) {
          const double cell = std::floor(p[i]), u = p[i] - cell, s = u * u * u * (u * (u * 6 - 15) + 10);
          const int up = corner >> i & 1;
          weight *= up ? s : 1 - s;
          away[i] = u - up;
          const auto lattice = static_cast<std::uint32_t>(static_cast<std::int64_t>(cell) + up);
          hash = i == 0 ? scrambled(lattice + (static_cast<std::uint32_t>(number("seed")) +
                                               static_cast<std::uint32_t>(octave) * 101) *
                                                  0x9e3779b9U)
                        : scrambled(hash + lattice);
        }
        static constexpr int edges[12][3] = {{1, 1, 0},  {-1, 1, 0},  {1, -1, 0}, {-1, -1, 0}, {1, 0, 1},  {-1, 0, 1},
                                             {1, 0, -1}, {-1, 0, -1}, {0, 1, 1},  {0, -1, 1},  {0, 1, -1}, {0, -1, -1}};
        const auto& g = edges[hash % 12];
        value += weight * (g[0] * away[0] + g[1] * away[1] + g[2] * away[2]);
      }
      sum += part * value;
      total += part;
    }
    return std::clamp(0.5 + sum / total, 0.0, 1.0);
  }
};

/// All that follows the shape.
double shaped(const Stage& stage, double f) {
  const auto number = [&](const char* id) { return valueOf<double>(stage, id); };
  const auto single = [](double value) { return static_cast<double>(static_cast<float>(value)); };
  f = single(f);
  f = std::clamp((f - number("levels-from")) / (number("levels-to") - number("levels-from")), 0.0, 1.0);
  f = single(number("out-from") + f * (number("out-to") - number("out-from")));
  const auto& points = valueOf<CurvePoints>(stage, "response");
  if (points != straightCurve) f = ResponseCurve(points).at(f);
  const double u = f * number("repeat"), lap = std::floor(u), part = u - lap;
  if (valueOf<bool>(stage, "mirror"))
    f = std::fmod(lap, 2) == 1 ? 1 - part : part;
  else
    f = part == 0 && u > 0 ? 1 : part;
  if (const double n = number("panes"); n >= 2) f = std::min(std::floor(single(f) * n), n - 1) / (n - 1);
  return valueOf<bool>(stage, "flip") ? 1 - f : f;
}

double displacement(const Stage& stage, const VideoDescription& video, double x, double y, double seconds,
                    const GrayPicture* gray = nullptr) {
  double f = SlowField{stage, video, seconds, "", gray}.at(x, y);
  const std::string& how = chosenOf(stage, "combine");
  const double g = how == "alone" ? 0 : SlowField{stage, video, seconds, "second-", gray}.at(x, y);
  if (how == "product") f *= g;
  if (how == "larger") f = std::max(f, g);
  if (how == "smaller") f = std::min(f, g);
  if (how == "sum") f = std::min(f + g, 1.0);
  f = shaped(stage, f);
  const double back = valueOf<double>(stage, "back"), ahead = valueOf<double>(stage, "ahead");
  const double hold = pinHold(stage.values, seconds);
  const double moving = -back + f * (back + ahead),
               held = (1 - f) * (valueOf<double>(stage, "pinned-moment") - seconds);
  const double d = hold * held + (1 - hold) * moving;
  return d * video.rate.toDouble() * (how == "only-where" ? g : 1);
}

const char* const shapes[] = {
    "shape=linear,start=0.1x0.2,end=0.9x0.7",
    "shape=radial,centre=0.4x0.6,inner=10%,outer=70%,stretch=150%,angle=30deg",
    "shape=radial,inner=50%,outer=5%",
    "shape=sweep,centre=0.3x0.55,angle=100deg,turn=250deg",
    "shape=sweep",
    "shape=noise,cloud-size=40%,finer-layers=2.5,seed=7",
    "shape=noise,cloud-size=13%,finer-layers=1,change=1.5",
    "shape=linear,response=0x0+0.3x0.8+1x1",
    "shape=linear,repeat=3,mirror,levels-from=0.1,levels-to=0.9",
    "shape=radial,repeat=2.5,out-from=0.2,out-to=0.9,flip",
    "shape=linear,start=0x0,end=1x1,panes=6",
    "shape=linear,combine=product,second-shape=radial",
    "shape=linear,combine=larger,second-shape=sweep",
    "shape=noise,combine=smaller,second-shape=linear,second-start=0x0.5,second-end=1x0.5",
    "shape=linear,combine=sum,second-shape=noise",
    "shape=linear,combine=only-where,second-shape=radial,second-inner=20%",
    "shape=linear,start-holds=pinned,pinned-moment=0.7s",
    "shape=radial,start-holds=pinned,pinned-moment=0.2s,let-go=0.6s,let-go-over=0.5s",
    "shape=linear,start-holds=pinned,pinned-moment=0.9s,take-hold=0.3s,let-go=0.8s,let-go-over=0.2s",
};

/// Whether a position lies so near to the border between two frames that the last bit of a float decides.
bool onBorder(double d) {
  const double off = d + 0.5 - std::floor(d + 0.5);
  return off < 1e-4 || off > 1 - 1e-4;
}

/// A clip in which any two frames can be told apart.
struct Noise {
  TempFolder folder;
  std::string path = folder / "clip.mkv";
  std::shared_ptr<const Footage> footage;
  std::vector<Picture> frames;
  std::unique_ptr<Evaluator> evaluator;
  explicit Noise(Size size = {95, 54}, int count = 40, const std::string& format = "yuv420p") {
    test::makeNoiseClip(path, count, size, format);
    footage = test::openFootage(path);
    frames = test::readAll(*footage);
    evaluator = std::make_unique<Evaluator>(std::make_shared<FrameFeed>(footage, std::size_t(1) << 28, 1), 2);
  }
};

void expectFormula(const Noise& noise, const Stage& stage, const std::function<GrayPicture(int)>& grayAt = {}) {
  const VideoDescription video = noise.footage->video();
  const PicturePlan plan = noise.evaluator->plan({stage}, {});
  const auto past = static_cast<PastTheEnds>(valueOf<std::size_t>(stage, "past-the-ends"));
  const auto count = static_cast<std::int64_t>(noise.frames.size());
  int borders = 0;
  for (const int n : {0, static_cast<int>(count) * 2 / 5, static_cast<int>(count) - 1}) {
    const auto picture = noise.evaluator->picture(plan, {n, 0}, {});
    ASSERT_TRUE(picture) << picture.error().message;
    const GrayPicture gray = grayAt ? grayAt(n) : GrayPicture{};
    const double seconds = n / video.rate.toDouble();
    Stage now = stage;
    now.values = stage.valuesAt(seconds);
    for (int p = 0; p < picture->format().planes(); ++p) {
      const PlaneSites sites = planeSites(noise.footage->shape(), p, 1);
      for (int y = 0; y < sites.height; ++y)
        for (int x = 0; x < sites.width; ++x) {
          const double d = displacement(now, video, sites.x0 + x * sites.stepX, sites.y0 + y * sites.stepY, seconds,
                                        grayAt ? &gray : nullptr);
          if (onBorder(d)) {
            ++borders;
            continue;
          }
          const auto frame = foldFrame(n + static_cast<std::int64_t>(std::floor(d + 0.5)), count, past);
          ASSERT_EQ(test::sampleAt(*picture, p, x, y),
                    test::sampleAt(noise.frames[static_cast<std::size_t>(frame)], p, x, y))
              << stageText(stage) << " " << n << " plane " << p << " at " << x << " " << y << " d " << d;
        }
    }
  }
  // Most pixels must have been looked at.
  const Size size = noise.footage->shape().size;
  EXPECT_LT(borders, size.width * size.height);
}

class FieldShapes : public testing::TestWithParam<const char*> {};

TEST_P(FieldShapes, EverySampleIsTheFormulas) {
  const Noise noise;
  expectFormula(noise,
                *parseStage(std::string("time-field:back=0.5s,ahead=0.3s,past-the-ends=turn-back,") + GetParam(), 25));
}
INSTANTIATE_TEST_SUITE_P(All, FieldShapes, testing::ValuesIn(shapes));

TEST(Fields, OtherFormatsAndOddSizes) {
  for (const char* format : {"yuv422p10le", "gbrp", "gray"}) {
    const Noise noise({47, 33}, 12, format);
    expectFormula(noise, *parseStage("time-field:shape=radial,back=0.3s,ahead=0.1s,past-the-ends=go-round", 25));
  }
  const Noise single({33, 20}, 1);
  expectFormula(single, *parseStage("time-field:shape=noise,back=1s", 25));
}

TEST(Fields, KeysGoFromValueToValue) {
  const Noise noise;
  for (const char* keys :
       {"back=0s@0s+1s@1s+0.2s@1.5s~hold", "shape=radial,centre=0.1x0.1@0s+0.9x0.8@1.4s~ease",
        "shape=sweep,angle=0deg@0.2s+400deg@1.3s~0.8x0.1,repeat=1@0s+3@1s", "panes=2@0s+9@1s,back=1s"})
    expectFormula(noise, *parseStage(std::string("time-field:past-the-ends=turn-back,") + keys, 25));
}

TEST(Fields, APictureIsReadAtItsFullDepth) {
  const Noise noise({96, 54}, 30);
  // A ramp of 16 bits, as wide as the frame, and a coarse picture that is stretched over it.
  for (const Size size : {Size{96, 54}, Size{7, 5}}) {
    std::vector<std::uint16_t> samples;
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x)
        samples.push_back(static_cast<std::uint16_t>((x * 7919 + y * 104729) % 65536));
    const PaintedPicture painted(size, samples);
    const std::string file = noise.folder / "field.png";
    test::writeFile(file, *paintingBytes(painted));
    const auto gray = [&](int) { return *painted.gray(); };
    expectFormula(noise, *parseStage("time-field:shape=picture,back=1s,file=" + file, 25), gray);
    Stage stage = *parseStage("time-field:shape=painted,back=1s", 25);
    setTo(stage, "painted", Painting{"", std::make_shared<const PaintedPicture>(size, samples)});
    expectFormula(noise, stage, gray);
    const auto back = readPainting(file);
    ASSERT_TRUE(back);
    EXPECT_TRUE((*back)->sameAs(painted));
  }
}

TEST(Fields, AWideRampHasNoStepWiderThanItMust) {
  // 3840 pixels, 16 bits: one sample value is 1/17 pixel, so steps are told by the field alone.
  std::vector<std::uint16_t> ramp;
  for (int x = 0; x < 3840; ++x) ramp.push_back(static_cast<std::uint16_t>(std::lround(x * 65535.0 / 3839)));
  const auto picture = PaintedPicture({3840, 1}, ramp).gray();
  const PictureField field(picture, PictureFit::Stretch, {0.5, 0.5}, 1, {{3840, 2}, 1});
  PlaneSites sites;
  sites.width = 3840, sites.height = 2;
  std::vector<float> f(3840);
  field.row(sites, 0, f);
  const double frames = 240;
  int run = 0, widest = 0;
  double last = -1;
  for (const float value : f) {
    const double frame = std::floor(static_cast<double>(value) * frames + 0.5);
    run = frame == last ? run + 1 : 1;
    last = frame;
    widest = std::max(widest, run);
  }
  EXPECT_EQ(widest, 16);
}

TEST(Fields, TheFootagesOwnBrightnessSaysTheMoment) {
  const Noise noise({64, 36}, 20);
  const auto gray = [&](int n) { return grayOf(noise.frames[static_cast<std::size_t>(n)]); };
  expectFormula(noise, *parseStage("time-field:shape=footage,back=0.4s", 25), gray);
  // Of another clip, which ends earlier and then stays.
  const std::string other = noise.folder / "other.mkv";
  test::makeNoiseClip(other, 5, {64, 36}, "gray");
  const auto frames = test::readAll(*test::openFootage(other));
  expectFormula(noise, *parseStage("time-field:shape=footage,back=0.4s,clip=" + other, 25),
                [&](int n) { return grayOf(frames[static_cast<std::size_t>(std::min(n, 4))]); });
}

TEST(Fields, WhatStandsBeforeAFieldIsWhatItMeasures) {
  const Noise noise({64, 36}, 20);
  // A Frame Order before it turns the clip round: the field is made of what comes out.
  const Chain chain = {*parseStage("frame-order:order=19-0", 25),
                       *parseStage("time-field:shape=footage,back=0.4s", 25)};
  const PicturePlan plan = noise.evaluator->plan(chain, {});
  const auto picture = noise.evaluator->picture(plan, {12, 0}, {});
  ASSERT_TRUE(picture);
  const GrayPicture gray = grayOf(noise.frames[7]);
  for (int y = 0; y < 36; ++y)
    for (int x = 0; x < 64; ++x) {
      const double d =
          (std::clamp(static_cast<double>(gray.samples[static_cast<std::size_t>(y * 64 + x)]), 0.0, 1.0) - 1) * 0.4 *
          30;
      // A Frame Order shows a frame until the next one begins.
      if (onBorder(d + 0.5)) continue;
      const auto frame = static_cast<std::size_t>(19 - std::clamp(12 + static_cast<int>(std::floor(d)), 0, 19));
      ASSERT_EQ(test::sampleAt(*picture, 0, x, y), test::sampleAt(noise.frames[frame], 0, x, y)) << x << " " << y;
    }
}

TEST(Fields, AMissingPictureIsSaid) {
  const Noise noise({32, 18}, 3);
  const PicturePlan plan =
      noise.evaluator->plan({*parseStage("time-field:shape=picture,file=/nowhere/map.png", 25)}, {});
  const auto picture = noise.evaluator->picture(plan, {1, 0}, {});
  ASSERT_FALSE(picture);
  EXPECT_NE(picture.error().message.find("map.png"), std::string::npos);
}

TEST(Fields, DitherScattersByAsMuchAsItSaysAndStandsStill) {
  const VideoDescription video{{320, 180}, 1, 25, 100};
  const auto displaced = [&](const char* text, std::int64_t picture) {
    const Stage stage = *parseStage(std::string("time-field:back=0s,") + text, 25);
    const auto map = stage.kind->timeMap(stage, video);
    PlaneSites sites;
    sites.width = 320, sites.height = 180;
    std::vector<double> all, row(320);
    for (int y = 0; y < 180; ++y) {
      map->displacing()->displacement({picture, 0})->row(sites, y, row);
      all.insert(all.end(), row.begin(), row.end());
    }
    return all;
  };
  const auto still = displaced("dither=2f", 3);
  double sum = 0, squares = 0, most = 0;
  for (const double d : still) sum += d, squares += d * d, most = std::max(most, std::abs(d));
  const double count = static_cast<double>(still.size());
  EXPECT_NEAR(sum / count, 0, 0.02);
  EXPECT_NEAR(squares / count, 4.0 / 6, 0.02);  // of a triangle from -2 to 2
  EXPECT_LE(most, 2);
  EXPECT_GT(most, 1.9);
  EXPECT_EQ(displaced("dither=2f", 4), still);
  EXPECT_NE(displaced("dither=2f,fresh", 4), displaced("dither=2f,fresh", 3));
  EXPECT_EQ(displaced("dither=2f,fresh", 3), displaced("dither=2f,fresh", 3));
  EXPECT_NE(displaced("dither=2f,dither-seed=5", 3), still);
}

TEST(Fields, BoundsHoldWhateverIsSet) {
  std::mt19937 random(5);
  const VideoDescription video{{64, 36}, Rational(4, 3), 25, 60};
  PlaneSites sites;
  sites.width = 64, sites.height = 36;
  std::vector<double> d(64);
  for (const char* shape : shapes)
    for (const char* more : {"", ",dither=1.5f,fresh", ",back=0s@0s+2s@1s~ease,ahead=1s@0.5s+0s@2s",
                             ",start-holds=pinned,pinned-moment=1s,let-go=1s,let-go-over=0.7s"}) {
      const Stage stage = *parseStage(std::string("time-field:back=0.7s,ahead=0.4s,") + shape + more, 25);
      const auto map = stage.kind->timeMap(stage, video);
      for (std::int64_t n = 0; n < 60; n += 1 + static_cast<std::int64_t>(random() % 9)) {
        const Reach all = map->reach(), now = map->displacing()->reachAt({n, 0});
        for (int y = 0; y < 36; y += 5) {
          map->displacing()->displacement({n, 0})->row(sites, y, d);
          for (const double value : d) {
            ASSERT_GE(value, now.least - 1e-4) << stageText(stage);
            ASSERT_LE(value, now.most + 1e-4) << stageText(stage);
            ASSERT_GE(value, all.least - 1e-4) << stageText(stage);
            ASSERT_LE(value, all.most + 1e-4) << stageText(stage);
          }
        }
      }
    }
}

TEST(Painting, AStrokePaintsOnceAndLeavesTheRest) {
  const auto base = std::make_shared<const PaintedPicture>(Size{200, 150});
  Stroke stroke(base, {20, 0.5, 0.8});
  stroke.to(50, 50);
  stroke.to(150, 50);
  const auto painted = stroke.to(50, 50);
  EXPECT_NEAR(painted->at(100, 50), 0.8 * 65535, 1);
  EXPECT_EQ(painted->at(100, 120), 0);
  EXPECT_GT(painted->at(100, 64), 0);
  EXPECT_LT(painted->at(100, 64), 0.8 * 65535);
  EXPECT_TRUE(base->sameAs(PaintedPicture({200, 150})));
  const Place box[] = {{10, 10}, {190, 10}, {190, 140}, {10, 140}};
  const auto filledBox = filledWithin(*painted, box, 0.5, 0);
  EXPECT_EQ(filledBox->at(5, 5), 0);
  EXPECT_NEAR(filledBox->at(188, 138), 32768, 1);
  EXPECT_NEAR(filledBox->at(100, 75), 32768, 1);
  // A gradient goes evenly from one place to the other, and is level beyond them.
  const auto gradient = withGradient(*painted, {50, 75}, {150, 75}, 0.2, 1);
  for (const int y : {0, 75, 149}) {
    EXPECT_NEAR(gradient->at(20, y), 0.2 * 65535, 1);
    EXPECT_NEAR(gradient->at(99, y), (0.2 + 0.8 * 0.495) * 65535, 2);
    EXPECT_EQ(gradient->at(180, y), 65535);
  }
  EXPECT_EQ(filled(*painted, 1)->at(3, 3), 65535);
}

/// A field that is made of numbered stills, or of a clip: where it begins, and what it does when it is over.
TEST(MovingField, BeginsAndEndsAsItIsTold) {
  const test::TempFolder folder;
  constexpr int pictures = 4;
  test::makeGrayClip(folder / "field.mkv", pictures, {32, 18}, [](int n, int, int) { return 51 * n; });
  ASSERT_EQ(
      test::runCommand("ffmpeg -v error -i " + folder / "field.mkv" + " -start_number 0 " + folder / "field-%02d.png")
          .exitCode,
      0);
  test::makeGrayClip(folder / "shot.mkv", 20, {32, 18}, [](int n, int, int) { return n; });
  const auto footage = test::openFootage(folder / "shot.mkv");
  const double rate = footage->clock().rate().toDouble();
  const auto folded = [](int i, const std::string& ends) {
    if (ends == "stand-still") return std::clamp(i, 0, pictures - 1);
    if (ends == "go-round") return i % pictures;
    const int round = i % (2 * pictures - 2);
    return round < pictures ? round : 2 * pictures - 2 - round;
  };
  for (const std::string ends : {"stand-still", "go-round", "turn-back"})
    for (const int begins : {0, 2})
      for (const std::string& way : {"shape=picture,file=" + folder / "field.mkv" +
                                         ",file-begins-at=" + std::to_string(begins) + "f,after-the-file=" + ends,
                                     "shape=picture,file=" + folder / "field-%02d.png" +
                                         ",file-begins-at=" + std::to_string(begins) + "f,after-the-file=" + ends,
                                     "shape=footage,clip=" + folder / "field.mkv" +
                                         ",clip-begins-at=" + std::to_string(begins) + "f,after-the-clip=" + ends}) {
        const Stage stage = *parseStage("time-field:ahead=1s,back=0s," + way, footage->clock().rate());
        const auto material = test::fieldMaterial(footage, 1);
        const auto map = stage.kind->timeMap(stage, footage->video(), {material, std::make_shared<const Chain>()});
        PlaneSites pixel;
        pixel.width = pixel.height = 1;
        pixel.x0 = 7.5, pixel.y0 = 4.5;
        for (int n = 0; n < 11; ++n) {
          double d = 0;
          map->displacing()->displacement({n})->row(pixel, 0, {&d, 1});
          EXPECT_NEAR(d / rate, 51 * folded(n + begins, ends) / 255.0, 1e-6) << way << " at " << n;
        }
      }
}

/// Whatever the shape, what is clicked goes on showing the moment that it showed.
TEST(Pin, HoldsWhatIsPicked) {
  const VideoDescription video{{160, 90}, 1, 30, 120};
  std::mt19937 random(17);
  const auto somewhere = [&] { return 0.05 + 0.9 * static_cast<double>(random() % 1000) / 1000; };
  for (const char* const shape :
       {"back=1s", "back=0.4s,ahead=1s,flip", "shape=radial,back=1s", "shape=radial,back=1s,flip",
        "shape=radial,back=1s,inner=50%,outer=10%,stretch=170%,angle=33deg",
        "shape=sweep,back=1s,angle=40deg,turn=200deg", "shape=noise,back=1s", "shape=noise,ahead=1s,flip",
        "back=1s,start-holds=pinned,pinned-moment=3s"})
    for (int round = 0; round < 20; ++round) {
      Stage stage = *parseStage(std::string("time-field:") + shape, 30);
      const Place place{somewhere(), somewhere()};
      const double now = 2;
      PlaneSites pixel;
      pixel.width = pixel.height = 1;
      pixel.x0 = std::floor(place.x * 160) + 0.5, pixel.y0 = std::floor(place.y * 90) + 0.5;
      const auto readAt = [&](double seconds) {
        double frames = 0;
        stage.kind->timeMap(stage, video)
            ->displacing()
            ->displacement(Moment::at(Rational::near(seconds), 30))
            ->row(pixel, 0, {&frames, 1});
        return seconds + frames / 30;
      };
      const double read = readAt(now);
      stage.values = stage.kind->picked(stage.values, "pin-here", {place, now, read}, video);
      for (const double later : {0.5, 2.0, 3.5})
        EXPECT_NEAR(readAt(later), read, 0.04) << shape << " at " << place.x << ", " << place.y << " s " << later;
    }
}

TEST(Pin, TakesHoldAndLetsGo) {
  const Stage stage =
      *parseStage("time-field:start-holds=pinned,pinned-moment=1s,take-hold=2s,let-go=4s,let-go-over=1s", 30);
  for (const auto& [seconds, hold] :
       {std::pair{0.0, 0.0}, {2, 0}, {2.5, 0.5}, {3, 1}, {4, 1}, {4.5, 0.5}, {5, 0}, {9, 0}})
    EXPECT_DOUBLE_EQ(pinHold(stage.values, seconds), hold) << seconds;
}

/// Both shapes of a field have it; brightness knows no fastest motion.
TEST(Fields, FastestMotionCountsWhereMotionIsMeasured) {
  const auto counts = [](const char* words, const char* id) {
    const Stage stage = *parseStage(words, 25);
    const StageDescription& described = stage.kind->description();
    return isInUse(described, stage.values, parameterIndex(described, id));
  };
  EXPECT_FALSE(counts("time-field:shape=footage", "fastest-motion"));
  EXPECT_TRUE(counts("time-field:shape=footage,measure=motion", "fastest-motion"));
  EXPECT_FALSE(counts("time-field:shape=linear,measure=motion", "fastest-motion"));
  EXPECT_TRUE(counts("time-field:combine=sum,second-shape=footage,second-measure=motion", "second-fastest-motion"));
  EXPECT_FALSE(counts("time-field:second-shape=footage,second-measure=motion", "second-fastest-motion"));
}

}  // namespace
}  // namespace molten

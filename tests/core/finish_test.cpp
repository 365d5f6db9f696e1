// Finish: what its values make of colours, and that it does so wherever in a chain it stands.
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/engine/evaluator.h"
#include "core/engine/render_job.h"
#include "core/field/response_curve.h"
#include "support/clips.h"
#include "support/random_chains.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

/// Slow and obvious, in doubles, of red, green and blue as they are shown.
struct Reference {
  double exposure = 0, contrast = 1, middle = 0.5, black = 0, white = 1, saturation = 1, hue = 0, warmth = 0, fade = 1;
  CurvePoints curve = straightCurve;

  static double toLight(double v) {
    const double a = std::abs(v);
    return std::copysign(a <= 0.04045 ? a / 12.92 : std::pow((a + 0.055) / 1.055, 2.4), v);
  }
  static double toShown(double l) {
    const double a = std::abs(l);
    return std::copysign(a <= 0.0031308 ? a * 12.92 : 1.055 * std::pow(a, 1 / 2.4) - 0.055, l);
  }
  std::array<double, 3> of(std::array<double, 3> v, double kr, double kb) const {
    const double kg = 1 - kr - kb, red = std::pow(2, warmth / 2), blue = std::pow(2, -warmth / 2);
    const double luma = kr * red + kg + kb * blue;
    const double gain[] = {red / luma, 1 / luma, blue / luma};
    for (std::size_t c = 0; c < 3; ++c) {
      v[c] = toShown(toLight(v[c]) * std::pow(2, exposure) * gain[c]);
      v[c] = (v[c] - black) / (white - black);
      v[c] = middle + (v[c] - middle) * contrast;
      const double inside = std::min(1.0, std::max(0.0, v[c]));
      v[c] = ResponseCurve(curve).at(inside) + v[c] - inside;
    }
    const double y = kr * v[0] + kg * v[1] + kb * v[2], turn = hue * std::acos(-1.0) / 180;
    const double cb = (v[2] - y) / (2 - 2 * kb), cr = (v[0] - y) / (2 - 2 * kr);
    const double b = saturation * (std::cos(turn) * cb - std::sin(turn) * cr),
                 r = saturation * (std::sin(turn) * cb + std::cos(turn) * cr);
    v = {y + (2 - 2 * kr) * r, 0, y + (2 - 2 * kb) * b};
    v[1] = (y - kr * v[0] - kb * v[2]) / kg;
    for (double& value : v) value *= fade;
    return v;
  }
};

class FinishTest : public ::testing::Test {
 protected:
  Stage stage(const std::string& values = "") {
    return *parseStage("finish" + (values.empty() ? "" : ":" + values), 30);
  }
  std::shared_ptr<const Footage> clip(const char* format = "yuv420p", int frames = 24) {
    const std::string path = folder / (std::string(format) + std::to_string(frames) + ".mkv");
    if (!std::filesystem::exists(path)) test::makeNoiseClip(path, frames, {42, 26}, format, "");
    return test::openFootage(path);
  }
  static Evaluator evaluator(const std::shared_ptr<const Footage>& footage, int threads = 2) {
    return Evaluator(std::make_shared<FrameFeed>(footage, std::size_t(1) << 26, 1), threads);
  }
  static Picture made(Evaluator& evaluator, const Chain& chain, std::int64_t n) {
    const PicturePlan plan = evaluator.plan(chain, {1, InBetween::Whole, 30});
    auto picture = evaluator.picture(plan, {n, 0}, {});
    EXPECT_TRUE(picture);
    return *picture;
  }
  TempFolder folder;
};

/// Random values on random colours, beyond black and white too: one part in 65535.
TEST_F(FinishTest, ColoursAreThoseOfTheFormula) {
  std::mt19937 random(17);
  const auto within = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
  PictureShape shape;
  shape.size = {37, 5};
  shape.format = {ColourModel::Rgb, 32, 0, 0, false, true};
  const WorkingFormat format(shape, Light::Display);
  const auto weights = format.lumaWeights();
  for (int round = 0; round < 40; ++round) {
    Reference wanted;
    Stage finish = stage();
    const auto set = [&](const char* id, double& value, double a, double b) {
      if (round > 0 && random() % 3 == 0) return;
      value = within(a, b);
      setTo(finish, id, value);
    };
    if (round > 0) {
      set("exposure", wanted.exposure, -2, 2), set("contrast", wanted.contrast, 0, 2),
          set("middle", wanted.middle, 0, 1);
      set("black", wanted.black, -0.2, 0.3), set("white", wanted.white, 0.5, 2), set("hue", wanted.hue, -360, 360);
      set("saturation", wanted.saturation, 0, 3), set("warmth", wanted.warmth, -1, 1);
      if (random() % 2) setTo(finish, "curve", wanted.curve = {{0, 0.1}, {0.4, within(0.2, 0.8)}, {1, 0.9}});
    }
    Picture in(shape);
    for (int p = 0; p < 3; ++p)
      for (int y = 0; y < 5; ++y)
        for (int x = 0; x < 37; ++x)
          reinterpret_cast<float*>(in.writableRow(p, y))[x] = static_cast<float>(within(-0.2, 1.4));
    VideoDescription video{shape.size, 1, 25, 10};
    const auto map = finish.kind->timeMap(finish, video);
    PixelChanges changes;
    if (auto change = map->pixelWork()->changeAt({3, 0})) changes.push_back(std::move(change));
    EXPECT_EQ(changes.empty(), round == 0);
    const Picture out = worked(in, changes, shape);
    const auto at = [](const Picture& picture, int p, int x, int y) {
      return static_cast<double>(reinterpret_cast<const float*>(picture.row(p, y))[x]);
    };
    for (int y = 0; y < 5; ++y)
      for (int x = 0; x < 37; ++x) {
        // Planes are in the order G B R.
        const auto rgb = wanted.of({at(in, 2, x, y), at(in, 0, x, y), at(in, 1, x, y)}, weights[0], weights[2]);
        const double near = 1.0 / 65535 * std::max(1.0, std::abs(rgb[0]) + std::abs(rgb[1]) + std::abs(rgb[2]));
        EXPECT_NEAR(at(out, 2, x, y), rgb[0], near) << stageText(finish);
        EXPECT_NEAR(at(out, 0, x, y), rgb[1], near) << stageText(finish);
        EXPECT_NEAR(at(out, 1, x, y), rgb[2], near) << stageText(finish);
      }
  }
}

TEST_F(FinishTest, AtItsDefaultsNoSampleIsChanged) {
  for (const char* format : {"yuv420p", "yuva444p", "gray", "gray10le", "yuv422p10le", "gbrap", "yuv411p"}) {
    const auto footage = clip(format);
    Evaluator with = evaluator(footage), without = evaluator(footage);
    for (const Chain& chain : {Chain{}, Chain{*parseStage("time-field:back=0.3s", 25)}}) {
      Chain finished = chain;
      finished.push_back(stage());
      EXPECT_TRUE(test::samePicture(made(with, finished, 12), made(without, chain, 12))) << format;
    }
  }
}

/// Before or after what only chooses times it is the same picture, to the bit.
TEST_F(FinishTest, CommutesWithWhatOnlyChoosesTimes) {
  const Stage bright = stage("exposure=0.7,saturation=40%,warmth=30%");
  for (const char* format : {"yuv420p", "gray", "gbrap", "yuv422p10le"}) {
    const auto footage = clip(format);
    for (const char* other :
         {"pace:spans=1s@40%", "step-rate:rate=7", "frame-order:order=3-20", "time-field:back=0.4s",
          "time-field:shape=noise,back=0.2s,ahead=0.2s,past-the-ends=transparent", "loop:kind-of-loop=round"}) {
      Evaluator a = evaluator(footage), b = evaluator(footage, 1);
      const Stage chooses = *parseStage(other, 25);
      for (const std::int64_t n : {0, 9, 17})
        EXPECT_TRUE(test::samePicture(made(a, {bright, chooses}, n), made(b, {chooses, bright}, n)))
            << format << " " << other << " " << n;
    }
  }
}

/// What changes with time is done to each moment as it is then, also where a field reads many of them.
TEST_F(FinishTest, WithKeysEachMomentIsChangedAsItIsThen) {
  const auto footage = clip("gbrp");
  Evaluator evaluator = FinishTest::evaluator(footage);
  const Stage keyed = stage("saturation=100%@0s+0%@0.6s");
  const Stage field = *parseStage("time-field:back=0.4s", 25);
  std::vector<Picture> finished;
  for (std::int64_t n = 0; n < 24; ++n) finished.push_back(made(evaluator, {keyed}, n));
  EXPECT_FALSE(test::samePicture(finished[0], made(evaluator, {stage("saturation=0%")}, 0)));
  EXPECT_TRUE(test::samePicture(finished[22], made(evaluator, {stage("saturation=0%")}, 22)));
  const Chain chain{keyed, field};
  const ChainReading reading(chain, footage->video(InBetween::Whole), nullptr, {}, footage->clock());
  const Picture picture = made(evaluator, chain, 15);
  for (int y = 0; y < 26; ++y)
    for (int x = 0; x < 42; ++x) {
      const auto frame = static_cast<std::size_t>(reading.at(Moment{15}, x, y).frame);
      for (int p = 0; p < 3; ++p)
        ASSERT_EQ(test::sampleAt(picture, p, x, y), test::sampleAt(finished[frame], p, x, y)) << x << " " << y;
    }
}

/// Nothing is cut off between stages: what echoes push beyond white comes back.
TEST_F(FinishTest, WhatIsBeyondWhiteComesBack) {
  const auto footage = clip("gbrp");
  Evaluator evaluator = FinishTest::evaluator(footage);
  const std::string echoes = "echoes:repeats=1,spacing=1f,reckoned-in=linear,nearest=100%,farthest=100%,mix=";
  const Stage sum = *parseStage(echoes + "light,below-white=off", 30), mean = *parseStage(echoes + "mean", 30);
  const Picture plain = made(evaluator, {mean}, 10), back = made(evaluator, {sum, stage("exposure=-1")}, 10);
  const Picture burnt = made(evaluator, {sum}, 10);
  int off = 0, white = 0;
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < 26; ++y)
      for (int x = 0; x < 42; ++x) {
        off = std::max(off, std::abs(static_cast<int>(test::sampleAt(plain, p, x, y)) -
                                     static_cast<int>(test::sampleAt(back, p, x, y))));
        white += test::sampleAt(burnt, p, x, y) == 255;
      }
  EXPECT_LE(off, 1);
  EXPECT_GT(white, 150);
}

TEST_F(FinishTest, FadesBeginAndEndInBlack) {
  const auto footage = clip("gray", 51);
  Evaluator evaluator = FinishTest::evaluator(footage);
  const Stage fades = stage("fade-in=10f,fade-out=25f");
  const auto brightest = [&](std::int64_t n) {
    const Picture picture = made(evaluator, {fades}, n);
    unsigned most = 0;
    for (int y = 0; y < 26; ++y)
      for (int x = 0; x < 42; ++x) most = std::max(most, test::sampleAt(picture, 0, x, y));
    return most;
  };
  EXPECT_EQ(brightest(0), blackSample(footage->shape(), 0));
  EXPECT_NEAR(brightest(5), 128, 6);
  EXPECT_TRUE(test::samePicture(made(evaluator, {fades}, 10), made(evaluator, {}, 10)));
  EXPECT_TRUE(test::samePicture(made(evaluator, {fades}, 25), made(evaluator, {}, 25)));
  EXPECT_NEAR(brightest(38), 128, 8);
  EXPECT_EQ(brightest(50), blackSample(footage->shape(), 0));
}

/// The window's pictures, a render's, and those of a piece of it, on any number of threads.
TEST_F(FinishTest, RendersAsItIsSeenWholeOrInPieces) {
  const auto footage = clip();
  for (const char* field : {"", "time-field:back=0.3s", "echoes:repeats=3,spacing=0.1s"}) {
    RenderSettings settings;
    settings.footage = footage;
    if (*field) settings.project.chain.push_back(*parseStage(field, 25));
    settings.project.chain.push_back(stage("exposure=0.5,contrast=120%,hue=40,fade-in=0.5s"));
    Evaluator window = evaluator(footage, 3);
    for (const bool piece : {false, true}) {
      settings.threads = piece ? 1 : 4;
      settings.project.output.path = folder / "out.mkv";
      if (piece) settings.pictures = Span{9, 14};
      ASSERT_TRUE(render(settings, {}, {}));
      const auto frames = test::readAll(*test::openFootage(folder / "out.mkv"));
      for (std::size_t i = 0; i < frames.size(); ++i)
        EXPECT_TRUE(test::samePicture(
            frames[i], made(window, settings.project.chain, static_cast<std::int64_t>(i) + (piece ? 9 : 0))))
            << field << i;
    }
  }
}

/// How bright a picture is, in the light that its values stand for; all of them are above black and below white.
double lightOf(const Picture& picture) {
  double sum = 0;
  const Size size = picture.shape().size;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x)
      sum += Reference::toLight(test::sampleAt(picture, 0, x, y) / 255.0) / (size.width * size.height);
  return sum;
}

/// Each picture by so many stops, no further; as often as it says, and once a picture that is held below.
TEST_F(FinishTest, FlickerIsAsFarAndAsOftenAsItSays) {
  const std::string path = folder / "even.mkv";
  test::makeGrayClip(path, 100, {16, 16}, [](int, int, int) { return 100; });
  const auto footage = test::openFootage(path);
  Evaluator evaluator = FinishTest::evaluator(footage);
  const double plain = lightOf(made(evaluator, {}, 0));
  const auto stops = [&](const Chain& chain) {
    std::vector<double> all;
    for (std::int64_t n = 0; n < 100; ++n) all.push_back(std::log2(lightOf(made(evaluator, chain, n)) / plain));
    return all;
  };
  const auto changes = [](const std::vector<double>& all) {
    int count = 0;
    for (std::size_t i = 1; i < all.size(); ++i) count += all[i] != all[i - 1];
    return count;
  };
  const auto each = stops({stage("flicker=0.5")});
  EXPECT_GT(changes(each), 85) << "but for those that are alike in 8 bits";
  EXPECT_LE(*std::max_element(each.begin(), each.end()), 0.53);
  EXPECT_GT(*std::max_element(each.begin(), each.end()), 0.4);
  EXPECT_GE(*std::min_element(each.begin(), each.end()), -0.53);
  EXPECT_LT(*std::min_element(each.begin(), each.end()), -0.4);
  EXPECT_EQ(changes(stops({stage("flicker=0.5,flicker-times=5")})), 19) << "four seconds";
  const Stage held = *parseStage("step-rate:rate=5", 25);
  const Chain below{held, stage("flicker=0.5")};
  const auto steps = stops(below);
  EXPECT_EQ(changes(steps), 19);
  for (std::size_t i = 0; i < 100; ++i) EXPECT_EQ(steps[i], steps[i / 5 * 5]) << i;
  EXPECT_FALSE(test::samePicture(made(evaluator, {stage("flicker=0.5,flicker-seed=2")}, 3),
                                 made(evaluator, {stage("flicker=0.5")}, 3)));
}

TEST_F(FinishTest, GrainIsAsStrongAsItSaysAndTheSameEverywhere) {
  const std::string path = folder / "even.mkv";
  test::makeGrayClip(path, 40, {200, 120}, [](int, int, int) { return 128; });
  const auto footage = test::openFootage(path);
  Evaluator evaluator = FinishTest::evaluator(footage), alone = FinishTest::evaluator(footage, 1);
  for (const char* size : {"1px", "1.5px", "4px"}) {
    const Stage grain = stage(std::string("grain=10%,grain-size=") + size);
    const Picture picture = made(evaluator, {grain}, 5);
    EXPECT_TRUE(test::samePicture(picture, made(alone, {grain}, 5)));
    EXPECT_FALSE(test::samePicture(picture, made(alone, {grain}, 6)));
    double sum = 0, squares = 0, beside = 0;
    for (int y = 0; y < 120; ++y)
      for (int x = 0; x < 199; ++x) {
        const double v = test::sampleAt(picture, 0, x, y) / 255.0 - 128 / 255.0,
                     next = test::sampleAt(picture, 0, x + 1, y) / 255.0 - 128 / 255.0;
        sum += v, squares += v * v, beside += v * next;
      }
    EXPECT_NEAR(sum / (120 * 199), 0, 0.01) << size;
    EXPECT_NEAR(std::sqrt(squares / (120 * 199)), 0.1, 0.012) << size;
    // Neighbours have the less to do with each other the smaller it is.
    const double likeness = beside / squares, least = size[0] == '4' ? 0.75 : size[1] == '.' ? 0.2 : -0.05,
                 most = size[0] == '4' ? 1 : size[1] == '.' ? 0.7 : 0.05;
    EXPECT_TRUE(likeness > least && likeness < most) << size << ": " << likeness;
  }
  // As often as it says, and once a picture that is held below.
  const auto same = [&](const Chain& chain, std::int64_t a, std::int64_t b) {
    return static_cast<bool>(test::samePicture(made(evaluator, chain, a), made(evaluator, chain, b)));
  };
  const Chain slow{stage("grain=10%,grain-times=5")}, held{*parseStage("step-rate:rate=5", 25), stage("grain=10%")};
  for (const Chain& chain : {slow, held}) {
    EXPECT_TRUE(same(chain, 10, 14));
    EXPECT_FALSE(same(chain, 14, 15));
  }
  // Black and white have none.
  const Chain dark{stage("black=80%,grain=30%")}, bright{stage("exposure=16,grain=30%")};
  EXPECT_EQ(test::sampleAt(made(evaluator, dark, 3), 0, 7, 9), blackSample(footage->shape(), 0));
  EXPECT_EQ(test::sampleAt(made(evaluator, bright, 3), 0, 7, 9), 255u);
}

}  // namespace
}  // namespace molten

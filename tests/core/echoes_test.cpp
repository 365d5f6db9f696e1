// Echoes and Shutter against a slow reading of their formulas, in double, pixel by pixel.
#include <cmath>
#include <random>

#include "core/engine/evaluator.h"
#include "core/engine/render_job.h"
#include "core/picture/combination.h"
#include "core/project/project.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

constexpr double part = 1.0 / 65535;

/// One colour of one pixel at every frame, 0…1.
using Line = std::vector<double>;

double toLight(double v) {  // IEC 61966-2-1
  return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
}
double fromLight(double v) {
  return v <= 0.0031308 ? v * 12.92 : 1.055 * std::pow(v, 1 / 2.4) - 0.055;
}

/// What Echoes make of a line at frame n, from the description in echoes.h; nearest frames.
double echoed(const Stage& stage, const Line& line, std::int64_t n, double rate) {
  const auto value = [&](const char* id) { return valueOf<double>(stage, id); };
  const auto chosen = [&](const char* id) { return valueOf<std::size_t>(stage, id); };
  const bool linear = chosen("light") == 1;
  const auto count = static_cast<std::int64_t>(line.size());
  struct Moment {
    double value, weight;
  };
  const auto read = [&](double position) {
    if (std::abs(position - std::round(position)) < 1e-6) position = std::round(position);
    const auto i = std::clamp<std::int64_t>(static_cast<std::int64_t>(std::floor(position + 0.5)), 0, count - 1);
    const double v = line[static_cast<std::size_t>(i)];
    return linear ? toLight(v) : v;
  };
  std::vector<Moment> moments{{read(static_cast<double>(n)), value("lead")}};
  const double t = static_cast<double>(n) / rate, spacing = value("spacing") + value("drift") * t;
  for (int k = 1; k <= value("repeats"); ++k)
    for (const int side : {-1, 1}) {
      if ((side < 0 && chosen("direction") == 1) || (side > 0 && chosen("direction") == 0)) continue;
      double at = t + side * k * spacing;
      if (value("own-rate") > 0) at = std::floor(at * value("own-rate") + 1e-6) / value("own-rate");
      const double position = at * rate, within = side < 0 ? position : static_cast<double>(count - 1) - position;
      double weight = std::pow(value("falloff"), k);
      const std::size_t filling = chosen("until-full");
      if (within < -1e-6 && filling >= 2) continue;
      if (filling == 2 && spacing > 0) weight *= std::clamp(within / (spacing * rate), 0.0, 1.0);
      moments.push_back({read(position), weight});
    }
  double all = 0, mixed = 0, clear = 1;
  for (const auto& m : moments) all += m.weight;
  switch (static_cast<Combining>(chosen("combine"))) {
    case Combining::Add:
      for (const auto& m : moments) mixed += m.weight * m.value;
      break;
    case Combining::Average:
      for (const auto& m : moments) mixed += m.weight * m.value / all;
      break;
    case Combining::Screen:
      for (const auto& m : moments) clear *= 1 - m.weight * m.value;
      mixed = 1 - clear;
      break;
    case Combining::Lighten:
      for (const auto& m : moments) mixed = std::max(mixed, m.weight * m.value);
      break;
    case Combining::Darken:
      mixed = 1e9;
      for (const auto& m : moments) mixed = std::min(mixed, 1 - m.weight * (1 - m.value));
      break;
    case Combining::Over:
      for (const auto& m : moments) mixed = m.weight * m.value + (1 - m.weight) * mixed;
      break;
    case Combining::Under:
      for (const auto& m : moments) mixed += clear * m.weight * m.value, clear *= 1 - m.weight;
      break;
  }
  return linear ? fromLight(mixed) : mixed;
}

Stage randomEchoes(std::mt19937& random, std::size_t combining) {
  Stage stage = newStage(*findStageKind("echoes"));
  const auto within = [&](double low, double high) { return std::uniform_real_distribution<>(low, high)(random); };
  setTo(stage, "repeats", static_cast<double>(1 + random() % 7));
  setTo(stage, "spacing", random() % 2 ? static_cast<double>(random() % 4) / 30 : within(0, 0.15));
  setTo(stage, "direction", std::size_t{random() % 3});
  setTo(stage, "drift", random() % 3 == 0 ? within(0, 0.2) : 0.0);
  setTo(stage, "own-rate", random() % 4 == 0 ? 12.0 : 0.0);
  setTo(stage, "falloff", random() % 3 == 0 ? 1.0 : within(0, 1));
  setTo(stage, "lead", combining >= 5 ? within(0, 1) : within(0, 1.5));
  setTo(stage, "combine", combining);
  setTo(stage, "light", std::size_t{random() % 2});
  setTo(stage, "until-full", std::size_t{1 + random() % 3});
  return stage;
}

class Mixes : public ::testing::Test {
 protected:
  void open(const std::string& format, int frames, Size size = {37, 23}) {
    test::makeNoiseClip(folder / (format + ".mkv"), frames, size, format);
    footage = test::openFootage(folder / (format + ".mkv"));
    pictures = test::readAll(*footage);
  }
  std::unique_ptr<Evaluator> evaluator(int threads = 2, std::size_t budget = std::size_t(1) << 27) const {
    return std::make_unique<Evaluator>(std::make_shared<FrameFeed>(footage, budget, 1), threads);
  }
  Result<Picture> picture(const Chain& chain, const Moment& moment, int threads = 2) const {
    auto made = evaluator(threads);
    return made->picture(made->plan(chain, 1), moment, {});
  }
  double sample(const Picture& picture, int plane, int x, int y) const {
    return test::sampleAt(picture, plane, x, y) / static_cast<double>((1u << picture.format().bits) - 1);
  }
  Line lineAt(int plane, int x, int y) const {
    Line line;
    for (const Picture& picture : pictures) line.push_back(sample(picture, plane, x, y));
    return line;
  }

  TempFolder folder;
  std::shared_ptr<const Footage> footage;
  std::vector<Picture> pictures;
};

TEST_F(Mixes, EverySampleOfEchoesIsTheFormulas) {
  std::mt19937 random(5);
  for (const char* const format : {"gbrp", "gbrp16le"}) {
    open(format, 17);
    const double top = (1u << pictures[0].format().bits) - 1;
    for (std::size_t combining = 0; combining < 7; ++combining)
      for (int round = 0; round < 4; ++round) {
        const Stage stage = randomEchoes(random, combining);
        for (const std::int64_t n : {0, 3, 9, 16}) {
          auto made = picture({stage}, {n, 0});
          ASSERT_TRUE(made) << made.error().message;
          for (int p = 0; p < 3; ++p)
            for (int y = 0; y < 23; y += 2)
              for (int x = 0; x < 37; ++x) {
                const double wanted = std::clamp(echoed(stage, lineAt(p, x, y), n, 30), 0.0, 1.0);
                // The curve of light is steep near black: there a rounding of light is more.
                const double slack = valueOf<std::size_t>(stage, "light") == 1 ? 4 * part : part;
                ASSERT_NEAR(sample(*made, p, x, y), wanted, 0.5 / top + slack)
                    << stageText(stage) << " on " << format << ", frame " << n << ", plane " << p << " at " << x << ", "
                    << y;
              }
        }
      }
  }
}

/// Sums plane by plane (chroma too) against those made of colours, where both can be had.
TEST_F(Mixes, SumsOfSamplesAreThoseOfColours) {
  std::mt19937 random(6);
  for (const char* const format : {"yuv420p", "yuv422p10le", "yuv444p", "gray"}) {
    open(format, 12);
    std::vector<float> weights;
    for (int k = 0; k < 6; ++k) weights.push_back(std::uniform_real_distribution<float>(0, 0.4f)(random));
    const PictureShape &shape = pictures[0].shape(), wide = wideShape(shape);
    for (const Combining combining : {Combining::Add, Combining::Average})
      for (const bool held : {false, true}) {
        MixRecipe recipe{combining, Light::Display};
        if (held) recipe.brightnessOf = 0;
        Combination plain(shape, shape, recipe, weights), coloured(shape, wide, recipe, weights);
        plain.add(0, std::span(pictures).first(6));
        coloured.add(0, std::span(pictures).first(2));
        coloured.add(2, std::span(pictures).subspan(2, 4));
        const Picture a = plain.finish(), b = narrowed(coloured.finish(), shape);
        for (int p = 0; p < shape.format.planes(); ++p)
          for (int y = 0; y < a.planeHeight(p); ++y)
            for (int x = 0; x < a.planeWidth(p); ++x)
              ASSERT_NEAR(test::sampleAt(a, p, x, y), test::sampleAt(b, p, x, y), 1) << format << " " << p;
        if (held) {
          EXPECT_NEAR(meanLuma(a), meanLuma(pictures[0]), 0.02) << format;
        }
      }
  }
}

/// Threads, budgets, lots and what was made before change nothing, to the bit.
TEST_F(Mixes, SameHoweverTheyAreMade) {
  open("yuv420p", 40, {97, 61});
  std::mt19937 random(8);
  std::vector<Chain> chains;
  for (std::size_t combining = 0; combining < 7; ++combining) chains.push_back({randomEchoes(random, combining)});
  for (const char* text :
       {"echoes:repeats=23,spacing=1f,falloff=100%,combine=average,exposure-hold=on",
        "echoes:repeats=22,spacing=2f,direction=both,falloff=100%,combine=add,lead=20%,until-full=leave-out",
        "shutter:rate=10,angle=300", "shutter:light=display,rate=6,angle=360,samples=30"})
    chains.push_back({*parseStage(text, 30)});
  for (const char* text :
       {"strips:count=7,stagger=2f,feather=40%,rule=2px", "slit-scan:slit=stands,slit-width=2px,sweep=20f",
        "slit-scan:before-the-slit=last,sweep=10f", "slit-scan:slit=stands,in-between=blend"})
    chains.push_back({*parseStage(text, 30)});
  chains.push_back({*parseStage("time-field:back=0.4s", 30), chains[7][0], *parseStage("time-field:back=0.3s", 30)});
  chains.push_back({chains[2][0], chains[8][0]});
  for (const Chain& chain : chains) {
    // A budget of a few frames, and one thread.
    auto many = evaluator(4), poor = evaluator(1, std::size_t(97 * 61 * 3 / 2 * 9));
    const PicturePlan plan = many->plan(chain, 1), same = poor->plan(chain, 1);
    for (std::int64_t n = 0; n < 40; n += 1) {
      auto a = many->picture(plan, {n, 0}, {});
      ASSERT_TRUE(a) << a.error().message;
      if (n % 7 != 0) continue;
      auto b = poor->picture(same, {n, 0}, {});
      ASSERT_TRUE(b) << b.error().message;
      EXPECT_TRUE(test::samePicture(*a, *b)) << stageText(chain[0]) << " at " << n;
    }
  }
}

TEST_F(Mixes, UntilFullTrimsWhatHasTooLittle) {
  open("gbrp", 20);
  Stage stage = *parseStage("echoes:repeats=4,spacing=2f,until-full=trim,combine=add,lead=10%,falloff=50%", 30);
  const PicturePlan plan = evaluator()->plan({stage}, 1);
  EXPECT_EQ(plan.length(), 12);
  // The first picture is the one that has four behind it.
  Stage untrimmed = stage;
  setTo(untrimmed, "until-full", std::size_t{1});
  EXPECT_TRUE(test::samePicture(*picture({stage}, {0, 0}), *picture({untrimmed}, {8, 0})));
  setTo(stage, "direction", std::size_t{2});
  EXPECT_EQ(evaluator()->plan({stage}, 1).length(), 4);
  EXPECT_NE(stage.kind->notes(stage.values, footage->video(), 30).back().text.find("0.27 s"), std::string::npos);
}

/// What add has pushed beyond white is there for what follows.
TEST_F(Mixes, WhatIsBeyondWhiteIsKept) {
  open("yuv444p", 12);
  const Chain chain{*parseStage("echoes:repeats=3,spacing=0f,falloff=100%,combine=add", 30),
                    *parseStage("echoes:repeats=1,spacing=0f,falloff=0%,lead=25%,combine=add", 30)};
  const auto made = picture(chain, {5, 0});
  ASSERT_TRUE(made);
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < 23; ++y)
      for (int x = 0; x < 37; ++x) ASSERT_NEAR(test::sampleAt(*made, p, x, y), test::sampleAt(pictures[5], p, x, y), 1);
}

TEST_F(Mixes, TheShutterAveragesWhatAPaceReads) {
  open("gbrp", 30);
  // Four frames in each picture: open for all of it, each is read four times of sixteen.
  const Chain chain{*parseStage("pace:spans=0.2s@400%", 30),
                    *parseStage("shutter:angle=360,phase=0,light=display,samples=16", 30)};
  const auto made = picture(chain, {3, 0});
  ASSERT_TRUE(made);
  for (int y = 0; y < 23; ++y)
    for (int x = 0; x < 37; ++x) {
      double sum = 0;
      for (int i = 0; i < 16; ++i)
        sum += test::sampleAt(pictures[static_cast<std::size_t>(std::floor(12 + 4 * (i + 0.5) / 16 + 0.5))], 1, x, y);
      ASSERT_NEAR(test::sampleAt(*made, 1, x, y), sum / 16, 0.5 + 255 * part);
    }
}

/// Over a dark clip with bright sparks: the mean brightness stays what it was, and so does not jump either.
TEST(ExposureHold, KeepsTheMeanOverSparks) {
  const auto footage = test::openFootage(std::string(MOLTEN_SOURCE) + "/demo/sparks.mp4");
  Evaluator evaluator(std::make_shared<FrameFeed>(footage, std::size_t(1) << 28, 2), 2);
  const PicturePlan plain = evaluator.plan({}, 4);
  for (const char* const text : {"echoes:repeats=8,spacing=3f,falloff=85%,combine=add,exposure-hold=on",
                                 "echoes:repeats=8,spacing=3f,combine=lighten,falloff=90%,exposure-hold=on",
                                 "echoes:repeats=24,spacing=1f,falloff=100%,combine=average,light=linear,exposure-hold="
                                 "on,until-full=leave-out"}) {
    const PicturePlan held = evaluator.plan({*parseStage(text, 30)}, 4);
    for (std::int64_t n = 0; n < held.length(); n += 5) {
      const auto a = evaluator.picture(plain, {n, 0}, {}), b = evaluator.picture(held, {n, 0}, {});
      ASSERT_TRUE(a && b);
      const double was = meanLuma(*a);
      EXPECT_NEAR(meanLuma(*b), was, was * 0.01) << text << " at " << n;
    }
  }
}

/// Every order of two kinds: as if the first one had been rendered and the second one made of that.
TEST_F(Mixes, EveryOrderOfTwoStages) {
  open("gbrp", 30, {32, 20});
  const std::map<std::string, std::string> how = {{"pace", ":from=0.1s,spans=0.3s@50%+0.3s@120%"},
                                                  {"step-rate", ":rate=10"},
                                                  {"frame-order", ":order=3-20+12+11"},
                                                  {"turnaround", ""},
                                                  {"time-field", ":back=0.2s"},
                                                  {"echoes", ":repeats=3,spacing=2f,combine=screen,falloff=60%"},
                                                  {"shutter", ":rate=10,angle=360,samples=3,phase=60"},
                                                  {"strips", ":count=5,stagger=2f,angle=30"},
                                                  {"slit-scan", ":sweep=8f,slit-width=3"}};
  const auto stageOf = [&](const StageKind* kind) {
    const auto set = how.find(kind->description().id);
    return *parseStage(kind->description().id + (set == how.end() ? "" : set->second), 30);
  };
  for (const StageKind* const first : stageKinds()) {
    const Stage a = stageOf(first);
    RenderSettings settings;
    settings.footage = footage;
    settings.project.chain = {a};
    settings.project.output.path = folder / (a.kind->description().id + "-between.mkv");
    ASSERT_TRUE(render(settings, {}, {}));
    const auto between = test::openFootage(settings.project.output.path);
    Evaluator onFile(std::make_shared<FrameFeed>(between, std::size_t(1) << 26, 1), 2);
    auto whole = evaluator();
    for (const StageKind* const second : stageKinds()) {
      const Stage b = stageOf(second);
      const PicturePlan once = whole->plan({a, b}, 1), twice = onFile.plan({b}, 1);
      const bool rounded = once.mixing() && twice.mixing();
      // Away from the ends: a video that goes round has none, a file has.
      for (const std::int64_t n : {once.length() / 2, once.length() / 2 + 1}) {
        auto made = whole->picture(once, {n, 0}, {}), wanted = onFile.picture(twice, {n, 0}, {});
        ASSERT_TRUE(made && wanted);
        if (!rounded) {
          EXPECT_TRUE(test::samePicture(*made, *wanted)) << stageText(a) << " then " << stageText(b);
          continue;
        }
        int most = 0;
        for (int p = 0; p < 3; ++p)
          for (int y = 0; y < 20; ++y)
            for (int x = 0; x < 32; ++x)
              most = std::max(most, std::abs(static_cast<int>(test::sampleAt(*made, p, x, y)) -
                                             static_cast<int>(test::sampleAt(*wanted, p, x, y))));
        EXPECT_LE(most, 2) << stageText(a) << " then " << stageText(b);
      }
    }
  }
}

}  // namespace
}  // namespace molten

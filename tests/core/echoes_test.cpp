// Echoes and Shutter against a slow reading of their formulas, in double, pixel by pixel.
#include <cmath>
#include <random>

#include "core/engine/evaluator.h"
#include "core/engine/render_job.h"
#include "core/picture/accumulator.h"
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

/// The ways of mixing, as they are set.
struct Way {
  BlendMode combining;
  const char *mix, *below, *winner, *top;
};
constexpr Way ways[] = {{BlendMode::Sum, "light", "off", "brightest", "newest"},
                        {BlendMode::BelowWhite, "light", "on", "brightest", "newest"},
                        {BlendMode::Brightest, "wins", "on", "brightest", "newest"},
                        {BlendMode::Darkest, "wins", "on", "darkest", "newest"},
                        {BlendMode::Mean, "mean", "on", "brightest", "newest"},
                        {BlendMode::Over, "layers", "on", "brightest", "newest"},
                        {BlendMode::Under, "layers", "on", "brightest", "oldest"}};

/// What Echoes make of a line at frame n, from their description; whole frames.
double echoed(const Stage& stage, const Way& way, const Line& line, std::int64_t n, double rate) {
  const auto value = [&](const char* id) { return valueOf<double>(stage, id); };
  const bool linear = chosenOf(stage, "reckoned-in") == "linear";
  const std::string& direction = chosenOf(stage, "direction");
  const auto count = static_cast<std::int64_t>(line.size());
  struct Moment {
    double time, value, weight;
  };
  const auto read = [&](double position) {
    const auto i = std::clamp<std::int64_t>(static_cast<std::int64_t>(std::floor(position + 0.5 + 1e-6)), 0, count - 1);
    const double v = line[static_cast<std::size_t>(i)];
    return linear ? toLight(v) : v;
  };
  std::vector<Moment> moments{{0, read(static_cast<double>(n)), value("present")}};
  const double t = static_cast<double>(n) / rate, spacing = value("spacing") + (1 - value("copy-speed")) * t;
  const double repeats = value("repeats");
  for (int k = 1; k <= repeats; ++k)
    for (const int side : {-1, 1}) {
      if ((side < 0 && direction == "ahead") || (side > 0 && direction == "behind")) continue;
      double at = t + side * k * spacing;
      if (value("copies-fps") > 0) at = std::floor(at * value("copies-fps") + 1e-6) / value("copies-fps");
      const double position = at * rate, within = side < 0 ? position : static_cast<double>(count - 1) - position;
      double weight = value("nearest");
      if (repeats > 1 && weight > 0) weight *= std::pow(value("farthest") / value("nearest"), (k - 1) / (repeats - 1));
      const std::string& missing = chosenOf(stage, "where-moments-are-missing");
      if (within < -1e-6 && (missing == "fade-in" || missing == "leave-out")) continue;
      if (missing == "fade-in" && spacing > 0) weight *= std::clamp(within / (spacing * rate), 0.0, 1.0);
      moments.push_back({static_cast<double>(side * k), read(position), weight});
    }
  double all = 0, mixed = 0, clear = 1;
  for (const auto& m : moments) all += m.weight;
  // Layers lie in the order of time: the one on top comes last of Over, first of Under.
  std::stable_sort(moments.begin(), moments.end(), [](const auto& a, const auto& b) { return a.time < b.time; });
  switch (way.combining) {
    case BlendMode::Sum:
      for (const auto& m : moments) mixed += m.weight * m.value;
      break;
    case BlendMode::Mean:
      for (const auto& m : moments) mixed += m.weight * m.value / all;
      break;
    case BlendMode::BelowWhite:
      for (const auto& m : moments) clear *= 1 - m.weight * m.value;
      mixed = 1 - clear;
      break;
    case BlendMode::Brightest:
      for (const auto& m : moments) mixed = std::max(mixed, m.weight * m.value);
      break;
    case BlendMode::Darkest:
      mixed = 1e9;
      for (const auto& m : moments) mixed = std::min(mixed, 1 - m.weight * (1 - m.value));
      break;
    case BlendMode::Over:
      for (const auto& m : moments) mixed = m.weight * m.value + (1 - m.weight) * mixed;
      break;
    case BlendMode::Under:
      for (const auto& m : moments) mixed += clear * m.weight * m.value, clear *= 1 - m.weight;
      break;
  }
  return linear ? fromLight(mixed) : mixed;
}

Stage randomEchoes(std::mt19937& random, const Way& way) {
  Stage stage = newStage(*findStageKind("echoes"));
  const auto within = [&](double low, double high) { return std::uniform_real_distribution<>(low, high)(random); };
  setTo(stage, "repeats", static_cast<double>(1 + random() % 7));
  setTo(stage, "spacing", random() % 2 ? static_cast<double>(random() % 4) / 30 : within(0, 0.15));
  setTo(stage, "direction", std::size_t{random() % 3});
  setTo(stage, "copy-speed", random() % 3 == 0 ? within(0.8, 1) : 1.0);
  setTo(stage, "copies-fps", random() % 4 == 0 ? 12.0 : 0.0);
  setTo(stage, "nearest", random() % 3 == 0 ? 1.0 : within(0, 1));
  setTo(stage, "farthest", random() % 3 == 0 ? 1.0 : within(0, 1));
  setTo(stage, "present", std::string(way.mix) == "layers" ? within(0, 1) : within(0, 1.5));
  setText(stage, "mix", way.mix), setText(stage, "below-white", way.below);
  setText(stage, "winner", way.winner), setText(stage, "top", way.top);
  setTo(stage, "reckoned-in", std::size_t{random() % 2});
  setTo(stage, "where-moments-are-missing", std::size_t{random() % 3});
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
    return made->picture(made->plan(chain, {}), moment, {});
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
    for (const Way& way : ways)
      for (int round = 0; round < 4; ++round) {
        const Stage stage = randomEchoes(random, way);
        for (const std::int64_t n : {0, 3, 9, 16}) {
          auto made = picture({stage}, {n, 0});
          ASSERT_TRUE(made) << made.error().message;
          for (int p = 0; p < 3; ++p)
            for (int y = 0; y < 23; y += 2)
              for (int x = 0; x < 37; ++x) {
                const double wanted = std::clamp(echoed(stage, way, lineAt(p, x, y), n, 30), 0.0, 1.0);
                // The curve of light is steep near black: there a rounding of light is more.
                // And 8-bit sources are kept in linear light within a fifteenth of a sample.
                const bool linear = chosenOf(stage, "reckoned-in") == "linear";
                const double slack = linear ? 4 * part : part, kept = linear && top == 255 ? 1.0 / 15 / top : 0;
                ASSERT_NEAR(sample(*made, p, x, y), wanted, 0.5 / top + slack + kept)
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
    for (const BlendMode combining : {BlendMode::Sum, BlendMode::Mean})
      for (const bool held : {false, true}) {
        MixRecipe recipe{combining, Light::Display};
        if (held) recipe.brightnessOf = 0;
        Accumulator plain(shape, shape, recipe, weights), coloured(shape, wide, recipe, weights);
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
  for (const Way& way : ways) chains.push_back({randomEchoes(random, way)});
  for (const char* text : {"echoes:repeats=23,spacing=1f,nearest=100%,farthest=100%,mix=mean,keep-brightness=on",
                           "echoes:repeats=22,spacing=2f,direction=both,nearest=100%,farthest=100%,mix=light,below-"
                           "white=off,present=20%,where-moments-are-missing=leave-out",
                           "shutter:fps=10,open=83.333333%", "shutter:reckoned-in=display,fps=6,open=100%,moments=30"})
    chains.push_back({*parseStage(text, 30)});
  for (const char* text :
       {"strips:count=7,stagger=2f,feather=40%,divider-line=2px", "slit-scan:slit=stands,slit-width=2px,sweep=20f",
        "slit-scan:before-the-slit=last-sweep,sweep=10f", "slit-scan:slit=stands",
        "strips:shape=tiles,count=3,rows=2,stagger=4f,divider-line=1px",
        "echoes:repeats=9,spacing=2f,only-what-moves,mix=layers"})
    chains.push_back({*parseStage(text, 30)});
  chains.push_back({*parseStage("time-field:back=0.4s", 30), chains[7][0], *parseStage("time-field:back=0.3s", 30)});
  chains.push_back({chains[2][0], chains[8][0]});
  for (const Chain& chain : chains) {
    // A budget of a few frames, and one thread.
    auto many = evaluator(4), poor = evaluator(1, std::size_t(97 * 61 * 3 / 2 * 9));
    const PicturePlan plan = many->plan(chain, {}), same = poor->plan(chain, {});
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
  Stage stage = *parseStage(
      "echoes:repeats=4,spacing=2f,where-moments-are-missing=trim,mix=light,below-white=off,present=10%,nearest=50%,"
      "farthest=6.25%",
      30);
  const PicturePlan plan = evaluator()->plan({stage}, {});
  EXPECT_EQ(plan.length(), 12);
  // The first picture is the one that has four behind it.
  Stage untrimmed = stage;
  setText(untrimmed, "where-moments-are-missing", "leave-out");
  EXPECT_TRUE(test::samePicture(*picture({stage}, {0, 0}), *picture({untrimmed}, {8, 0})));
  setTo(stage, "direction", std::size_t{2});
  EXPECT_EQ(evaluator()->plan({stage}, {}).length(), 4);
  EXPECT_NE(stage.kind->notes(stage.values, footage->video(), 30).back().text.find("0.27 s"), std::string::npos);
}

/// What add has pushed beyond white is there for what follows.
TEST_F(Mixes, WhatIsBeyondWhiteIsKept) {
  open("yuv444p", 12);
  const Chain chain{*parseStage("echoes:repeats=3,spacing=0f,nearest=100%,farthest=100%,mix=light,below-white=off", 30),
                    *parseStage("echoes:repeats=1,spacing=0f,nearest=0%,present=25%,mix=light,below-white=off", 30)};
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
                    *parseStage("shutter:open=100%,reckoned-in=display,moments=16", 30)};
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
  const PicturePlan plain = evaluator.plan({}, {4});
  for (const char* const text :
       {"echoes:repeats=8,spacing=3f,nearest=85%,farthest=27%,mix=light,below-white=off,keep-brightness=on",
        "echoes:repeats=8,spacing=3f,mix=wins,nearest=90%,farthest=43%,keep-brightness=on",
        "echoes:repeats=24,spacing=1f,nearest=100%,farthest=100%,mix=mean,reckoned-in=linear,keep-brightness="
        "on,where-moments-are-missing=leave-out"}) {
    const PicturePlan held = evaluator.plan({*parseStage(text, 30)}, {4});
    for (std::int64_t n = 0; n < held.length(); n += 5) {
      const auto a = evaluator.picture(plain, {n, 0}, {}), b = evaluator.picture(held, {n, 0}, {});
      ASSERT_TRUE(a && b);
      const double was = meanLuma(*a);
      EXPECT_NEAR(meanLuma(*b), was, was * 0.01) << text << " at " << n;
    }
  }
}

/// Every order of two kinds, as long as the second reads at whole pictures: as if the first one had been rendered and
/// the second one made of that.
TEST_F(Mixes, EveryOrderOfTwoStages) {
  open("gbrp", 30, {32, 20});
  const std::map<std::string, std::string> how = {
      {"pace", ":from=0.4s,spans=0.3s@-100%+0.3s@200%"},
      {"step-rate", ":rate=10"},
      {"frame-order", ":order=3-20+12+11"},
      {"loop", ""},
      {"time-field", ":back=0.2s"},
      {"echoes", ":repeats=3,spacing=2f,mix=light,nearest=60%,farthest=22%"},
      {"shutter", ":fps=10,open=100%,moments=3,offset=16.66666666666667%"},
      {"strips", ":count=5,stagger=2f,angle=30"},
      {"slit-scan", ":sweep=8f,slit-width=4"}};
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
      // What lies between two pictures of stages that choose times is not rounded to one of them.
      if (b.kind->description().id == "time-field") continue;
      const PicturePlan once = whole->plan({a, b}, {}), twice = onFile.plan({b}, {});
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

// Drives: what they make of values, as text and in files, and that they are the same however a piece is made.
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/engine/measured_course.h"
#include "core/engine/evaluator.h"
#include "core/engine/render_job.h"
#include "core/number_text.h"
#include "core/project/project_file.h"
#include "core/stages/drive_words.h"
#include "core/stages/moving_values.h"
#include "support/clips.h"
#include "support/random_chains.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

Stage stage(const std::string& text, Rational rate = 30) {
  auto parsed = parseStage(text, rate);
  EXPECT_TRUE(parsed) << (parsed ? "" : parsed.error().message);
  return *parsed;
}

/// A stage's number at a moment.
double at(const Stage& stage, const char* id, double seconds, const Followed* followed = nullptr) {
  return std::get<double>(stage.valuesAt(seconds, followed)[parameterIndex(stage.kind->description(), id)]);
}

/// What is followed is what a test says.
class Told : public Followed {
 public:
  explicit Told(double value) : value_(value) {}
  double value(const Follow&, double) const override { return value_; }

 private:
  double value_;
};

TEST(Jitter, IsSpreadAsFarAndDrawnAsOftenAsItSays) {
  const Stage steps = stage("finish:exposure=0.25_jitter_0.5_8_steps");
  double sum = 0, squares = 0, least = 9, most = -9, before = 99;
  int changes = 0;
  constexpr int draws = 8 * 500;
  for (int i = 0; i < 4 * draws; ++i) {
    const double value = at(steps, "exposure", i / 32.0) - 0.25;
    if (value != before) ++changes, before = value;
    sum += value, squares += value * value;
    least = std::min(least, value), most = std::max(most, value);
  }
  EXPECT_EQ(changes, draws) << "eight draws a second, each of them another";
  EXPECT_NEAR(sum / (4 * draws), 0, 0.02);
  EXPECT_NEAR(std::sqrt(squares / (4 * draws)), 0.5 / std::sqrt(3), 0.01) << "all between -0.5 and 0.5 alike";
  EXPECT_LE(most, 0.5);
  EXPECT_GE(least, -0.5);
  EXPECT_GT(most - least, 0.99);
}

TEST(Jitter, IsSmoothBetweenTheDrawsOfTheSteps) {
  const Stage steps = stage("finish:exposure=0_jitter_0.5_8_steps"), smooth = stage("finish:exposure=0_jitter_0.5_8");
  double furthest = 0;
  for (int i = 0; i < 800; ++i) {
    EXPECT_EQ(at(smooth, "exposure", i / 8.0), at(steps, "exposure", i / 8.0)) << i;
    const double a = at(steps, "exposure", i / 8.0), b = at(steps, "exposure", (i + 1) / 8.0);
    const double u = 0.3, share = u * u * (3 - 2 * u);
    EXPECT_NEAR(at(smooth, "exposure", (i + u) / 8.0), a + (b - a) * share, 1e-9);
    furthest = std::max(furthest, std::abs(at(smooth, "exposure", (i + 0.01) / 8.0) - a));
  }
  EXPECT_LT(furthest, 0.001) << "nothing jumps";
  EXPECT_NE(at(stage("finish:exposure=0_jitter_0.5_8_smooth_2"), "exposure", 1), at(smooth, "exposure", 1)) << "a seed";
  EXPECT_NE(at(stage("finish:exposure=0_jitter_0.5,contrast=1_jitter_0.5"), "contrast", 1) - 1,
            at(smooth, "exposure", 1))
      << "two values are not drawn alike";
}

TEST(Wave, HasItsFormLengthAndPhase) {
  const auto value = [](const std::string& wave, double seconds) {
    return at(stage("finish:exposure=1_wave_" + wave), "exposure", seconds) - 1;
  };
  for (double t = 0; t < 5; t += 0.13) {
    EXPECT_NEAR(value("0.5_2s", t), 0.5 * std::sin(std::acos(-1.0) * t), 1e-9);
    EXPECT_NEAR(value("0.5_2s_sine_25%", t), 0.5 * std::cos(std::acos(-1.0) * t), 1e-9);
    EXPECT_NEAR(value("0.5_2s_triangle", t), std::asin(std::sin(std::acos(-1.0) * t)) / std::acos(-1.0), 1e-9);
    EXPECT_NEAR(value("0.5_2s_square", t), std::fmod(t, 2) < 1 ? 0.5 : -0.5, 1e-9);
    EXPECT_NEAR(value("0.5_2s_saw", t), std::fmod(t, 2) / 2 - 0.5, 1e-9);
  }
  EXPECT_NEAR(value("0.5_2s_saw", 2), -0.5, 1e-9) << "just where one begins";
}

TEST(Follow, GoesBetweenTheTwoEndsOfWhatIsFollowed) {
  const Stage drains = stage("finish:saturation=120%_follow_speed_20%");
  const auto with = [&](const Stage& stage, double speed) {
    const Told told(speed);
    return at(stage, "saturation", 0, &told);
  };
  EXPECT_EQ(with(drains, 1), 1.2);
  EXPECT_EQ(with(drains, 7), 1.2);
  EXPECT_EQ(with(drains, 0), 0.2) << "to the bit";
  EXPECT_NEAR(with(drains, 0.5), 0.7, 1e-12);
  EXPECT_NEAR(with(drains, -0.5), 0.7, 1e-12) << "backwards is no standing still";
  const Stage other = stage("finish:saturation=120%_follow_speed_20%_200%_100%");
  EXPECT_EQ(with(other, 2), 0.2) << "the other way round";
  EXPECT_EQ(with(other, 1), 1.2);
  EXPECT_EQ(at(drains, "saturation", 0), 1.2) << "not known: as it is";
  const Stage atOnce = stage("finish:saturation=120%_follow_speed_20%_50%_50%");
  EXPECT_EQ(with(atOnce, 0.49), 0.2);
  EXPECT_EQ(with(atOnce, 0.5), 1.2);
}

TEST(Drives, ActInTurnOnKeysAndKeepToTheRange) {
  const Stage all = stage("finish:saturation=0%@0s+200%@2s_follow_speed_50%_wave_10%_1s_square");
  const Told half(0.5);
  EXPECT_NEAR(at(all, "saturation", 1, &half), (1.0 + 0.5) / 2 + 0.1, 1e-12);
  const Stage over = stage("finish:saturation=0%_wave_50%_1s_square");
  EXPECT_EQ(at(over, "saturation", 0.6), 0) << "below the range is its least";
  const Stage place = stage("time-field:start=0.5x0.5_wave_0.1x0.2_1s_square");
  EXPECT_EQ(std::get<Place>(place.valuesAt(0.1)[parameterIndex(place.kind->description(), "start")]),
            (Place{0.6, 0.7}));
  const Stage colour = stage("strips:divider-line=4px,line-colour=102030_wave_100800_1s_square");
  EXPECT_EQ(std::get<Colour>(colour.valuesAt(0.1)[parameterIndex(colour.kind->description(), "line-colour")]),
            (Colour{0x20, 0x28, 0x30}));
}

/// Whatever moves a value, it stays within what is said of it.
TEST(Drives, BoundsHoldAllThatAValueComesToBe) {
  test::RandomChains random(5, 60);
  int moved = 0;
  for (int round = 0; round < 300; ++round) {
    Stage any = random.stage(*stageKinds()[static_cast<std::size_t>(round) % stageKinds().size()]);
    const StageValues least = any.leastValues(), most = any.mostValues();
    for (double t = 0; t < 3; t += 0.037) {
      const Told told(t - 1);
      const StageValues now = any.valuesAt(t, &told);
      for (std::size_t i = 0; i < now.size(); ++i) {
        if (!any.varies(i)) {
          EXPECT_EQ(now[i], any.values[i]);
          continue;
        }
        ++moved;
        const KeyValue value = keyValue(now[i]), low = keyValue(least[i]), high = keyValue(most[i]);
        for (std::size_t k = 0; k < value.size(); ++k) {
          EXPECT_GE(value[k], low[k] - 1e-9) << stageText(any);
          EXPECT_LE(value[k], high[k] + 1e-9) << stageText(any);
        }
      }
    }
  }
  EXPECT_GT(moved, 1000);
}

TEST(DriveText, ComesBackAsItWas) {
  test::RandomChains random(6, 60);
  int moved = 0;
  for (int round = 0; round < 400; ++round) {
    const Stage any = random.stage(*stageKinds()[static_cast<std::size_t>(round) % stageKinds().size()]);
    if (!any.drives.empty()) ++moved;
    const auto back = parseStage(stageText(any), 25);
    ASSERT_TRUE(back) << stageText(any) << ": " << back.error().message;
    EXPECT_EQ(stageText(*back), stageText(any));
    EXPECT_EQ(back->drives.size(), any.drives.size());
  }
  EXPECT_GT(moved, 50);
  EXPECT_EQ(stageText(stage("finish:exposure=0_jitter_0.5_8_smooth_1")), "finish:exposure=0_jitter_0.5_8")
      << "what is usual is not said";
}

TEST(DriveText, SaysWhatIsWrong) {
  const auto refused = [](const char* text) {
    const auto parsed = parseStage(std::string("finish:exposure=") + text, 30);
    return parsed ? std::string("taken") : parsed.error().message;
  };
  EXPECT_NE(refused("0_jiggle_1").find("jitter, wave or follow"), std::string::npos);
  EXPECT_NE(refused("0_jitter_-1").find("Exposure's jitter"), std::string::npos);
  EXPECT_NE(refused("0_jitter_1_0").find("Times"), std::string::npos);
  EXPECT_NE(refused("0_wave_1_1s_sine_0%_7"), "taken");
  EXPECT_NE(refused("_jitter_1"), "taken");
  EXPECT_EQ(refused("0_jitter"), "taken");
  std::string many = "0";
  for (int i = 0; i < 17; ++i) many += "_jitter";
  EXPECT_NE(refused(many.c_str()), "taken");
  const auto fixed = parseStage("finish:fade-in=1s_jitter_0.5s", 30);
  EXPECT_FALSE(fixed) << "what has no keys does not move";
}

class DrivesOnFootage : public ::testing::Test {
 protected:
  DrivesOnFootage() {
    test::makeNoiseClip(folder / "noise.mkv", 40, {42, 26}, "yuv420p", "");
    footage = test::openFootage(folder / "noise.mkv");
  }
  std::shared_ptr<FrameFeed> feed() const { return std::make_shared<FrameFeed>(footage, std::size_t(1) << 26, 1); }
  TempFolder folder;
  std::shared_ptr<const Footage> footage;
};

/// The means of the two colour planes, and how far their samples lie from gray.
double colourOf(const Picture& picture) {
  double most = 0;
  const double gray = picture.shape().format.bits == 8 ? 128 : 512;
  for (const int plane : {1, 2})
    for (int y = 0; y < picture.planeHeight(plane); ++y)
      for (int x = 0; x < picture.planeWidth(plane); ++x)
        most = std::max(most, std::abs(picture.row(plane, y)[x] - gray));
  return most;
}

/// Drained just where the Pace stands, whatever lies between the two.
TEST_F(DrivesOnFootage, ColourDrainsJustWhereTimeStands) {
  for (const std::string between : {"", "echoes:repeats=2", "loop:kind-of-loop=round"}) {
    Chain chain{stage("pace:spans=0.4s@100%+0.5s@0%+0.5s@-100%+0.3s@50%")};
    if (!between.empty()) chain.push_back(stage(between));
    chain.push_back(stage("finish:saturation=100%_follow_speed_0%"));
    Evaluator evaluator(feed(), 2);
    const PicturePlan plan = evaluator.plan(chain, {1, InBetween::Whole, 30});
    int drained = 0;
    for (std::int64_t n = 0; n < plan.length(); ++n) {
      const auto picture = evaluator.picture(plan, {n, 0}, {});
      ASSERT_TRUE(picture);
      const double t = static_cast<double>(n) / plan.rate().toDouble();
      // The pictures of the clip are noise in all colours.
      const bool stands = t >= 0.4 && t < 0.9;
      EXPECT_EQ(colourOf(*picture) == 0, stands) << between << " " << n;
      drained += colourOf(*picture) == 0;
    }
    EXPECT_GE(drained, 12) << between;
  }
}

TEST_F(DrivesOnFootage, BrightnessIsThatOfThePictureThatEnters) {
  const Chain below{stage("pace:spans=0.5s@-100%,from=1s"), stage("finish:exposure=-1")};
  Chain chain = below;
  chain.push_back(stage("finish:exposure=0_follow_brightness_2"));
  Evaluator evaluator(feed(), 2);
  const PicturePlan plan = evaluator.plan(below, {1, InBetween::Whole, 30}),
                    followed = evaluator.plan(chain, {1, InBetween::Whole, 30});
  for (const std::int64_t n : {0, 3, 9}) {
    const auto entering = evaluator.picture(plan, {n, 0}, {}), made = evaluator.picture(followed, {n, 0}, {});
    ASSERT_TRUE(entering && made);
    const GrayPicture gray = grayOf(*entering);
    double mean = 0;
    for (const float v : gray.samples) mean += static_cast<double>(v) / static_cast<double>(gray.samples.size());
    Chain plain = below;
    plain.push_back(stage("finish:exposure=" + shortText(2 * (1 - mean), 17)));
    const auto wanted = evaluator.picture(evaluator.plan(plain, {1, InBetween::Whole, 30}), {n, 0}, {});
    ASSERT_TRUE(wanted);
    EXPECT_TRUE(test::samePicture(*made, *wanted)) << n;
  }
}

/// What a lane is drawn by is what a render will find, but for how small the pictures were that were looked at.
TEST_F(DrivesOnFootage, BrightnessIsMeasuredForLanes) {
  const Chain below{stage("pace:spans=0.5s@-100%,from=1s"), stage("finish:exposure=-1")};
  const VideoDescription video = videoAt(below, below.size(), footage->video());
  const MeasuredFootage from{std::make_shared<Sources>(feed(), 1), InBetween::Whole};
  const Follow brightness{.what = Follow::What::Brightness}, speed;
  const auto course = measureCourse(from, below, brightness, {});
  ASSERT_TRUE(course);
  EXPECT_EQ(course->step, 1);
  ASSERT_EQ(course->values.size(), static_cast<std::size_t>(video.length));
  const FollowedVideo real(video, {test::fieldMaterial(footage, 1), std::make_shared<const Chain>(below)});
  const auto shown = followedAs(video, {*course});
  for (std::int64_t n = 0; n < video.length; ++n) {
    const double seconds = static_cast<double>(n) / 30;
    EXPECT_NEAR(shown->value(brightness, seconds), real.value(brightness, seconds), 0.01) << n;
    EXPECT_EQ(shown->value(speed, seconds), real.value(speed, seconds));
  }
  // Between two it goes straight; beyond the ends it stays; what was not measured is not known.
  EXPECT_NEAR(course->at(2.25), 0.75 * course->values[2] + 0.25 * course->values[3], 1e-12);
  EXPECT_EQ(course->at(-3), course->values.front());
  EXPECT_EQ(course->at(1e9), course->values.back());
  EXPECT_TRUE(std::isnan(followedAs(video, {})->value(brightness, 0)));
  EXPECT_TRUE(followedAs(video, {})->isBeingMeasured(brightness));
  EXPECT_FALSE(shown->isBeingMeasured(brightness));
  std::stop_source off;
  off.request_stop();
  EXPECT_FALSE(measureCourse(from, below, brightness, off.get_token()));
}

/// All of them in one chain: window, render, pieces and threads alike.
TEST_F(DrivesOnFootage, AreTheSameWhereverAPieceBegins) {
  RenderSettings settings;
  settings.footage = footage;
  settings.project.chain = {stage("time-field:back=0.3s_wave_0.2s_1s,end=0.5x1_jitter_0.2x0.2_6"),
                            stage("finish:exposure=0_jitter_1_8_steps_3,saturation=100%_follow_brightness_0%")};
  Evaluator window(feed(), 3);
  const PicturePlan plan = window.plan(settings.project.chain, {1, InBetween::Whole, 25});
  for (const bool piece : {false, true}) {
    settings.threads = piece ? 1 : 4;
    settings.project.output.path = folder / "out.mkv";
    if (piece) settings.pictures = Span{9, 14};
    ASSERT_TRUE(render(settings, {}, {}));
    const auto frames = test::readAll(*test::openFootage(folder / "out.mkv"));
    ASSERT_EQ(frames.size(), piece ? 6u : 40u);
    for (std::size_t i = 0; i < frames.size(); ++i) {
      const auto seen = window.picture(plan, {static_cast<std::int64_t>(i) + (piece ? 9 : 0), 0}, {});
      ASSERT_TRUE(seen);
      EXPECT_TRUE(test::samePicture(frames[i], *seen)) << piece << i;
    }
  }
}

/// As it is saved it comes back, and its file is what the schema says.
TEST_F(DrivesOnFootage, AreInTheProject) {
  Project project;
  project.source.path = folder / "noise.mkv";
  project.chain = {stage("finish:exposure=0@0s+1@2s_jitter_0.5_8_steps,saturation=100%_follow_speed_0%")};
  ASSERT_TRUE(saveProject(project, folder / "moves.molten"));
  const auto back = loadProject(folder / "moves.molten");
  ASSERT_TRUE(back);
  EXPECT_TRUE(back->chain == project.chain);
}

}  // namespace
}  // namespace molten

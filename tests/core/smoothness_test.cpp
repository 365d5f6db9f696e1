// Steps: how wide they are, what Flow makes of them, and time maps.
#include <cmath>
#include <fstream>

#include "core/engine/evaluator.h"
#include "core/engine/render_job.h"
#include "core/engine/step_widths.h"
#include "core/files/safe_file.h"
#include "core/project/piece.h"
#include "core/stages/chain_reading.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

StepWidths widthsOf(const std::string& text, const VideoDescription& video) {
  const Stage stage = *parseStage("time-field:" + text, video.rate);
  return stepWidths(*stage.kind->timeMap(stage, video)->displacing()->displacement({}), video.size);
}

TEST(Steps, TheGaugeSaysWhatCanBeCounted) {
  const VideoDescription video{{640, 360}, 1, 60, 600};
  // 60 frames over 360 rows: six rows each.
  EXPECT_NEAR(widthsOf("back=1s", video).widest, 6, 1e-9);
  EXPECT_NEAR(widthsOf("back=0.5s", video).widest, 12, 1e-9);
  // Slanted, the width is across the border: 60 frames over the diagonal's length.
  EXPECT_NEAR(widthsOf("back=1s,start=0x0,end=1x1", video).usual, std::hypot(640, 360) / 60, 0.9);
  // Rings of 216 px radius and 30 frames.
  EXPECT_NEAR(widthsOf("shape=radial,outer=60%,back=0.5s", video).usual, 216.0 / 30, 1.2);
  EXPECT_EQ(widthsOf("back=0s", video).widest, 0);
  // Held in the middle third, on purpose.
  EXPECT_NEAR(widthsOf("back=1s,end=0.5x0.5", video).widest, 3, 1);
  EXPECT_NEAR(widthsOf("back=1s,start=0.2x0.5,end=0.6x0.5", video).widest, 256.0 / 60, 1);
  EXPECT_EQ(widthsOf("back=1s,panes=5", video).widest, 0);
  EXPECT_LT(widthsOf("back=8s", video).widest, 1.5);
}

/// Steps that are one pixel wide are no smoothness where each of them is many frames high.
TEST(Steps, TheGaugeSeesWhatIsTorn) {
  const VideoDescription video{{640, 360}, 1, 60, 600};
  EXPECT_EQ(widthsOf("back=1s", video).jump, 1) << "one frame follows the other";
  EXPECT_EQ(widthsOf("back=1s", video).torn, 0);
  // Twelve panes over 66 frames: 6 frames from each to the next.
  const StepWidths panes = widthsOf("back=1.1s,panes=12", video);
  EXPECT_EQ(panes.jump, 6);
  EXPECT_NEAR(panes.torn, 0.5 * 11 / 359, 0.005) << "eleven rows of borders, and none across";
  EXPECT_EQ(panes.widest, 0);
  EXPECT_GT(widthsOf("shape=noise,cloud-size=4%,back=4s", video).torn, 0.05);
}

/// A time map in frames, of a clip.
RenderSettings mapSettings(const std::string& clip) {
  RenderSettings settings;
  settings.footage = test::openFootage(clip);
  settings.timeMap = TimeMapUnit::Frames;
  return settings;
}

/// What a map of floats means is known before its pictures are read: the reach is there, and what lies outside.
TEST(TimeMaps, OfFloatsHaveTheirReach) {
  TempFolder folder;
  test::makeNoiseClip(folder / "clip.mkv", 40, {48, 36}, "gray");
  RenderSettings settings = mapSettings(folder / "clip.mkv");
  settings.project.chain = {*parseStage("time-field:back=0.6s,ahead=0.2s", 30)};
  settings.project.output.path = folder / "map-%02d.exr";
  const auto written = render(settings, {}, {});
  ASSERT_TRUE(written) << written.error().message;
  const auto stage = stageOfTimeMap(folder / "map.time-map.json");
  ASSERT_TRUE(stage) << stage.error().message;
  const VideoDescription video = settings.footage->video();
  const Reach reach = stage->kind->timeMap(*stage, video)->reach();
  const double rate = video.rate.toDouble();
  EXPECT_NEAR(reach.least, -0.6 * rate, 0.6);
  EXPECT_NEAR(reach.most, 0.2 * rate, 0.6);
  const ChainReading reading({*stage}, video);
  const Piece piece = pieceOf(reading.outgoing(), {});
  EXPECT_EQ(outsideRuns(reading, piece, {0, piece.length - 1}).size(), 2u) << "at the beginning, and at the end";
}

/// Smooth noise of -1…1 with features of nine pixels.
double texture(double x, double y) {
  const auto at = [](std::int64_t ix, std::int64_t iy) {
    const auto mixed = static_cast<std::uint32_t>(ix) * 374761393u + static_cast<std::uint32_t>(iy) * 668265263u;
    return ((mixed ^ mixed >> 13) * 1274126177u >> 16) / 32768.0 - 1;
  };
  x /= 9, y /= 9;
  const double fx = x - std::floor(x), fy = y - std::floor(y);
  const auto ix = static_cast<std::int64_t>(std::floor(x)), iy = static_cast<std::int64_t>(std::floor(y));
  return (at(ix, iy) * (1 - fx) + at(ix + 1, iy) * fx) * (1 - fy) +
         (at(ix, iy + 1) * (1 - fx) + at(ix + 1, iy + 1) * fx) * fy;
}

/// The edge of a bright thing that goes right by so many pixels a frame, sharp to the sample's shade. What is on it and
/// beside it goes along: a bare edge gives motion nothing to hold on to along itself.
std::string movingEdge(const TempFolder& folder, Size size, int frames, double speed) {
  const std::string path = folder / "edge.mkv";
  test::makeGrayClip(path, frames, size, [&](int n, int x, int y) {
    const double u = x - (80 + n * speed), bright = std::clamp(0.5 - u, 0.0, 1.0);
    return static_cast<int>(60 + 130 * bright + 14 * texture(u, y));
  });
  return path;
}

/// Where a row falls from bright to dark most steeply, counted like the pixels.
double edgeOf(const Picture& picture, int y, double around) {
  double best = 0, strongest = 0;
  const int from = std::max(2, static_cast<int>(around) - 30),
            to = std::min(picture.planeWidth(0) - 3, static_cast<int>(around) + 30);
  for (int x = from; x < to; ++x) {
    const double fall = static_cast<double>(picture.row(0, y)[x - 1]) - picture.row(0, y)[x + 1];
    if (fall <= strongest) continue;
    strongest = fall;
    const double before = static_cast<double>(picture.row(0, y)[x - 2]) - picture.row(0, y)[x],
                 after = static_cast<double>(picture.row(0, y)[x]) - picture.row(0, y)[x + 2];
    const double curve = before - 2 * fall + after;
    best = x + (curve < 0 ? 0.5 * (before - after) / curve : 0);
  }
  return best;
}

TEST(Steps, FlowFollowsTheSlantedLineWhereWholeFramesStep) {
  TempFolder folder;
  constexpr double speed = 6;
  const auto footage = test::openFootage(movingEdge(folder, {480, 240}, 30, speed));
  Evaluator evaluator(std::make_shared<FrameFeed>(footage, std::size_t(1) << 28, 1), 2);
  const auto worst = [&](InBetween between) {
    // Ten frames over 240 rows: a straight edge becomes a line slanted by 60 pixels.
    const Stage stage = *parseStage("time-field:back=10f", footage->video().rate);
    const PicturePlan plan = evaluator.plan({stage}, {1, between});
    const auto picture = evaluator.picture(plan, {20}, {});
    EXPECT_TRUE(picture);
    // Four rows together: what is on the surface shifts where a single row seems to have its edge.
    double most = 0;
    for (int y = 24; y < 216; y += 4) {
      double off = 0;
      for (int row = y; row < y + 4; ++row) {
        const double frame = 20 - 10 + (row + 0.5) / 240 * 10, ideal = 80 + frame * speed;
        off += (edgeOf(*picture, row, ideal) - ideal) / 4;
      }
      most = std::max(most, std::abs(off));
    }
    return most;
  };
  const double flow = worst(InBetween::Flow), nearest = worst(InBetween::Whole);
  EXPECT_LE(flow, 0.5);
  // Half of a frame's movement to either side.
  EXPECT_NEAR(nearest, speed / 2, 0.6);
}

TEST(TimeMaps, ReadBackTheyGiveTheSamePicture) {
  TempFolder folder;
  test::makeNoiseClip(folder / "clip.mkv", 24, {96, 54}, "yuv420p");
  const auto footage = test::openFootage(folder / "clip.mkv");
  Evaluator evaluator(std::make_shared<FrameFeed>(footage, std::size_t(1) << 28, 1), 2);
  for (const char* text : {"time-field:shape=radial,back=0.4s,ahead=0.2s,past-the-ends=turn-back",
                           "time-field:shape=noise,change=2,back=0.1s@0s+0.5s@0.8s,past-the-ends=turn-back"})
    for (const char* name : {"map-%05d.exr", "map-%05d.png", "map-%05d.tif"})
      for (const TimeMapUnit unit : {TimeMapUnit::Seconds, TimeMapUnit::Frames}) {
        const Chain chain{*parseStage(text, footage->video().rate)};
        RenderSettings settings;
        settings.footage = footage;
        settings.project.chain = chain;
        settings.project.output.path = folder / name;
        settings.timeMap = unit;
        const auto written = render(settings, {}, {});
        ASSERT_TRUE(written) << written.error().message;
        auto stage = stageOfTimeMap(folder / "map-00003" + std::string(name).substr(8));
        ASSERT_TRUE(stage) << stage.error().message;
        setTo(*stage, "past-the-ends", valueOf<std::size_t>(chain[0], "past-the-ends"));
        const PicturePlan drawn = evaluator.plan(chain, {}), read = evaluator.plan({*stage}, {});
        for (const int n : {0, 11, 23}) {
          const auto a = evaluator.picture(drawn, {n, 0}, {}), b = evaluator.picture(read, {n, 0}, {});
          ASSERT_TRUE(a && b);
          // Chroma stands between the pixels that a map holds; luma is told by it. A pixel on the border of two frames
          // may fall on the other side.
          int different = 0;
          for (int y = 0; y < 54; ++y)
            for (int x = 0; x < 96; ++x) different += test::sampleAt(*a, 0, x, y) != test::sampleAt(*b, 0, x, y);
          EXPECT_LE(different, 10) << text << " " << name << " " << n;
        }
        for (const std::string& file : folder.names())
          if (file.starts_with("map")) std::filesystem::remove(folder / file);
      }
}

/// The reach grows with keys: pieces keep to the scale of the whole, and their scale file says the same.
TEST(TimeMaps, PiecesAreTheWhole) {
  TempFolder folder;
  test::makeNoiseClip(folder / "clip.mkv", 40, {48, 36}, "gray");
  RenderSettings settings = mapSettings(folder / "clip.mkv");
  settings.project.chain = {*parseStage("time-field:shape=radial,back=0s@0s+1s@1.2s", 30),
                            *parseStage("strips:count=4,stagger=2f", 30)};
  const auto bytes = [&](const std::string& name) {
    std::ifstream file(folder / name, std::ios::binary);
    return std::string(std::istreambuf_iterator<char>(file), {});
  };
  const auto renderTo = [&](const std::string& name, std::int64_t first, std::int64_t last) {
    settings.project.output.path = folder / name;
    settings.pictures = Span{first, last};
    const auto written = render(settings, {}, {});
    ASSERT_TRUE(written) << written.error().message;
  };
  renderTo("whole-%05d.png", 0, 39);
  const auto number = [](std::int64_t n) { return (n < 10 ? "0000" : "000") + std::to_string(n) + ".png"; };
  for (const auto& [first, last] : {std::pair{0, 3}, {17, 22}, {39, 39}}) {
    renderTo("part-%05d.png", first, last);
    for (std::int64_t n = first; n <= last; ++n)
      EXPECT_TRUE(bytes("part-" + number(n)) == bytes("whole-" + number(n))) << first << "-" << last << ", " << n;
    // They tell the same but for their own names.
    std::string scale = bytes("part.time-map.json");
    const auto own = scale.find("part-");
    ASSERT_NE(own, std::string::npos);
    EXPECT_EQ(scale.replace(own, 5, "whole-"), bytes("whole.time-map.json"));
  }
  EXPECT_FALSE(bytes("whole-" + number(0)) == bytes("whole-" + number(39)));
}

TEST(TimeMaps, ABadScaleIsSaid) {
  TempFolder folder;
  EXPECT_NE(stageOfTimeMap(folder / "map-00000.png").error().message.find("has no scale"), std::string::npos);
  for (const char* bad :
       {"", "[]", "{}", R"({"least": 1, "most": 0, "rate": 0, "files": "", "unit": 1, "values": 2})"}) {
    test::writeFile(folder / "map.time-map.json", std::string(bad));
    EXPECT_FALSE(stageOfTimeMap(folder / "map-00000.png"));
  }
}

TEST(Trace, SaysTheFrameThatThePictureShows) {
  TempFolder folder;
  test::makeNoiseClip(folder / "clip.mkv", 30, {64, 36}, "gray");
  const auto footage = test::openFootage(folder / "clip.mkv");
  const auto frames = test::readAll(*footage);
  Evaluator evaluator(std::make_shared<FrameFeed>(footage, std::size_t(1) << 28, 1), 2);
  for (const Chain& chain : {Chain{*parseStage("time-field:shape=sweep,back=0.5s,past-the-ends=go-round", 30)},
                             Chain{*parseStage("frame-order:order=29-0", 30),
                                   *parseStage("time-field:back=0.3s,past-the-ends=turn-back", 30)},
                             Chain{*parseStage("time-field:back=0.1s@0s+0.6s@1s,past-the-ends=go-round", 30),
                                   *parseStage("time-field:shape=radial,back=0.3s,past-the-ends=stand-still", 30)}}) {
    const PicturePlan plan = evaluator.plan(chain, {});
    const ChainReading reading(chain, footage->video());
    const auto picture = evaluator.picture(plan, {17, 0}, {});
    ASSERT_TRUE(picture);
    int wrong = 0;
    for (int y = 0; y < 36; y += 3)
      for (int x = 0; x < 64; x += 3) {
        const std::int32_t frame = reading.at({17}, x, y).frame;
        wrong += test::sampleAt(*picture, 0, x, y) != test::sampleAt(frames[static_cast<std::size_t>(frame)], 0, x, y);
      }
    EXPECT_LE(wrong, 2) << stageText(chain[0]);
  }
}

}  // namespace
}  // namespace molten

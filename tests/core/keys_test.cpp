// Keys: values between them, edits, text, and projects that hold them.
#include <cmath>
#include <random>

#include "core/project/paintings.h"
#include "core/project/project_file.h"
#include "core/files/read_file.h"
#include "core/files/safe_file.h"
#include "core/stages/key_text.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

const ParameterDescription& parameter(const char* id) {
  const auto& described = findStageKind("time-field")->description();
  return described.parameters[parameterIndex(described, id)];
}

TEST(Keys, ValuesLieOnTheirWays) {
  const KeyTrack track{{1, {2, 0}, {}}, {3, {6, 0}, {}}, {4, {0, 0}, {Ease::Way::Hold, 0, 0}}, {6, {10, 0}, softEase}};
  EXPECT_EQ(keyedValue(track, 0)[0], 2);
  EXPECT_EQ(keyedValue(track, 1.5)[0], 3);
  EXPECT_EQ(keyedValue(track, 3.999)[0], 6);
  EXPECT_EQ(keyedValue(track, 4)[0], 0);
  EXPECT_NEAR(keyedValue(track, 5)[0], 5, 1e-9);
  EXPECT_LT(keyedValue(track, 4.2)[0], 0.5);
  EXPECT_EQ(keyedValue(track, 99)[0], 10);
}

TEST(Keys, TheCurveIsTheBezierOfItsWords) {
  std::mt19937 random(3);
  std::uniform_real_distribution<> part(0, 1);
  for (int i = 0; i < 200; ++i) {
    const Ease ease{Ease::Way::Curve, part(random), part(random)};
    // A point of the curve by its parameter, then asked for by its x.
    const double p = part(random), q = 1 - p;
    const double x = 3 * q * q * p * ease.leave + 3 * q * p * p * (1 - ease.arrive) + p * p * p;
    const double y = 3 * q * p * p + p * p * p;
    // Where the curve stands still in x, y is not told by it.
    if (3 * q * q * ease.leave + 6 * q * p * (1 - ease.arrive - ease.leave) + 3 * p * p * ease.arrive < 0.05) continue;
    EXPECT_NEAR(eased(ease, x), y, 1e-9);
  }
  double last = 0;
  for (double u = 0; u <= 1; u += 0.01) {
    const double now = eased({Ease::Way::Curve, 1, 1}, u);
    EXPECT_GE(now, last);
    last = now;
  }
}

TEST(Keys, EditsKeepThemInOrder) {
  KeyTrack track = withKey(withKey(withKey({}, 2, {5, 0}), 1, {4, 0}), 3, {6, 0});
  ASSERT_EQ(track.size(), 3u);
  EXPECT_EQ(track[0].at, Rational(1));
  track = withKey(track, 2, {9, 0});
  EXPECT_EQ(track.size(), 3u);
  EXPECT_EQ(track[1].value[0], 9);
  // A key moved onto another takes its place; none goes before the beginning.
  EXPECT_EQ(movedKeys(track, {0}, 1).size(), 2u);
  EXPECT_EQ(movedKeys(track, {0}, 1)[0].value[0], 4);
  EXPECT_EQ(movedKeys(track, {0, 1}, -9)[0].at, Rational(0));
  EXPECT_EQ(movedKeys(track, {0, 1}, -9)[1].at, Rational(1));
  EXPECT_EQ(scaledKeys(track, {0, 1, 2}, 1, 3)[2].at, Rational(7));
  EXPECT_EQ(withoutKeys(track, {1}).size(), 2u);
  const KeyTrack pasted = withPasted(track, {{10, {1, 0}, {}}, {11, {2, 0}, {}}}, 2);
  ASSERT_EQ(pasted.size(), 3u);
  EXPECT_EQ(pasted[1].value[0], 1);
  EXPECT_EQ(pasted[2].value[0], 2);
}

TEST(Keys, TextComesBack) {
  for (const char* text : {"1s@0s+3s@4s~ease", "0.25s@0.5s+0s@1/3s~hold", "1s@0s+2s@1s~0.3x0.75+1s@2s"}) {
    if (std::string(text).find("1/3") != std::string::npos) {
      EXPECT_FALSE(parseKeys(parameter("back"), text, 25)) << "keys must rise";
      continue;
    }
    const auto keys = parseKeys(parameter("back"), text, 25);
    ASSERT_TRUE(keys) << text;
    EXPECT_EQ(keysText(parameter("back"), *keys), text);
  }
  const auto places = parseKeys(parameter("start"), "0.5x1@0f+-0.25x0@12f~ease", 24);
  ASSERT_TRUE(places);
  EXPECT_EQ((*places)[1].at, Rational(1, 2));
  EXPECT_EQ((*places)[1].value, (KeyValue{-0.25, 0, 0}));
  EXPECT_EQ(*parseKeys(parameter("start"), keysText(parameter("start"), *places), 24), *places);
  for (const char* bad : {"1s@", "@1s", "1s@0s+", "1s@0s~soft", "5000s@0s", "1s@-1s", "1s@2s+1s@2s", "1s@0s~2x0"})
    EXPECT_FALSE(parseKeys(parameter("back"), bad, 25)) << bad;
}

TEST(Keys, AChangedValueMakesAKeyAtItsMoment) {
  Project project;
  project.chain = {*parseStage("time-field:back=1s@0s+3s@4s", 25)};
  const std::size_t back = parameterIndex(project.chain[0].kind->description(), "back");
  const Edit edit = setValueAt(project, 0, back, 0.5, 2);
  EXPECT_EQ(edit.name, "Key Back 0.500 s");
  const KeyTrack& track = edit.after.chain[0].keys.at(back);
  ASSERT_EQ(track.size(), 3u);
  EXPECT_EQ(edit.after.chain[0].valuesAt(2)[back], ParameterValue(0.5));
  // The last key that goes leaves the value that was seen.
  const Edit gone = setKeys(project, 0, back, {}, 2, "Remove");
  EXPECT_TRUE(gone.after.chain[0].keys.empty());
  EXPECT_EQ(std::get<double>(gone.after.chain[0].values[back]), 2);
  // What is not keyed is set as it always was.
  const std::size_t ahead = parameterIndex(project.chain[0].kind->description(), "ahead");
  EXPECT_TRUE(setValueAt(project, 0, ahead, 0.5, 2).after.chain[0].keys.count(ahead) == 0);
}

TEST(Keys, ValuesOutOfRangeStayOut) {
  Stage stage = *parseStage("time-field:panes=0@0s+9@2s", 25);
  const std::size_t steps = parameterIndex(stage.kind->description(), "panes");
  for (double t = 0; t < 2.2; t += 0.1) {
    const double value = std::get<double>(stage.valuesAt(t)[steps]);
    EXPECT_EQ(value, std::floor(value));
  }
}

TEST(Keys, AStepRateWithKeysChangesItsPace) {
  const Stage stage = *parseStage("step-rate:rate=5@0s~hold+10@2s~hold", 20);
  const VideoDescription video{{16, 9}, 1, 20, 80};
  const auto map = stage.kind->timeMap(stage, video);
  EXPECT_EQ(map->readAt({39}).whole, 36);
  EXPECT_EQ(map->readAt({43}).whole, 42);
  EXPECT_EQ(map->readAt({79}).whole, 78);
}

TEST(ProjectFile, WithEverythingInItIsSavedToTheSameBytes) {
  TempFolder folder;
  Project project;
  project.source.path = folder / "clip.mp4";
  project.chain = {
      *parseStage("pace:spans=1s@50%~0.2s+2s@200%", 25), *parseStage("step-rate:rate=5@0s+10@2s~hold", 25),
      *parseStage("time-field:shape=noise,centre=0.1x0.2@0s+0.9x0.8@2s~0.25x1,combine=only-where,second-shape=painted,"
                  "response=0x0+0.3x0.8+1x1,panes=7,dither=1.5f,fresh,start-holds=pinned,pinned-moment=1.25s,let-go=3s",
                  25),
      *parseStage("time-field:shape=picture,fit=placed,width=33%,file=" + (folder / "maps/field.png"), 25)};
  const auto empty = std::make_shared<const PaintedPicture>(Size{70, 40});
  Stroke stroke(empty, {9, 0.7, 0.6});
  stroke.to(10, 10);
  setTo(project.chain[2], "second-painted", Painting{"", stroke.to(60, 30)});
  project.versionB = Chain{*parseStage("time-field:shape=radial,inner=12.5%,angle=-33deg", 25)};
  project.in = 3;
  const std::string path = folder / "all.molten";
  ASSERT_TRUE(saveProject(project, path));
  const std::string name = folder.names()[0];
  ASSERT_TRUE(name.starts_with("all-painted-")) << name;
  const std::string first = *readWhole(path, 1 << 20), painted = *readWhole(folder / name, 1 << 20);
  EXPECT_NE(first.find('"' + name + '"'), std::string::npos);
  EXPECT_NE(first.find("\"maps/field.png\""), std::string::npos);
  const auto back = loadProject(path);
  ASSERT_TRUE(back) << back.error().message;
  EXPECT_EQ(*back, project);
  ASSERT_TRUE(saveProject(*back, path));
  EXPECT_EQ(*readWhole(path, 1 << 20), first);
  EXPECT_EQ(*readWhole(folder / name, 1 << 20), painted);
  // A painting that has gone: the project opens, goes on naming it, and loses nothing when it is saved again.
  std::filesystem::remove(folder / name);
  const auto without = loadProject(path);
  ASSERT_TRUE(without);
  EXPECT_NE(projectText(*without, folder.path().string()).find('"' + name + '"'), std::string::npos);
}

TEST(ProjectFile, FilesOfEarlierVersionsOpen) {
  const auto old = parseProject(R"({"format": 1, "footage": {"path": "a.mp4", "stills-rate": "24/1"}, "chain": [
    {"stage": "time-field", "on": true, "start": [0.45, 0.79], "end": [0.45, 0.24], "flip": false, "back": 1.5,
     "ahead": 0.0, "past-the-ends": "wrap", "in-between": "blend"}], "in": null, "out": null,
    "output": {"path": "", "codec": "", "quality": -1}})",
                                "/films");
  ASSERT_TRUE(old) << old.error().message;
  EXPECT_EQ(
      stageText(old->chain[0]),
      "time-field:start=0.45x0.79,end=0.45x0.24,finer-layers=2,back=1.5s,past-the-ends=go-round,second-finer-layers=2");
  EXPECT_EQ(old->source.between, InBetween::Mixed);
}

}  // namespace
}  // namespace molten

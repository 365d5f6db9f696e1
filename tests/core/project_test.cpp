// Project files, values as they are written, edits, and the sentences that go with them.
#include <cmath>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <random>

#include "core/project/piece.h"
#include "core/project/project_file.h"
#include "core/project/project_schema.h"
#include "core/files/read_file.h"
#include "core/files/safe_file.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

Project sample() {
  Project project;
  project.source.path = "/films/gather.mp4";
  project.chain = {*parseStage("time-field:back=0.25s,start=0.1x0.9,past-the-ends=turn-back,flip", 60),
                   newStage(*findStageKind("time-field"))};
  project.chain[1].on = false;
  project.in = 12;
  project.output.path = "/films/out.mov";
  project.output.codec = "prores";
  project.output.quality = 3;
  project.output.size = Size{640, 360};
  project.output.rate = Rational(30000, 1001);
  return project;
}

TEST(ProjectFile, ComesBackAsItWas) {
  const auto back = parseProject(projectText(sample(), "/films"), "/films");
  ASSERT_TRUE(back) << back.error().message;
  EXPECT_EQ(*back, sample());
}

TEST(ProjectFile, PathsAreRelativeToTheFile) {
  const std::string text = projectText(sample(), "/films");
  EXPECT_NE(text.find("\"gather.mp4\""), std::string::npos);
  EXPECT_EQ(parseProject(text, "/moved")->source.path, "/moved/gather.mp4");
}

TEST(ProjectFile, UnknownMembersAreKept) {
  std::string text = projectText(sample(), "");
  const auto put = [&](const std::string& before, const std::string& added) { text.insert(text.find(before), added); };
  put("\"sources\"", "\"mood\": {\"a\": [1, 2]}, ");
  put("\"path\"", "\"slate\": 7, ");
  put("\"on\"", "\"tint\": \"teal\", ");
  const auto project = parseProject(text, "");
  ASSERT_TRUE(project) << project.error().message;
  const std::string again = projectText(*project, "");
  for (const char* kept : {"\"mood\"", "\"slate\": 7", "\"tint\": \"teal\""})
    EXPECT_NE(again.find(kept), std::string::npos) << kept;
}

/// Every project that an earlier version of the repository held opens, and means what it meant.
TEST(Format1, EveryFileThatWasWrittenOpens) {
  int files = 0;
  for (const auto& file : std::filesystem::directory_iterator(std::string(MOLTEN_SOURCE) + "/tests/data/format1")) {
    const auto project = loadProject(file.path().string());
    ASSERT_TRUE(project) << project.error().message;
    EXPECT_FALSE(project->chain.empty()) << file.path();
    for (const Stage& stage : project->chain) EXPECT_TRUE(stage.unknown.empty()) << file.path() << stage.unknown;
    // It is written as one of today, and that opens alike.
    const std::string text = projectText(*project, "");
    EXPECT_NE(text.find("\"format\": 2"), std::string::npos);
    EXPECT_EQ(*parseProject(text, ""), *project) << file.path();
    ++files;
  }
  EXPECT_GE(files, 40);
}

std::string todayOf(const std::string& stage) {
  const auto project = parseProject(R"({"format": 1, "chain": [)" + stage + "]}", "");
  return project ? stageText(project->chain[0]) : project.error().message;
}

TEST(Format1, EchoesKeepTheirStrengthsExactly) {
  EXPECT_EQ(todayOf(R"({"stage": "echoes", "repeats": 3, "falloff": 0.5, "combine": "screen", "drift": 0.01})"),
            "echoes:repeats=3,copy-speed=99%,nearest=50%,farthest=12.5%,mix=light");
  const auto project = parseProject(
      R"({"format": 1, "chain": [{"stage": "echoes", "repeats": 8, "falloff": "80%@0s+40%@2s~ease", "combine": "over"}]})",
      "");
  ASSERT_TRUE(project);
  const Stage& stage = project->chain[0];
  for (const double t : {0.0, 2.0}) {
    const StageValues values = stage.valuesAt(t);
    const auto value = [&](const char* id) {
      return std::get<double>(values[parameterIndex(stage.kind->description(), id)]);
    };
    EXPECT_NEAR(value("farthest"), std::pow(value("nearest"), 8), 1e-9) << t;
  }
  EXPECT_EQ(chosenOf(stage, "mix"), "layers");
  EXPECT_EQ(chosenOf(stage, "top"), "oldest");
}

TEST(Format1, AShutterFallsWhereItDid) {
  EXPECT_EQ(todayOf(R"({"stage": "shutter", "angle": 180, "phase": -90, "samples": 16, "light": "linear"})"),
            "shutter:falls=around,moments=16");
  EXPECT_EQ(todayOf(R"({"stage": "shutter", "angle": 360, "phase": 0, "samples": 8})"), "shutter:open=100%,moments=8");
  EXPECT_EQ(todayOf(R"({"stage": "shutter", "angle": 90, "phase": -90, "samples": 8})"),
            "shutter:open=25%,falls=before,moments=8");
  // Neither of the three: the nearest one, and how far it is off.
  EXPECT_EQ(todayOf(R"({"stage": "shutter", "angle": 180, "phase": 36, "samples": 8})"),
            "shutter:offset=10%,moments=8");
}

TEST(Format1, OtherNamesOfThatTime) {
  EXPECT_EQ(todayOf(R"({"stage": "turnaround", "way": "wrap", "end-frames": "doubled", "skip-end": 1.5})"),
            "loop:kind-of-loop=round,end-frames=twice,skip-end=1.5s");
  EXPECT_EQ(todayOf(R"({"stage": "strips", "spacing": "each", "stagger": 0.2, "order": "to-middle", "rule": 2})"),
            "strips:stagger=6f,now-stands-at=both-edges,divider-line=2px");
  EXPECT_EQ(todayOf(R"({"stage": "strips", "order": "shuffled", "in-between": "flow"})"), "strips:delays=by-lot");
  EXPECT_EQ(todayOf(R"({"stage": "frame-order", "order": "1x4+2-6x2", "past-the-ends": "bounce"})"),
            "frame-order:order=1:4+2-6:2,past-the-ends=turn-back");
  EXPECT_EQ(todayOf(R"({"stage": "slit-scan", "before-the-slit": "last"})"), "slit-scan:before-the-slit=last-sweep");
  const auto project = parseProject(R"({"format": 1, "footage": {"path": "a.mp4", "stills-rate": "12/1"}, "chain": [
    {"stage": "pace", "in-between": "blend"}, {"stage": "time-field", "in-between": "flow"}]})",
                                    "/films");
  ASSERT_TRUE(project);
  EXPECT_EQ(project->source.between, InBetween::Flow);
  EXPECT_EQ(project->source.path, "/films/a.mp4");
}

TEST(ProjectFile, BadFilesAreRefusedInWords) {
  for (const char* bad : {"",
                          "{",
                          "[]",
                          "{}",
                          R"({"format": "1"})",
                          R"({"format": 0})",
                          R"({"format": 3})",
                          R"({"format": 1, "chain": 3})",
                          R"({"format": 1, "chain": [{}]})",
                          R"({"format": 1, "chain": [{"stage": "moon"}]})",
                          R"({"format": 1, "chain": [{"stage": "time-field", "back": -3}]})",
                          R"({"format": 1, "chain": [{"stage": "time-field", "back": "1"}]})",
                          R"({"format": 1, "chain": [{"stage": "time-field", "start": [0]}]})",
                          R"({"format": 1, "in": -4})",
                          R"({"format": 1, "footage": {"path": 5}})",
                          R"({"format": 1, "output": {"size": [0, 9]}})",
                          R"({"format": 2, "sources": {}})",
                          R"({"format": 2, "sources": [{"in-between": "nearest"}]})",
                          R"({"format": 2, "shots": []})",
                          R"({"format": 2, "shots": [{}, 3]})",
                          R"({"format": 2, "shots": [{"chain": [{"stage": "moon"}]}]})",
                          R"({"format": 2, "sounds": [{"path": "a.wav"}]})",
                          R"({"format": 2, "reel": 3})",
                          R"({"format": 2, "reel": {"chain": [{"stage": "moon"}]}})"}) {
    const auto project = parseProject(bad, "");
    EXPECT_FALSE(project) << bad;
    EXPECT_TRUE(project || project.error().message.size() > 10) << bad;
  }
}

TEST(ProjectFile, RandomDamageNeverCrashes) {
  std::mt19937 random(21);
  const std::string good = projectText(sample(), "");
  for (int round = 0; round < 3000; ++round) {
    std::string bad = good;
    for (unsigned i = 0; i < 1 + random() % 6; ++i) bad[random() % bad.size()] = static_cast<char>(32 + random() % 96);
    const auto project = parseProject(bad, "/x");
    EXPECT_TRUE(!project || parseProject(projectText(*project, "/x"), "/x"));
  }
}

TEST(ProjectFile, SchemaInTheDocumentsIsTheCodes) {
  std::ifstream in(std::string(MOLTEN_SOURCE) + "/docs/project.schema.json");
  const std::string text{std::istreambuf_iterator<char>(in), {}};
  EXPECT_EQ(text, projectSchema()) << "write it anew with: molten-render --schema > docs/project.schema.json";
}

TEST(ProjectFile, SavingToABadPlaceKeepsWhatWasThere) {
  const TempFolder folder;
  ASSERT_TRUE(saveProject(sample(), folder / "a.molten"));
  const auto before = readWhole(folder / "a.molten", 1 << 20);
  EXPECT_FALSE(saveProject(sample(), folder / "none/a.molten"));
  const auto result = saveProject(Project{}, folder.path().string());
  ASSERT_FALSE(result);
  EXPECT_NE(result.error().message.find("is a folder"), std::string::npos);
  EXPECT_EQ(*readWhole(folder / "a.molten", 1 << 20), *before);
  EXPECT_EQ(folder.names(), std::vector<std::string>{"a.molten"});
}

TEST(SafeFile, LeavesNothingWithoutItsName) {
  const TempFolder folder;
  {
    auto file = SafeFile::create(folder / "a");
    ASSERT_TRUE(file);
    ASSERT_TRUE(file->write(std::vector<std::uint8_t>(1000)));
    EXPECT_FALSE(std::filesystem::exists(folder / "a"));
  }
  EXPECT_TRUE(folder.names().empty());
}

const ParameterDescription& parameter(const char* id) {
  const auto& description = findStageKind("time-field")->description();
  return description.parameters[parameterIndex(description, id)];
}

/// What is written is read back to the last bit, whatever the unit; rates are the nearest fractions.
TEST(Values, AnyNumberComesBackAsItWas) {
  std::mt19937_64 random(4);
  for (const StageKind* kind : stageKinds())
    for (const ParameterDescription& described : kind->description().parameters) {
      const auto* number = std::get_if<NumberDescription>(&described.kind);
      if (!number || number->unit == Unit::PerSecond) continue;
      std::uniform_real_distribution<> anywhere(number->least, number->most), small(-25, 0);
      for (int i = 0; i < 500; ++i) {
        double value = anywhere(random);
        // Tiny ones, and those with few digits, too.
        if (i % 3 == 1) value = std::clamp(std::pow(10, small(random)), number->least, number->most);
        if (i % 3 == 2) value = std::clamp(std::round(value * 1000) / 1000, number->least, number->most);
        if (number->whole) value = std::round(value);
        const std::string text = valueText(described, value);
        const auto back = parseValue(described, text, Rational(30000, 1001));
        ASSERT_TRUE(back) << kind->description().id << " " << described.id << " " << text;
        ASSERT_EQ(std::get<double>(*back), value) << kind->description().id << " " << described.id << " " << text;
      }
    }
}

TEST(Values, AreReadWithTheirUnits) {
  const auto seconds = [](const char* text) { return std::get<double>(*parseValue(parameter("back"), text, 60)); };
  EXPECT_EQ(seconds("1.5s"), 1.5);
  EXPECT_EQ(seconds("36f"), 0.6);
  EXPECT_EQ(seconds("1/4s"), 0.25);
  EXPECT_EQ(seconds("250 ms"), 0.25);
  EXPECT_EQ(seconds("+2"), 2);
  for (const char* bad : {"", "s", "1.5x", "1/0", "-1", "nan", "inf", "1e99", "99999s"})
    EXPECT_FALSE(parseValue(parameter("back"), bad, 60)) << bad;
  EXPECT_EQ(std::get<Place>(*parseValue(parameter("start"), "0.25 × 1", 60)), (Place{0.25, 1}));
  EXPECT_EQ(std::get<std::size_t>(*parseValue(parameter("past-the-ends"), "Turn back", 60)), 1u);
  EXPECT_TRUE(std::get<bool>(*parseValue(parameter("flip"), "on", 60)));
}

TEST(Values, TextComesBackToTheSameValue) {
  std::mt19937 random(2);
  std::uniform_real_distribution<> numbers(0, 3600);
  for (int i = 0; i < 500; ++i) {
    const ParameterValue value = numbers(random), place = Place{numbers(random) / 3600, -numbers(random) / 3600};
    EXPECT_EQ(*parseValue(parameter("back"), valueText(parameter("back"), value), 25), value);
    EXPECT_EQ(*parseValue(parameter("start"), valueText(parameter("start"), place), 25), place);
  }
  EXPECT_EQ(momentText(-1), "−1.000 s");
  EXPECT_EQ(momentText(0.0001), "now");
  EXPECT_EQ(momentText(0.25), "+0.250 s");
}

TEST(Stages, AreReadFromTextAndWrittenBack) {
  const char* text = "time-field:start=0.2x0.1,flip=on,back=0.5s,past-the-ends=go-round";
  const auto stage = parseStage(text, 25);
  ASSERT_TRUE(stage);
  EXPECT_EQ(stageText(*stage), text);
}

TEST(Stages, DescriptionsKeepTheirPromises) {
  for (const StageKind* kind : stageKinds())
    for (const auto& p : kind->description().parameters) {
      std::string id = p.label;
      for (char& c : id) c = c == ' ' ? '-' : static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
      EXPECT_EQ(p.id, id);
      EXPECT_FALSE(p.help.empty());
      EXPECT_EQ(withinRange(p, initialValue(p)), initialValue(p));
    }
}

/// A loop stays one at any rate: its round is divided evenly by the nearest number of pictures.
TEST(Pieces, ALoopStaysALoopAtAnyRate) {
  const VideoDescription video{{64, 36}, 1, Rational(60), 91};
  const Chain chain{*parseStage("loop", 60)};
  for (const Rational rate : {Rational(60), Rational(25), Rational(30000, 1001), Rational(24), Rational(7)}) {
    OutputSettings output;
    output.rate = rate;
    const Piece piece = pieceOf(chain, output, video);
    EXPECT_TRUE(piece.endless) << rateText(rate);
    EXPECT_EQ(piece.length, (Rational(180, 60) * rate + Rational(1, 2)).floor()) << rateText(rate);
    EXPECT_EQ(piece.moment(piece.length), piece.moment(0));
    // Evenly, and by less than half a picture a round off.
    EXPECT_EQ(piece.moment(1).exact(), Rational(180, piece.length));
    EXPECT_LE(std::abs(piece.faster()) * 3 * rate.toDouble(), 0.5 + 1e-9);
  }
  OutputSettings twice;
  twice.rate = Rational(25), twice.length = Rational(6);
  EXPECT_TRUE(pieceOf(chain, twice, video).endless);
  twice.length = Rational(5);
  EXPECT_FALSE(pieceOf(chain, twice, video).endless);
}

TEST(Edits, NameThemselvesAndMove) {
  Project project = sample();
  const std::size_t back = parameterIndex(project.chain[0].kind->description(), "back");
  const Edit edit = setValue(project, 0, back, 1.25);
  EXPECT_EQ(edit.name, "Back 1.250 s");
  EXPECT_EQ(std::get<double>(edit.after.chain[0].values[back]), 1.25);
  EXPECT_EQ(std::get<double>(setValue(project, 0, back, -5.0).after.chain[0].values[back]), 0);
  const Edit moved = moveStage(project, 0, 1);
  EXPECT_EQ(moved.after.chain[1], project.chain[0]);
  EXPECT_EQ(moveStage(moved.after, 1, 0).after.chain, project.chain);
  EXPECT_EQ(replaceFootage(project, "/b.mp4", "b.mp4").after.chain, project.chain);
}

TEST(Edits, TrimmingLeavesNoReadOutside) {
  Project project;
  project.chain = {*parseStage("time-field:back=0.5s,ahead=0.25s", 60)};
  const VideoDescription video{{1280, 720}, 1, 60, 480};
  const auto runs = [&](const Project& of) {
    const Piece piece = pieceOf(of, video);
    return outsideRuns(ChainReading(of.chain, video), piece, spanOf(of, piece.length));
  };
  const auto outside = runs(project);
  ASSERT_EQ(outside.size(), 2u);
  EXPECT_EQ(outside[0].count(), 30);
  EXPECT_TRUE(outside[0].beforeFirst && !outside[0].pastLast);
  // Picture 465 reads up to 7.9997 s of 8 s: as long as the last frame stands.
  EXPECT_EQ(outside[1].count(), 14);
  EXPECT_TRUE(outside[1].pastLast && !outside[1].beforeFirst);
  const auto trim = trimToFootage(project, video);
  ASSERT_TRUE(trim);
  EXPECT_EQ(trim->after.in, 30);
  EXPECT_EQ(trim->after.out, 465);
  EXPECT_TRUE(runs(trim->after).empty());
  EXPECT_FALSE(trimToFootage(project, {{1280, 720}, 1, 60, 40}));
}

TEST(Edits, TheOutputsRateMovesInAndOutWithIt) {
  Project project;
  project.in = 60;
  project.out = 179;
  const VideoDescription video{{1280, 720}, 1, 60, 480};
  const Edit slower = setOutputRate(project, 24, video);
  EXPECT_EQ(slower.name, "Output at 24 fps");
  EXPECT_EQ(slower.after.in, 24);
  EXPECT_EQ(slower.after.out, 71);
  const Edit back = setOutputRate(slower.after, 60, video);
  EXPECT_EQ(back.after, project);
  EXPECT_EQ(pieceOf(slower.after, video).length, 192);
  const Edit fixed = setOutputLength(slower.after, Rational(7));
  EXPECT_EQ(pieceOf(fixed.after, video).length, 168);
  EXPECT_TRUE(pieceOf(fixed.after, video).fixed);
}

}  // namespace
}  // namespace molten

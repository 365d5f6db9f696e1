// molten-render's words: each way of writing an option, what it then does, and what is said of it.
#include <nlohmann/json.hpp>
#include <sstream>

#include "core/project/project_file.h"
#include "core/project/project_schema.h"
#include "support/clips.h"
#include "support/random_chains.h"

namespace molten {
namespace {

using nlohmann::json;
using test::TempFolder;

class WordsTest : public ::testing::Test {
 protected:
  test::CommandResult call(const std::string& arguments) {
    return test::runCommand(std::string(MOLTEN_RENDER) + " " + arguments);
  }
  json describe(const std::string& arguments) {
    const auto result = call(arguments + " --describe");
    EXPECT_EQ(result.exitCode, 0) << arguments << "\n" << result.err;
    return result.exitCode == 0 ? json::parse(result.out) : json();
  }
  std::string clip(int frames = 30, const char* name = "a.mkv") {
    if (!std::filesystem::exists(folder / name)) test::makeNumberedClip(folder / name, frames, {128, 96}, "-c:v ffv1");
    return folder / name;
  }
  std::vector<int> numbers(const std::string& path) {
    std::vector<int> all;
    for (const Picture& picture : test::readAll(*test::openFootage(path))) all.push_back(test::numberShown(picture));
    return all;
  }
  TempFolder folder;
};

/// All that is listed of a parameter can be written in a call, and is then what the chain is made of.
TEST_F(WordsTest, EveryParameterThatIsListedCanBeWritten) {
  const json stages = json::parse(call("--stages --json").out);
  std::string words;
  std::vector<std::string> wanted;
  test::RandomChains random(3, 30);
  for (const StageKind* kind : stageKinds()) {
    const auto listed = std::find_if(stages.begin(), stages.end(),
                                     [&](const json& stage) { return stage["id"] == kind->description().id; });
    ASSERT_NE(listed, stages.end());
    ASSERT_EQ((*listed)["parameters"].size(), kind->description().parameters.size());
    for (std::size_t i = 0; i < kind->description().parameters.size(); ++i) {
      const json& said = (*listed)["parameters"][i];
      EXPECT_EQ(said["id"], kind->description().parameters[i].id);
      EXPECT_FALSE(said["help"].get<std::string>().empty()) << said["id"];
    }
    for (int round = 0; round < 6; ++round) {
      const Stage stage = random.stage(*kind);
      // Rates are fractions of whole numbers: as near as those come.
      wanted.push_back(stageText(*parseStage(stageText(stage), 30)));
      words += " --stage '" + wanted.back() + "'";
    }
  }
  const json chain = describe(clip() + words)["chain"];
  ASSERT_EQ(chain.size(), wanted.size());
  for (std::size_t k = 0; k < wanted.size(); ++k) EXPECT_EQ(chain[k]["stage"], wanted[k]);
}

/// The same chain by words and by a project that holds it gives the same pictures.
TEST_F(WordsTest, AProjectAndItsWordsAreOne) {
  test::RandomChains random(8, 30);
  for (int round = 0; round < 4; ++round) {
    Project project;
    project.source.path = clip();
    project.chain = random.chain(2);
    ASSERT_TRUE(saveProject(project, folder / "p.molten"));
    const std::string tail = " --frames 0-5 --progress none -o ";
    const auto byFile = call(folder / "p.molten" + tail + folder / "file.mkv"),
               byWords = call(clip() + " " + [&] {
                 std::string all;
                 for (const Stage& stage : project.chain) all += " --stage '" + stageText(stage) + "'";
                 return all;
               }() + tail + folder / "words.mkv");
    ASSERT_EQ(byFile.exitCode, byWords.exitCode) << byFile.err << byWords.err << test::chainWords(project.chain);
    if (byFile.exitCode != 0) continue;  // a piece of fewer pictures
    const auto a = test::readAll(*test::openFootage(folder / "file.mkv")),
               b = test::readAll(*test::openFootage(folder / "words.mkv"));
    ASSERT_EQ(a.size(), b.size());
    for (std::size_t n = 0; n < a.size(); ++n) EXPECT_TRUE(test::samePicture(a[n], b[n]));
  }
}

TEST_F(WordsTest, SetChangesTheStageThatIsMeant) {
  Project project;
  project.source.path = clip();
  for (const char* text : {"pace", "time-field:back=0.1s", "time-field:back=0.2s"})
    project.chain.push_back(*parseStage(text, 30));
  ASSERT_TRUE(saveProject(project, folder / "p.molten"));
  const auto chainOf = [&](const std::string& words) {
    const json chain = describe(folder / "p.molten" + words)["chain"];
    std::vector<std::string> all;
    for (const json& stage : chain) all.push_back(stage["stage"]);
    return all;
  };
  using Chain = std::vector<std::string>;
  EXPECT_EQ(chainOf(""), (Chain{"pace", "time-field:back=0.1s", "time-field:back=0.2s"}));
  EXPECT_EQ(chainOf(" --set time-field.back=3f"), (Chain{"pace", "time-field:back=0.1s", "time-field:back=0.2s"}))
      << "three frames are 0.1 s";
  EXPECT_EQ(chainOf(" --set time-field.back=0.5s"), (Chain{"pace", "time-field:back=0.5s", "time-field:back=0.2s"}));
  EXPECT_EQ(chainOf(" --set 'time-field#1.back=0.5s'"),
            (Chain{"pace", "time-field:back=0.1s", "time-field:back=0.5s"}));
  EXPECT_EQ(chainOf(" --set time-field.back=0.3s --set 'time-field#1.past-the-ends=turn-back' --stage shutter"),
            (Chain{"pace", "time-field:back=0.3s", "time-field:back=0.2s,past-the-ends=turn-back", "shutter"}));
  for (const char* off : {"time-field", "time-field.back", ".back=1s", "time-field#2.back=1s", "time-field#x.back=1s",
                          "time-field.bakc=1s", "time-field.back=", "shutter.angle=90"}) {
    const auto result = call(folder / "p.molten" + " --describe --set '" + off + "'");
    EXPECT_EQ(result.exitCode, 2) << off;
    EXPECT_EQ(std::count(result.err.begin(), result.err.end(), '\n'), 1) << result.err;
    EXPECT_TRUE(result.out.empty()) << off;
  }
  EXPECT_EQ(loadProject(folder / "p.molten")->chain, project.chain) << "the file stays as it is";
}

/// What a stage's own source is and what its own chain does, as deep as it goes; what cannot be opened is said to be so.
TEST_F(WordsTest, TheChainsOfOwnSourcesAreDescribed) {
  const json chain = describe(clip() + " --stage insert:source=" + clip() + " --stage insert/pace:spans=0.5s@50% --stage insert/insert:source=" +
                              folder / "none.mkv" + " --stage insert/insert/loop --stage echoes")["chain"];
  ASSERT_EQ(chain.size(), 2u);
  EXPECT_EQ(chain[0]["stage"], "insert:source=" + clip());
  EXPECT_FALSE(chain[1].contains("source"));
  const json source = chain[0]["source"];
  EXPECT_EQ(source["path"], clip());
  EXPECT_EQ(source["seconds"], 1.0);
  ASSERT_EQ(source["chain"].size(), 2u);
  EXPECT_EQ(source["chain"][0]["stage"], "pace:spans=0.5s@50%");
  EXPECT_FALSE(source["chain"][0]["summary"].get<std::string>().empty());
  const json inner = source["chain"][1]["source"];
  EXPECT_EQ(inner["found"], false);
  EXPECT_EQ(inner["chain"][0]["stage"], "loop");
}

TEST_F(WordsTest, FramesAreOneOrFromFirstToLast) {
  const std::string out = " --progress none -o " + folder / "o.mkv";
  for (const auto& [words, wanted] :
       {std::pair{"0-0", std::vector{0}}, {"7", {7}}, {"3-6", {3, 4, 5, 6}}, {"28-29", {28, 29}}}) {
    ASSERT_EQ(call(clip() + " --frames " + words + out).exitCode, 0) << words;
    EXPECT_EQ(numbers(folder / "o.mkv"), wanted) << words;
  }
  for (const char* off : {"", "-", "3-", "-3", "6-3", "a-b", "1-2-3", "0x3", "3.5", "99999999999999999999"})
    EXPECT_EQ(call(clip() + " --frames '" + off + "'" + out).exitCode, std::string(off).empty() ? 0 : 2) << off;
  const auto beyond = call(clip() + " --frames 25-40" + out);
  EXPECT_EQ(beyond.exitCode, 0);
  EXPECT_EQ(numbers(folder / "o.mkv"), (std::vector{25, 26, 27, 28, 29}));
  EXPECT_NE(beyond.err.find("the last one of the result is 29"), std::string::npos) << beyond.err;
}

TEST_F(WordsTest, LengthsRatesAndSizesAreAsWritten) {
  const auto result = [&](const std::string& words) { return describe(clip() + " " + words)["result"]; };
  EXPECT_EQ(result("")["frames"], 30);
  EXPECT_EQ(result("")["length"], "follows the chain");
  EXPECT_EQ(result("--length 0.5s")["frames"], 15);
  EXPECT_EQ(result("--length 50f")["frames"], 50);
  EXPECT_EQ(result("--length 0.5s")["length"], "fixed");
  EXPECT_EQ(result("--rate 60")["frames"], 60);
  EXPECT_EQ(result("--rate 29.97")["rate"], "30000/1001");
  EXPECT_EQ(result("--rate 30000/1001")["rate"], "30000/1001");
  EXPECT_EQ(result("--rate 15 --length 2s")["frames"], 30);
  for (const char* off : {"--length 0s", "--length -1s", "--length 25h", "--rate 0", "--rate -5", "--rate 1/0",
                          "--size 10", "--size 10x", "--size 99999x10", "--memory 5", "--memory 1XB", "--memory -1G",
                          "--threads 0", "--quality 101", "--between often", "--progress loud", "--time-map miles"}) {
    const auto said = call(clip() + " " + off + " -o " + folder / "o.mkv");
    EXPECT_EQ(said.exitCode, 2) << off;
    EXPECT_FALSE(said.err.empty()) << off;
  }
  EXPECT_EQ(folder.names(), std::vector<std::string>{"a.mkv"});
}

TEST_F(WordsTest, MemoryIsWrittenAsPeopleWriteIt) {
  for (const char* size : {"64MB", "64M", "64MiB", "0.5G", "1GiB", "70000000", "64mb"})
    EXPECT_EQ(call(clip() + " --frames 0 --memory " + size + " --progress none -o " + folder / "o.mkv").exitCode,
              std::string(size) == "64mb" ? 2 : 0)
        << size;
}

TEST_F(WordsTest, BetweenFramesIsWhatIsAskedFor) {
  EXPECT_EQ(describe(clip())["footage"]["in-between"], "whole");
  for (const char* each : {"whole", "mixed", "flow"})
    EXPECT_EQ(describe(clip() + " --between " + each)["footage"]["in-between"], each);
  Project project;
  project.source.path = clip();
  project.source.between = InBetween::Mixed;
  ASSERT_TRUE(saveProject(project, folder / "p.molten"));
  EXPECT_EQ(describe(folder / "p.molten")["footage"]["in-between"], "mixed");
  EXPECT_EQ(describe(folder / "p.molten" + " --between whole")["footage"]["in-between"], "whole");
}

TEST_F(WordsTest, StillsHaveTheRateThatIsSaid) {
  for (int n = 0; n < 4; ++n)
    test::makeNumberedClip(folder / ("s-" + std::to_string(n) + ".png"), 1, {64, 48}, "-c:v png -frames:v 1");
  const std::string stills = "'" + folder / "s-%d.png" + "'";
  EXPECT_EQ(describe(stills)["footage"]["rate"], "24/1");
  EXPECT_EQ(describe(stills + " --footage-rate 12.5")["footage"]["rate"], "25/2");
  EXPECT_EQ(describe(stills + " --footage-rate 12.5")["footage"]["frames"], 4);
  EXPECT_EQ(call(stills + " --describe --footage-rate often").exitCode, 2);
}

/// Progress goes where it can be read by a program, and nowhere where it is not wanted; the bar ends with the work.
TEST_F(WordsTest, ProgressIsABarLinesOrNothing) {
  const auto into = [&](const char* name) { return " -o " + folder / name; };
  const auto none = call(clip() + into("n.mkv") + " --progress none"), written = call(clip() + into("j.mkv") + " --progress json"),
             bar = call(clip() + into("b.mkv") + " --progress bar"), quiet = call(clip() + into("q.mkv"));
  for (const auto* each : {&none, &quiet}) {
    EXPECT_TRUE(each->out.empty()) << each->out;
    EXPECT_TRUE(each->err.empty()) << each->err;
  }
  EXPECT_TRUE(written.err.empty()) << written.err;
  std::istringstream lines(written.out);
  int before = -1, count = 0;
  for (std::string line; std::getline(lines, line); ++count) {
    const auto said = json::parse(line);
    EXPECT_GT(said["done"].get<int>(), before);
    before = said["done"];
    EXPECT_EQ(said["total"], 30);
    EXPECT_TRUE(said["seconds-left"].is_null() || said["seconds-left"].get<double>() >= 0) << line;
  }
  EXPECT_EQ(before, 30);
  EXPECT_TRUE(bar.out.empty());
  EXPECT_NE(bar.err.find("30 of 30"), std::string::npos) << bar.err;
  EXPECT_TRUE(bar.err.ends_with("\n"));
}

TEST_F(WordsTest, HelpVersionAndSchemaNeedNoFootage) {
  const auto help = call("--help");
  EXPECT_EQ(help.exitCode, 0);
  for (const char* option : {"--stage", "--set", "--output", "--frames", "--size", "--rate", "--length", "--memory",
                             "--threads", "--strict", "--describe", "--time-map", "--between", "Example:"})
    EXPECT_NE(help.out.find(option), std::string::npos) << option;
  const auto version = call("--version");
  EXPECT_EQ(version.exitCode, 0);
  EXPECT_TRUE(version.out.starts_with("molten-render ")) << version.out;
  const auto schema = call("--schema");
  EXPECT_EQ(schema.exitCode, 0);
  EXPECT_EQ(schema.out, projectSchema());
  EXPECT_EQ(call("--stages time-field").exitCode, 0);
  EXPECT_EQ(call("--stages time-field").out.find("shutter"), std::string::npos);
}

}  // namespace
}  // namespace molten

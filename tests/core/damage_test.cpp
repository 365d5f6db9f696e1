// Footage that is damaged, cut short, replaced or made to do harm: said, counted, and nothing else.
#include <filesystem>
#include <fstream>
#include <random>

#include "core/engine/render_job.h"
#include "core/media/footage.h"
#include "core/project/project_file.h"
#include "core/project/starter.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

std::string bytesOf(const std::string& path) {
  std::ifstream in(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

void put(const std::string& path, const std::string& bytes) {
  std::ofstream(path, std::ios::binary | std::ios::trunc) << bytes;
}

/// Bytes in its middle half changed at random: beginnings, and indices at ends, stay readable.
std::string flipped(std::string bytes, int times, std::uint32_t seed) {
  std::mt19937 random(seed);
  for (int i = 0; i < times; ++i) {
    const std::size_t at = bytes.size() / 4 + random() % (bytes.size() / 2);
    bytes[at] = static_cast<char>(bytes[at] ^ static_cast<char>(1 + random() % 255));
  }
  return bytes;
}

struct Kind {
  const char *name, *arguments;
};
/// Whose decoders notice what was changed, or some of it.
const Kind kinds[] = {{"a.mp4", "-c:v libx264 -g 12"},
                      {"o.mkv", "-c:v libx264 -g 12 -x264-params open-gop=1"},
                      {"f.mkv", "-c:v ffv1 -level 3 -slicecrc 1"},
                      {"p.mov", "-c:v prores_ks"},
                      {"j.mov", "-c:v mjpeg -pix_fmt yuvj420p"},
                      {"m.avi", "-c:v mpeg4"},
                      {"t.ts", "-c:v mpeg2video"}};

std::vector<std::string> findingsOf(const std::string& path, const char* stage = nullptr) {
  const TempFolder folder;
  RenderSettings settings;
  auto footage = Footage::open(path, {}, {}, {});
  if (!footage) return {footage.error().message};
  settings.footage = *footage;
  settings.project.source.path = path;
  if (stage) settings.project.chain = {*parseStage(stage, (*footage)->clock().rate())};
  settings.project.output.path = folder / "o.mkv";
  const auto done = render(settings, {}, {});
  if (!done) return {done.error().message};
  std::vector<std::string> all = (*footage)->warnings();
  all.insert(all.end(), done->findings.begin(), done->findings.end());
  return all;
}

TEST(Damage, IsSaidAndWhatIsWholeIsNot) {
  const TempFolder folder;
  for (const Kind& kind : kinds) {
    SCOPED_TRACE(kind.name);
    test::makeNoiseClip(folder / "noise.mkv", 50, {160, 120}, "yuv420p");
    ASSERT_EQ(test::runCommand("ffmpeg -v error -y -i " + folder / "noise.mkv" + " " + kind.arguments + " " +
                               folder / kind.name)
                  .exitCode,
              0);
    // Forwards, backwards, and back and forth: jumps are no damage.
    for (const char* const stage : {"step-rate:rate=25", "pace:from=2s,spans=2s@-100%",
                                    "frame-order:order=40+3+28+12+49+0+33+7"})
      EXPECT_EQ(findingsOf(folder / kind.name, stage), std::vector<std::string>{}) << stage;
    put(folder / kind.name, flipped(bytesOf(folder / kind.name), 40, 5));
    const auto found = findingsOf(folder / kind.name);
    ASSERT_FALSE(found.empty());
    EXPECT_TRUE(found[0].find("damaged") != std::string::npos || found[0].find("missing") != std::string::npos)
        << found[0];
  }
}

TEST(Damage, FootageCutShortIsSaid) {
  const TempFolder folder;
  test::makeNoiseClip(folder / "whole.mkv", 50, {160, 120}, "yuv420p");
  ASSERT_EQ(test::runCommand("ffmpeg -v error -y -i " + folder / "whole.mkv" +
                             " -c:v libx264 -movflags +faststart " + folder / "a.mp4")
                .exitCode,
            0);
  for (const char* const name : {"whole.mkv", "a.mp4"}) {
    const std::string bytes = bytesOf(folder / name);
    put(folder / name, bytes.substr(0, bytes.size() * 6 / 10));
    const auto found = findingsOf(folder / name);
    ASSERT_FALSE(found.empty()) << name;
    EXPECT_NE(found[0].find("cut short"), std::string::npos) << found[0];
  }
}

/// Random damage of all sorts, in all kinds of file: a result or a sentence, whatever it is.
TEST(Damage, OfAnySortEndsWell) {
  const TempFolder folder;
  test::makeNoiseClip(folder / "noise.mkv", 12, {96, 64}, "yuv420p");
  const Kind more[] = {{"v.webm", "-c:v libvpx-vp9"}, {"g.gif", ""}, {"s.png", "-frames:v 1"}, {"s.tif", "-frames:v 1"}};
  std::vector<Kind> all(std::begin(kinds), std::end(kinds));
  all.insert(all.end(), std::begin(more), std::end(more));
  std::mt19937 random(8);
  int opened = 0, clips = 0;
  for (const Kind& kind : all) {
    ASSERT_EQ(test::runCommand("ffmpeg -v error -y -i " + folder / "noise.mkv" + " " + kind.arguments + " " +
                               folder / kind.name)
                  .exitCode,
              0);
    const std::string whole = bytesOf(folder / kind.name);
    for (int round = 0; round < 20; ++round) {
      std::string bytes = whole;
      for (auto flips = random() % 60; flips > 0; --flips)
        bytes[random() % (round % 2 ? bytes.size() : std::min<std::size_t>(bytes.size(), 600))] =
            static_cast<char>(random());
      if (round % 3 == 0) bytes.resize(random() % bytes.size());
      if (round % 5 == 0) bytes.insert(random() % (bytes.size() + 1), std::string(random() % 5000, '\xff'));
      put(folder / kind.name, bytes);
      ++clips;
      const auto footage = Footage::open(folder / kind.name, {}, {}, {});
      if (!footage) {
        EXPECT_GT(footage.error().message.size(), 20u) << kind.name;
        continue;
      }
      ++opened;
      auto reader = (*footage)->newReader(1);
      ASSERT_TRUE(reader);
      const auto count = static_cast<std::int32_t>((*footage)->clock().frameCount());
      for (const std::int32_t n : {0, count - 1, count / 2}) {
        const auto picture = (*reader)->read(n, {}, {});
        if (!picture) continue;
        EXPECT_TRUE(picture->shape() == (*footage)->shape()) << kind.name;
      }
    }
  }
  EXPECT_GT(opened, clips / 4) << "hardly anything was damaged lightly";
  RecordProperty("clips", clips);
}

TEST(Damage, OfStillsIsSaid) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "s-%02d.png", 9, {128, 96}, "");
  const auto footage = test::openFootage(folder / "s-%02d.png");
  put(folder / "s-03.png", bytesOf(folder / "s-03.png").substr(0, 60));
  put(folder / "s-05.png", bytesOf(folder / "s-04.png"));
  std::filesystem::remove(folder / "s-08.png");
  test::readAll(*footage);
  EXPECT_EQ(footage->faults().frames(), (std::vector<std::int32_t>{2, 4, 7}));
  EXPECT_EQ(footage->faults().frames(FrameFault::Changed), (std::vector<std::int32_t>{2, 4, 7}))
      << "whatever else became of them";
  const auto again = test::openFootage(folder / "s-%02d.png");
  test::readAll(*again);
  EXPECT_EQ(again->faults().frames(FrameFault::Missing), std::vector<std::int32_t>{2}) << "and the gap was said before";
}

TEST(Damage, FootageWrittenAnewWhileItIsReadIsSaid) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 20, {128, 96}, "-c:v ffv1");
  test::makeNumberedClip(folder / "b.mkv", 30, {128, 96}, "-c:v ffv1");
  const auto footage = test::openFootage(folder / "a.mkv");
  auto opened = footage->newReader(1);
  ASSERT_TRUE(opened);
  auto& reader = *opened;
  ASSERT_TRUE(reader->read(3, {}, {}));
  EXPECT_TRUE(footage->faults().empty());
  std::filesystem::rename(folder / "b.mkv", folder / "a.mkv");
  ASSERT_TRUE(reader->read(12, {}, {}));
  EXPECT_EQ(footage->faults().frames(FrameFault::Changed), std::vector<std::int32_t>{12});
  EXPECT_EQ(footage->faults().sentences("a.mkv"),
            std::vector<std::string>{
                "Frame 12 of a.mkv was read after its file had changed: open the footage anew."});
}

TEST(Damage, FramesAreToldInRuns) {
  EXPECT_EQ(framesText({3}), "3");
  EXPECT_EQ(framesText({3, 4, 5, 9}), "3-5, 9");
  EXPECT_EQ(framesText({0, 2, 4, 6, 8, 9}), "0, 2, 4, 6 and 2 more");
}

/// A still that says of itself to be larger than any picture: the decoder's library refuses it, and the size is said.
TEST(Hostile, ASizeThatTheDecoderRefusesIsSaid) {
  const TempFolder folder;
  ASSERT_EQ(test::runCommand("ffmpeg -v error -f lavfi -i color=s=16x16 -frames:v 1 " + folder / "a.png").exitCode, 0);
  std::ifstream in(folder / "a.png", std::ios::binary);
  std::string bytes{std::istreambuf_iterator<char>(in), {}};
  // IHDR is the first chunk: its name at 12, width and height after it, all that checked by a CRC at 29.
  ASSERT_EQ(bytes.substr(12, 4), "IHDR");
  const auto put = [&](std::size_t at, std::uint32_t value) {
    for (std::size_t i = 0; i < 4; ++i) bytes[at + i] = static_cast<char>(value >> (24 - 8 * i));
  };
  put(16, 60000), put(20, 50000);
  std::uint32_t crc = ~0u;
  for (std::size_t i = 12; i < 29; ++i) {
    crc ^= static_cast<std::uint8_t>(bytes[i]);
    for (int bit = 0; bit < 8; ++bit) crc = crc >> 1 ^ (crc & 1 ? 0xedb88320u : 0);
  }
  put(29, ~crc);
  test::writeFile(folder / "a.png", bytes);
  const auto footage = Footage::open(folder / "a.png", {}, {}, {});
  ASSERT_FALSE(footage);
  EXPECT_NE(footage.error().message.find("60000 × 50000"), std::string::npos) << footage.error().message;
}

TEST(Hostile, ProjectsAreRefusedInASentence) {
  const TempFolder folder;
  const std::string stage = R"({"stage": "time-field", "back": 0.1})";
  std::string many;
  for (int i = 0; i < 1000; ++i) many += (i ? "," : "") + stage;
  const auto project = [](const std::string& chain) {
    return R"({"format": 2, "sources": [{"path": "a.mkv"}], "shots": [{"source": 0, "chain": [)" + chain + "]}]}";
  };
  EXPECT_TRUE(parseProject(project(stage), "/films"));
  for (const std::string& text :
       {R"({"format": 2, "deep": )" + std::string(100'000, '[') + std::string(100'000, ']') + "}",
        std::string(100'000, '['), R"({"format": 2, "deep": )" + std::string(100'000, '{'),
        std::string(R"({"format": 4294967297})"), std::string(R"({"format": 18446744073709551615})"),
        std::string(R"({"format": -1})"), std::string(R"({"format": 2.5})"),
        std::string(R"({"format": 2, "sources": [{"path": "a\u0000b"}]})"),
        project(R"({"stage": "time-field", "shape": "picture", "file": "a\u0000b"})"), project(many),
        std::string(R"({"format": 2, "in": 99999999999999999999})"),
        std::string(R"({"format": 2, "output": {"size": [18446744073709551615, 4]}})")}) {
    const auto result = parseProject(text, "/films");
    EXPECT_FALSE(result) << text.substr(0, 80);
    if (result) continue;
    EXPECT_GT(result.error().message.size(), 20u);
  }
  // Text in brackets is no nesting; what is not known is kept.
  const auto quoted = parseProject(R"({"format": 2, "words": ")" + std::string(1000, '[') + "\\\"" + R"("})", "/films");
  ASSERT_TRUE(quoted);
  EXPECT_NE(quoted->unknown.find("words"), std::string::npos);
  put(folder / "a.molten-starter", R"({"format": 4294967297, "starter": "x", "chain": []})");
  EXPECT_FALSE(loadStarter(folder / "a.molten-starter"));
}

}  // namespace
}  // namespace molten

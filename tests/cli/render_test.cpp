// molten-render as a user calls it: files in, files out, words and exit codes.
#include <fcntl.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <csignal>
#include <fstream>
#include <nlohmann/json.hpp>
#include <set>
#include <thread>

#include "support/clips.h"

namespace molten {
namespace {

using nlohmann::json;
using test::TempFolder;

test::CommandResult render(const std::string& arguments) {
  return test::runCommand(std::string(MOLTEN_RENDER) + " " + arguments);
}

std::string probe(const std::string& path, const std::string& entry) {
  auto found = test::runCommand("ffprobe -v error -select_streams v -show_entries stream=" + entry +
                                " -of default=nw=1:nk=1 '" + path + "'")
                   .out;
  while (!found.empty() && found.back() == '\n') found.pop_back();
  return found;
}

void expectSameFrames(const std::string& a, const std::string& b) {
  const auto first = test::readAll(*test::openFootage(a)), second = test::readAll(*test::openFootage(b));
  ASSERT_EQ(first.size(), second.size());
  for (std::size_t i = 0; i < first.size(); ++i) ASSERT_TRUE(test::samePicture(first[i], second[i])) << "frame " << i;
}

/// Every luma sample of a rendered vertical field against the definition, frame by frame.
void expectVerticalField(const std::string& clip, const std::string& result, double back, double ahead,
                         PastTheEnds past) {
  const auto footage = test::openFootage(clip);
  ASSERT_TRUE(footage);
  const auto source = test::readAll(*footage), got = test::readAll(*test::openFootage(result));
  const auto count = static_cast<std::int64_t>(source.size());
  ASSERT_EQ(got.size(), source.size());
  const double rate = footage->clock().rate().toDouble();
  const int height = footage->shape().size.height, width = footage->shape().size.width;
  for (std::int64_t n = 0; n < count; ++n)
    for (int y = 0; y < height; ++y) {
      const float f = static_cast<float>(std::min(1.0, std::max(0.0, (y + 0.5) * height / (double(height) * height))));
      const double d = (-back + double(f) * (back + ahead)) * rate;
      double position = static_cast<double>(n) + d;
      if (std::abs(position - std::round(position)) < 1e-6) position = std::round(position);
      const auto frame = foldFrame(static_cast<std::int64_t>(std::floor(position + 0.5)), count, past);
      for (int x = 0; x < width; ++x)
        ASSERT_EQ(test::sampleAt(got[static_cast<std::size_t>(n)], 0, x, y),
                  frame == noFrame ? 16u : test::sampleAt(source[static_cast<std::size_t>(frame)], 0, x, y))
            << "frame " << n << " at " << x << ", " << y;
    }
}

TEST(Render, LosslessFieldIsTheSourcesSamples) {
  const TempFolder folder;
  test::makeNoiseClip(folder / "a.mkv", 30, {66, 50}, "yuv420p");
  for (const auto& [name, past] : {std::pair{"stand-still", PastTheEnds::StandStill},
                                   {"turn-back", PastTheEnds::TurnBack},
                                   {"go-round", PastTheEnds::GoRound},
                                   {"transparent", PastTheEnds::Transparent}}) {
    ASSERT_EQ(render(folder / "a.mkv" + " --stage time-field:back=0.4s,ahead=0.2s,past-the-ends=" + name + " -o " +
                     folder / "out.mkv")
                  .exitCode,
              0);
    EXPECT_EQ(probe(folder / "out.mkv", "pix_fmt"), std::string(name) == "transparent" ? "yuva420p" : "yuv420p");
    expectVerticalField(folder / "a.mkv", folder / "out.mkv", 0.4, 0.2, past);
  }
}

/// Panoramas and columns: losslessly, and with Flow, whose search is made for usual shapes.
TEST(Render, FlatAndNarrowPicturesAreWrittenToo) {
  const TempFolder folder;
  for (const Size size : {Size{640, 16}, Size{20, 400}, Size{353, 100}}) {
    test::makeNoiseClip(folder / "a.mkv", 6, size, "yuv420p");
    ASSERT_EQ(render(folder / "a.mkv" + " --progress none -o " + folder / "out.mkv").exitCode, 0);
    expectSameFrames(folder / "a.mkv", folder / "out.mkv");
    EXPECT_EQ(render(folder / "a.mkv" + " --stage time-field:back=0.11s --between flow --progress none -o " +
                     folder / "flow.mkv")
                  .exitCode,
              0);
  }
}

/// A reach far beyond the budget: slower, but within it, and the same pictures.
TEST(Render, TenSecondsOfReachInHalfAGigabyte) {
#ifdef MOLTEN_SANITIZED
  GTEST_SKIP() << "sanitizers take memory of their own";
#endif
  const TempFolder folder;
  ASSERT_EQ(
      test::runCommand("ffmpeg -v error -f lavfi -i testsrc2=s=1920x1080:r=60:d=10.5 -c:v libx264 -preset ultrafast "
                       "-g 60 -pix_fmt yuv420p " +
                       (folder / "a.mp4"))
          .exitCode,
      0);
  std::string results[2];
  for (const int i : {0, 1}) {
    const std::string out = folder / (i == 0 ? "wide.mkv" : "narrow.mkv");
    const auto done =
        test::runMeasured({MOLTEN_RENDER, folder / "a.mp4", "--stage", "time-field:back=10s", "--size", "96x54",
                           "--memory", i == 0 ? "4G" : "512MB", "--progress", "none", "-o", out});
    ASSERT_EQ(done.exitCode, 0);
    // With the decoders and the encoder, and all else that the process needs.
    if (i == 1) {
      EXPECT_LT(done.mostBytes, std::size_t(512'000'000) * 11 / 10);
    }
    std::ifstream file(out, std::ios::binary);
    results[i].assign(std::istreambuf_iterator<char>(file), {});
  }
  EXPECT_GT(results[0].size(), 10000u);
  EXPECT_TRUE(results[0] == results[1]);
}

/// What the encoder takes besides is said where a budget was named, and only there.
TEST(Render, MoreMemoryThanWasNamedIsSaid) {
  const TempFolder folder;
  const auto said = [&](const std::string& more) {
    const auto done = test::runCommand(MOLTEN_RENDER " blank:1920x1080@25:0.2s --progress none -o " + (folder / "a.mkv") + more);
    EXPECT_EQ(done.exitCode, 0);
    return done.err.find("MB in all: 1 MB are for frames") != std::string::npos;
  };
  EXPECT_TRUE(said(" --memory 1MB"));
  EXPECT_FALSE(said(""));
  EXPECT_FALSE(said(" --memory 8GB"));
}

/// A camera clip from Debian's opencv-doc, where that is installed.
TEST(Render, CameraClipIsTheSourcesSamples) {
  const std::string packed = "/usr/share/doc/opencv-doc/opencv4/html/cup.mp4.gz";
  const char* named = std::getenv("MOLTEN_CAMERA_CLIP");
  if (!named && !std::filesystem::exists(packed))
    GTEST_SKIP() << "install opencv-doc, or name a clip in MOLTEN_CAMERA_CLIP";
  const TempFolder folder;
  const std::string clip = folder / "cup.mp4";
  ASSERT_EQ(test::runCommand(named ? "cp '" + std::string(named) + "' " + clip : "gzip -dc " + packed + " > " + clip)
                .exitCode,
            0);
  ASSERT_EQ(render(clip + " --stage time-field:back=0.5s -o " + folder / "out.mkv").exitCode, 0);
  EXPECT_EQ(probe(folder / "out.mkv", "pix_fmt"), probe(clip, "pix_fmt"));
  expectVerticalField(clip, folder / "out.mkv", 0.5, 0, PastTheEnds::StandStill);
}

TEST(Render, WholeOrInPiecesOnOneThreadOrTwo) {
  const TempFolder folder;
  test::makeNoiseClip(folder / "a.mkv", 25, {64, 48}, "yuv420p");
  const std::string call =
      folder / "a.mkv" + " --stage time-field:start=0.1x0.2,end=0.9x0.7,back=0.3s,ahead=0.1s --between mixed ";
  ASSERT_EQ(render(call + "--threads 1 -o " + folder / "one.mkv").exitCode, 0);
  ASSERT_EQ(render(call + "--threads 2 -o " + folder / "two.mkv").exitCode, 0);
  ASSERT_EQ(render(call + "--memory 1MB -o " + folder / "poor.mkv").exitCode, 0);
  expectSameFrames(folder / "one.mkv", folder / "two.mkv");
  expectSameFrames(folder / "one.mkv", folder / "poor.mkv");
  const auto whole = test::readAll(*test::openFootage(folder / "one.mkv"));
  for (const auto& [first, last] : {std::pair{0, 6}, {7, 7}, {8, 24}}) {
    ASSERT_EQ(
        render(call + "--frames " + std::to_string(first) + "-" + std::to_string(last) + " -o " + folder / "piece.mkv")
            .exitCode,
        0);
    const auto piece = test::readAll(*test::openFootage(folder / "piece.mkv"));
    ASSERT_EQ(piece.size(), static_cast<std::size_t>(last - first + 1));
    for (std::size_t i = 0; i < piece.size(); ++i)
      EXPECT_TRUE(test::samePicture(piece[i], whole[i + static_cast<std::size_t>(first)]));
  }
}

TEST(Render, OwnPixelFormatsComeBackExactly) {
  const TempFolder folder;
  for (const char* format :
       {"yuv420p", "yuv422p", "yuv444p", "yuv411p", "yuv420p10le", "yuv422p12le", "yuv444p16le", "yuva420p",
        "yuva444p10le", "gray", "gray10le", "gray16le", "gbrp10le", "gbrp16le", "gbrap12le"}) {
    test::makeNoiseClip(folder / "a.mkv", 3, {45, 31}, format);
    ASSERT_EQ(render(folder / "a.mkv" + " -o " + folder / "out.mkv").exitCode, 0) << format;
    EXPECT_EQ(probe(folder / "out.mkv", "pix_fmt"), format);
    expectSameFrames(folder / "a.mkv", folder / "out.mkv");
  }
  // Packed RGB is kept packed by the codec; the samples are the same.
  test::makeNumberedClip(folder / "rgb.mov", 3, {64, 48}, "-c:v png -pix_fmt rgb24");
  ASSERT_EQ(render(folder / "rgb.mov" + " -o " + folder / "out.mkv").exitCode, 0);
  expectSameFrames(folder / "rgb.mov", folder / "out.mkv");
}

TEST(Render, EveryKindOfFileIsWritten) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 10, {128, 96},
                         "-vf format=yuv420p,setparams=range=tv:colorspace=bt709:color_primaries=bt709:color_trc=bt709 -c:v ffv1");
  const struct {
    const char* file;
    const char* options;
    const char* codec;
    const char* format;
  } cases[] = {{"o.mp4", "", "h264", "yuv420p"},
               {"o.mov", "", "prores", "yuv422p10le"},
               {"o4.mov", "--quality 4", "prores", "yuv444p12le"},
               {"o.mkv", "", "ffv1", "yuv420p"},
               {"o.webm", "", "vp9", "yuv420p"},
               {"h.mkv", "--codec h264 --quality 10", "h264", "yuv420p"},
               {"p-%03d.png", "", "png", "rgb24"},
               {"d-%03d.png", "--codec png16", "png", "rgb48be"},
               {"t-%03d.tif", "", "tiff", "rgb24"},
               {"u-%03d.tif", "--codec tiff16", "tiff", "rgb48le"}};
  for (const auto& c : cases) {
    const auto result = render(folder / "a.mkv" + " -o '" + folder / c.file + "' " + c.options);
    ASSERT_EQ(result.exitCode, 0) << c.file << result.err;
    const std::string path = folder / c.file;
    EXPECT_EQ(probe(path, "codec_name"), c.codec) << c.file;
    EXPECT_EQ(probe(path, "pix_fmt"), c.format) << c.file;
    const auto footage = test::openFootage(path);
    ASSERT_TRUE(footage);
    const auto frames = test::readAll(*footage);
    ASSERT_EQ(frames.size(), 10u) << c.file;
    for (std::size_t i = 0; i < 10; ++i) EXPECT_EQ(test::numberShown(frames[i]), static_cast<int>(i)) << c.file;
    if (path.find('%') == std::string::npos) {
      EXPECT_EQ(probe(path, "r_frame_rate"), "30/1") << c.file;
      EXPECT_EQ(probe(path, "color_space,color_transfer,color_primaries"), "bt709\nbt709\nbt709") << c.file;
      EXPECT_FALSE(footage->shape().fullRange()) << c.file;
      // ProRes knows one range alone, and QuickTime has no field for it.
      if (std::string_view(c.codec) != "prores") {
        EXPECT_EQ(probe(path, "color_range"), "tv") << c.file;
      }
    }
  }
}

TEST(Render, TransparencyIsKeptWhereTheFileCan) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 8, {64, 48}, "-c:v ffv1");
  for (const char* file : {"o.mov", "o.webm", "p-%02d.png"}) {
    ASSERT_EQ(
        render(folder / "a.mkv" + " --stage time-field:back=0.2s,past-the-ends=transparent -o '" + folder / file + "'")
            .exitCode,
        0)
        << file;
    const auto footage = test::openFootage(folder / file);
    ASSERT_TRUE(footage && footage->shape().format.alpha) << file;
    const auto frames = test::readAll(*footage);
    const int alpha = frames[0].format().colourPlanes();
    const unsigned opaque = opaqueSample(frames[0].format());
    EXPECT_LT(test::sampleAt(frames[0], alpha, 30, 1), opaque / 20) << file;
    EXPECT_GT(test::sampleAt(frames[0], alpha, 30, 46), opaque - opaque / 20) << file;
  }
  const auto flat =
      render(folder / "a.mkv" + " --stage time-field:back=0.2s,past-the-ends=transparent -o " + folder / "o.mp4");
  EXPECT_EQ(flat.exitCode, 0);
  EXPECT_NE(flat.err.find("no transparency"), std::string::npos);
}

TEST(Render, OddSizesAreCutToEvenOnesAndSaidSo) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 4, {97, 71}, "-c:v ffv1");
  const auto result = render(folder / "a.mkv" + " -o " + folder / "o.mp4");
  EXPECT_EQ(result.exitCode, 0) << result.err;
  EXPECT_NE(result.err.find("even size"), std::string::npos);
  EXPECT_EQ(probe(folder / "o.mp4", "width,height"), "96\n70");
}

TEST(Render, SizeAndRateAreAsAsked) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 30, {128, 96}, "-c:v ffv1");
  ASSERT_EQ(render(folder / "a.mkv" + " --size 64x48 --rate 20 -o " + folder / "o.mkv").exitCode, 0);
  const auto footage = test::openFootage(folder / "o.mkv");
  EXPECT_EQ(footage->shape().size, (Size{64, 48}));
  EXPECT_EQ(footage->clock().rate(), Rational(20));
  const auto frames = test::readAll(*footage);
  ASSERT_EQ(frames.size(), 20u);
  for (std::size_t k = 0; k < frames.size(); ++k)
    EXPECT_EQ(test::numberShown(frames[k]), static_cast<int>(std::floor(static_cast<double>(k) * 1.5 + 0.5)));
}

TEST(Render, ProjectsAreRenderedFromInToOut) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 30, {128, 96}, "-c:v ffv1");
  std::ofstream(folder / "p.molten") << R"({"format": 1, "footage": {"path": "a.mkv"}, "in": 5, "out": 9,
    "chain": [{"stage": "time-field", "on": true, "back": 0.1, "start": [0, 0], "end": [0, 0]}]})";
  ASSERT_EQ(render(folder / "p.molten" + " --set time-field.back=2f -o " + folder / "o.mkv").exitCode, 0);
  const auto frames = test::readAll(*test::openFootage(folder / "o.mkv"));
  ASSERT_EQ(frames.size(), 5u);
  // Start and end on one spot: everything reads the start's moment, two frames back.
  for (std::size_t i = 0; i < 5; ++i) EXPECT_EQ(test::numberShown(frames[i]), static_cast<int>(i) + 3);
  EXPECT_EQ(render(folder / "p.molten" + " --set time-field.back=soon -o " + folder / "o.mkv").exitCode, 2);
  EXPECT_EQ(render(folder / "p.molten" + " --set ripples.back=1s -o " + folder / "o.mkv").exitCode, 2);
}

TEST(Words, DescribeSaysWhatIsRead) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 60, {128, 96}, "-c:v ffv1");
  const auto result = render(folder / "a.mkv" + " --stage time-field:back=0.5s --describe");
  ASSERT_EQ(result.exitCode, 0);
  const json said = json::parse(result.out);
  EXPECT_EQ(said["footage"]["frames"], 60);
  EXPECT_EQ(said["footage"]["rate"], "30/1");
  EXPECT_EQ(said["reads"]["frames-that-read-before-the-clip"], 15);
  EXPECT_EQ(said["chain"][0]["stage"], "time-field:back=0.5s");
}

TEST(Words, StagesAreListed) {
  const auto words = render("--stages");
  EXPECT_EQ(words.exitCode, 0);
  for (const char* word : {"time-field", "back", "past-the-ends", "turn-back", "default 1s"})
    EXPECT_NE(words.out.find(word), std::string::npos) << word;
  const json all = json::parse(render("--stages --json").out);
  std::vector<std::string> ids;
  for (const auto& stage : all) ids.push_back(stage["id"]);
  EXPECT_EQ(ids, (std::vector<std::string>{"pace", "step-rate", "frame-order", "loop", "time-field", "strips",
                                           "slit-scan", "echoes", "shutter", "framing", "finish", "insert"}));
  EXPECT_EQ(render("--stages ripples").exitCode, 2);
}

TEST(Words, TheStagesPageSaysTheSame) {
  std::ifstream in(std::string(MOLTEN_SOURCE) + "/docs/stages.md");
  const std::string page{std::istreambuf_iterator<char>(in), {}};
  EXPECT_NE(page.find("```\n" + render("--stages").out + "```"), std::string::npos)
      << "write it anew with: molten-render --stages";
}

TEST(Words, ProgressComesAsJsonLines) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 12, {128, 96}, "-c:v ffv1");
  const auto result = render(folder / "a.mkv" + " --progress json -o " + folder / "o.mkv");
  ASSERT_EQ(result.exitCode, 0);
  json last;
  std::istringstream lines(result.out);
  for (std::string line; std::getline(lines, line);) last = json::parse(line);
  EXPECT_EQ(last["done"], 12);
  EXPECT_EQ(last["total"], 12);
}

TEST(Words, CallsThatAreOffExitWithTwo) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 3, {64, 48}, "-c:v ffv1");
  const std::string a = folder / "a.mkv", out = " -o " + folder / "o.mkv";
  for (const std::string& call :
       {std::string(), a, a + " --stage ripples" + out, a + " --stage time-field:bakc=1s" + out,
        a + " --stage time-field:back=-1s" + out, a + " --frames x" + out, a + " --size 0x5" + out,
        a + " --rate fast" + out, a + " --memory lots" + out, a + " --nonsense" + out}) {
    const auto result = render(call);
    EXPECT_EQ(result.exitCode, 2) << call;
    EXPECT_FALSE(result.err.empty()) << call;
  }
  EXPECT_EQ(folder.names(), std::vector<std::string>{"a.mkv"});
}

TEST(Trouble, IsOneSentenceAndLeavesNothingBehind) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 40, {128, 96}, "-c:v ffv1");
  std::filesystem::create_directory(folder / "sub");
  std::ofstream(folder / "empty.mp4");
  std::ofstream(folder / "words.molten") << "{}";
  std::ofstream(folder / "later.molten") << R"({"format": 99})";
  std::ofstream(folder / "astray.molten") << R"({"format": 1, "footage": {"path": "gone.mp4"}})";
  const auto before = folder.names();
  const std::string a = folder / "a.mkv";
  for (const std::string& call :
       {folder / "gone.mp4" + " -o " + folder / "o.mkv", folder / "empty.mp4" + " -o " + folder / "o.mkv",
        folder / "sub" + " -o " + folder / "o.mkv", folder / "words.molten" + " -o " + folder / "o.mkv",
        folder / "later.molten" + " -o " + folder / "o.mkv", folder / "astray.molten" + " -o " + folder / "o.mkv",
        a + " -o " + folder / "missing/o.mkv", a + " -o " + folder / "sub", a + " -o " + folder / "o.xyz",
        a + " -o " + folder / "o.png", a + " -o " + folder / "a.mkv", a + " --codec vp9 -o " + folder / "o.mp4",
        a + " --frames 90-99 -o " + folder / "o.mkv", a + " -o /dev/full/o.mkv", a + " -o /proc/o.mkv"}) {
    const auto result = render(call);
    // No ending, codec and name that go together: the words are off.
    const bool words = call.ends_with("sub") || call.ends_with("o.xyz") || call.find("vp9") != std::string::npos;
    EXPECT_EQ(result.exitCode, words ? 2 : 1) << call << "\n" << result.err;
    // The call's name, one sentence (two at most), no number of an error.
    EXPECT_TRUE(result.err.starts_with("molten-render: ") && result.err.size() > 30 && result.err.ends_with(".\n"))
        << result.err;
    EXPECT_EQ(std::count(result.err.begin(), result.err.end(), '\n'), 1) << result.err;
  }
  EXPECT_EQ(folder.names(), before);
}

TEST(Trouble, FullDiskIsSaidAndLeavesNothingBehind) {
  const TempFolder folder;
  test::makeNoiseClip(folder / "a.mkv", 60, {320, 240}, "yuv420p");
  std::filesystem::create_directory(folder / "small");
  // A limit on file size fails a write as a full disk does.
  for (const char* out : {"small/o.mkv", "small/o.mp4", "small/o-%03d.png"}) {
    const auto result = test::runCommand("ulimit -f 64; trap '' XFSZ; " + std::string(MOLTEN_RENDER) + " " +
                                         folder / "a.mkv" + " -o '" + folder / out + "'");
    EXPECT_EQ(result.exitCode, 1) << out << result.err;
    EXPECT_NE(result.err.find("no room left"), std::string::npos) << result.err;
    EXPECT_TRUE(std::filesystem::is_empty(folder / "small")) << out;
  }
}

/// A render that says by its first line of progress that it is under way, and is then sent a signal.
struct Interrupted {
  int exitCode = -1;  ///< −1: it was ended by the signal itself
  std::string err;
};
Interrupted interrupted(const std::vector<std::string>& words, int signal, const std::string& errors,
                        std::chrono::microseconds later = {}) {
  std::vector<std::string> all{MOLTEN_RENDER};
  all.insert(all.end(), words.begin(), words.end());
  all.insert(all.end(), {"--progress", "json"});
  int lines[2];
  EXPECT_EQ(pipe(lines), 0);
  const pid_t child = fork();
  if (child == 0) {
    dup2(lines[1], 1);
    const int err = open(errors.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0600);
    dup2(err, 2);
    std::vector<char*> arguments;
    for (std::string& word : all) arguments.push_back(word.data());
    arguments.push_back(nullptr);
    execv(MOLTEN_RENDER, arguments.data());
    _exit(127);
  }
  close(lines[1]);
  char first;
  EXPECT_EQ(::read(lines[0], &first, 1), 1) << "it never began";
  for (const auto begun = std::chrono::steady_clock::now(); std::chrono::steady_clock::now() - begun < later;)
    std::this_thread::yield();
  kill(child, signal);
  int ended = 0;
  waitpid(child, &ended, 0);
  Interrupted result;
  close(lines[0]);
  if (WIFEXITED(ended)) result.exitCode = WEXITSTATUS(ended);
  std::ifstream in(errors);
  result.err = {std::istreambuf_iterator<char>(in), {}};
  return result;
}

TEST(Trouble, InterruptedRendersLeaveNothingBehind) {
  const TempFolder folder, words;
  test::makeNoiseClip(folder / "a.mkv", 400, {320, 240}, "yuv420p");
  const auto before = folder.names();
  for (const int signal : {SIGINT, SIGTERM, SIGHUP, SIGQUIT})
    for (const char* const out : {"o.mkv", "o-%04d.png"}) {
      const auto result = interrupted({folder / "a.mkv", "--stage", "echoes:repeats=40,spacing=1f", "--memory", "16MB",
                                       "-o", folder / out},
                                      signal, words / "err");
      EXPECT_EQ(result.exitCode, 1) << signal << out;
      EXPECT_EQ(result.err, "molten-render: Stopped; nothing was written.\n");
      EXPECT_EQ(folder.names(), before);
    }
}

/// Killed anywhere from their first picture to the moment when the result has got its name: what bore the name stays, or
/// the new one is there whole. What a kill leaves behind goes at the next render there.
TEST(Trouble, KilledRendersLoseNothing) {
  const TempFolder folder, words;
  test::makeNoiseClip(folder / "a.mkv", 120, {320, 240}, "yuv420p");
  const auto begun = std::chrono::steady_clock::now();
  ASSERT_EQ(render(folder / "a.mkv" + " -o " + folder / "o.mkv").exitCode, 0);
  const std::chrono::duration<double, std::micro> whole = std::chrono::steady_clock::now() - begun;
  const auto renderShort = [&] {
    ASSERT_EQ(render(folder / "a.mkv" + " --frames 0-1 -o " + folder / "o.mkv").exitCode, 0);
  };
  renderShort();
  const auto before = folder.names();
  std::mt19937 random(5);
  std::uniform_real_distribution<> anywhere(0, whole.count());
  std::size_t left = 0;
  for (int round = 0; round < 20; ++round) {
    interrupted({folder / "a.mkv", "-o", folder / (round % 2 ? "o.mkv" : "s-%04d.png")}, SIGKILL, words / "err",
                std::chrono::microseconds(static_cast<std::int64_t>(anywhere(random))));
    left = std::max(left, folder.names().size());
    const std::size_t now = test::readAll(*test::openFootage(folder / "o.mkv")).size();
    EXPECT_TRUE(now == 2 || now == 120) << now;
    if (now == 120) renderShort();
    for (const auto& name : folder.names()) {
      if (!name.starts_with("s-")) continue;
      EXPECT_TRUE(Footage::open(folder / name, {}, {}, {})) << name;
      std::filesystem::remove(folder / name);
    }
  }
  EXPECT_GT(left, before.size()) << "kills left nothing: they came too early or too late";
  renderShort();
  EXPECT_EQ(folder.names(), before);
}

TEST(Trouble, StrictFailsWhereFootageWasNotWhole) {
  const TempFolder folder;
  test::makeNoiseClip(folder / "a.mkv", 30, {160, 120}, "yuv420p", "-c:v ffv1 -level 3 -slicecrc 1");
  ASSERT_EQ(render(folder / "a.mkv" + " --strict -o " + folder / "o.mkv").exitCode, 0);
  std::fstream file(folder / "a.mkv", std::ios::in | std::ios::out | std::ios::binary);
  file.seekp(200'000);
  file << "damage";
  file.close();
  const auto loose = render(folder / "a.mkv" + " -o " + folder / "l.mkv"),
             strict = render(folder / "a.mkv" + " --strict -o " + folder / "s.mkv");
  EXPECT_EQ(loose.exitCode, 0);
  EXPECT_EQ(strict.exitCode, 1);
  EXPECT_NE(loose.err.find("damaged: what could be saved is shown."), std::string::npos) << loose.err;
  EXPECT_EQ(loose.err, strict.err);
  EXPECT_TRUE(std::filesystem::exists(folder / "s.mkv"));
}

#ifndef MOLTEN_SANITIZED
TEST(Trouble, APictureTooLargeForTheMachineIsSaid) {
  const TempFolder folder;
  ASSERT_EQ(test::runCommand("ffmpeg -v error -f lavfi -i color=s=8000x8000 -frames:v 1 " + folder / "a.png").exitCode,
            0);
  const auto result = test::runCommand("ulimit -v 1200000; " + std::string(MOLTEN_RENDER) + " " + folder / "a.png" +
                                       " -o " + folder / "o.png");
  EXPECT_EQ(result.exitCode, 1);
  EXPECT_EQ(result.err,
            "molten-render: a.png has pictures of 8000 × 8000 pixels: more than can be decoded and held on this "
            "machine.\n");
}
#endif

}  // namespace
}  // namespace molten

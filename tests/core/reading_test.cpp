// Any frame by its number, exact, in any order, from every kind of file that stores frames differently.
#include <algorithm>
#include <fstream>
#include <random>

#include "support/clips.h"

namespace molten {
namespace {

using test::TempFolder;

struct Kind {
  const char* name;
  const char* file;
  const char* arguments;
  int frames = 90;
  Size size = {128, 96};
};

class FrameExactReading : public ::testing::TestWithParam<Kind> {};

TEST_P(FrameExactReading, ForwardsBackwardsAndAtRandom) {
  const Kind& kind = GetParam();
  const TempFolder folder;
  test::makeNumberedClip(folder / kind.file, kind.frames, kind.size, kind.arguments);
  const auto footage = test::openFootage(folder / kind.file);
  ASSERT_TRUE(footage);
  ASSERT_EQ(footage->clock().frameCount(), kind.frames);
  std::vector<int> order;
  for (int n = 0; n < kind.frames; ++n) order.push_back(n);
  for (int n = kind.frames; n-- > 0;) order.push_back(n);
  std::vector<int> shuffled(order.begin(), order.begin() + kind.frames);
  std::shuffle(shuffled.begin(), shuffled.end(), std::mt19937(3));
  order.insert(order.end(), shuffled.begin(), shuffled.end());
  auto reader = footage->newReader(2);
  ASSERT_TRUE(reader);
  for (const int n : order) {
    auto picture =
        (*reader)->read(n, [](std::int32_t on, const Picture& p) { ASSERT_EQ(test::numberShown(p), on); }, {});
    ASSERT_TRUE(picture) << picture.error().message;
    ASSERT_EQ(test::numberShown(*picture), n);
    ASSERT_EQ(picture->shape(), footage->shape());
  }
  // In haste, what no other frame refers to is left out on the way: what is given is as exact.
  std::shuffle(shuffled.begin(), shuffled.end(), std::mt19937(4));
  (*reader)->passOver(5);
  auto starts = footage->newReader(1);
  ASSERT_TRUE(starts);
  for (const int n : shuffled) {
    auto picture =
        (*reader)->read(n, [](std::int32_t on, const Picture& p) { ASSERT_EQ(test::numberShown(p), on); }, {});
    ASSERT_TRUE(picture) << picture.error().message;
    ASSERT_EQ(test::numberShown(*picture), n);
    const std::int32_t start = footage->startOf(n);
    ASSERT_LE(start, n);
    const auto first = (*starts)->readStart(n);
    ASSERT_TRUE(first) << first.error().message;
    // A picture that comes in parts over several frames is not all there at the first of them.
    if (std::string_view(kind.name) != "IntraRefresh") {
      ASSERT_EQ(test::numberShown(*first), start) << "for " << n;
    }
  }
}

INSTANTIATE_TEST_SUITE_P(
    Files, FrameExactReading,
    ::testing::Values(
        Kind{"LongGroups", "a.mp4", "-c:v libx264 -g 250 -bf 3 -pix_fmt yuv420p"},
        Kind{"ShortGroups", "a.mp4", "-c:v libx264 -g 8 -bf 2"},
        Kind{"OpenGroups", "a.mkv", "-c:v libx264 -bf 3 -x264-params open-gop=1:keyint=12:scenecut=0"},
        Kind{"OpenGroupsTransport", "a.ts", "-c:v libx264 -bf 3 -x264-params open-gop=1:keyint=12:scenecut=0"},
        Kind{"Transport", "a.ts", "-c:v libx264 -g 15 -bf 2"},
        Kind{"Mpeg2Transport", "a.ts", "-c:v mpeg2video -q:v 2 -bf 2 -g 12"},
        Kind{"HevcOpenGroups", "a.mp4", "-c:v libx265 -x265-params open-gop=1:keyint=20:log-level=error"},
        Kind{"IntraRefresh", "a.mp4", "-c:v libx264 -x264-params intra-refresh=1:keyint=15"},
        Kind{"NoStampsAvi", "a.avi", "-c:v mpeg4 -q:v 2 -bf 2 -g 15"},
        Kind{"NoStampsStream", "a.h264", "-c:v libx264 -g 20 -bf 3"},
        Kind{"HiddenFrames", "a.webm",
             "-c:v libvpx-vp9 -g 30 -auto-alt-ref 1 -lag-in-frames 16 -deadline realtime -cpu-used 8 -b:v 1M"},
        Kind{"OneFrame", "a.mp4", "-c:v libx264", 1}, Kind{"TwoFrames", "a.mp4", "-c:v libx264 -bf 2", 2},
        Kind{"OddSize", "a.mkv", "-c:v ffv1", 40, {97, 71}},
        Kind{"TenBit", "a.mp4", "-c:v libx264 -pix_fmt yuv420p10le -g 30"},
        Kind{"FourTwoTwo", "a.mov", "-c:v prores_ks -profile:v 3"},
        Kind{"Alpha", "a.mov", "-c:v prores_ks -profile:v 4444 -pix_fmt yuva444p10le"},
        Kind{"FourFourFour", "a.mkv", "-c:v libx264 -pix_fmt yuv444p -bf 2"},
        Kind{"Gray", "a.mkv", "-c:v ffv1 -pix_fmt gray"}, Kind{"Packed", "a.avi", "-c:v rawvideo -pix_fmt yuyv422", 20},
        Kind{"PackedRgb", "a.mov", "-c:v qtrle -pix_fmt rgb24", 20}, Kind{"Stills", "still-%05d.png", "-c:v png", 20},
        Kind{"DeepStills", "still-%04d.tif", "-c:v tiff -pix_fmt rgb48le", 10}),
    [](const auto& kind) { return std::string(kind.param.name); });

TEST(Reading, EditListStartsWhereItSays) {
  // The first half second was cut off by the encoder's call: numbers begin at 15 whatever the container keeps.
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mov", 60, {128, 96}, "-c:v libx264 -g 60 -bf 2");
  ASSERT_EQ(
      test::runCommand("ffmpeg -v error -ss 0.5 -i " + folder / "a.mov" + " -c copy " + folder / "b.mov").exitCode, 0);
  const auto footage = test::openFootage(folder / "b.mov");
  ASSERT_TRUE(footage);
  const auto frames = test::readAll(*footage);
  ASSERT_EQ(frames.size(), 45u);
  for (std::size_t i = 0; i < frames.size(); ++i) EXPECT_EQ(test::numberShown(frames[i]), static_cast<int>(i) + 15);
}

/// Writes the matrix of the first track of an MP4 file, which says how its frames are to be turned (ISO 14496-12, `tkhd`).
void setTrackMatrix(const std::string& path, const std::array<std::int32_t, 9>& matrix) {
  std::ifstream in(path, std::ios::binary);
  std::string bytes{std::istreambuf_iterator<char>(in), {}};
  // After the box's name stand its version, times, number, duration, layer and volume.
  constexpr std::size_t before = 4 + 40;
  const auto box = bytes.find("tkhd");
  ASSERT_NE(box, std::string::npos);
  for (std::size_t i = 0; i < 36; ++i)
    bytes[box + before + i] = static_cast<char>(static_cast<std::uint32_t>(matrix[i / 4]) >> (24 - 8 * (i % 4)));
  test::writeFile(path, bytes);
}

TEST(Reading, RotatedFootageStandsUpright) {
  const TempFolder folder;
  test::makeNoiseClip(folder / "flat.mp4", 4, {64, 48}, "yuv420p", "-c:v libx264 -qp 0");
  std::filesystem::copy_file(folder / "flat.mp4", folder / "turned.mp4");
  // A quarter of a turn against the clock: (x, y) is shown at (y, 64 − x). Sixteen bits are the fraction.
  setTrackMatrix(folder / "turned.mp4", {0, -(1 << 16), 0, 1 << 16, 0, 0, 0, 64 << 16, 1 << 30});
  const auto flat = test::readAll(*test::openFootage(folder / "flat.mp4"));
  const auto footage = test::openFootage(folder / "turned.mp4");
  ASSERT_EQ(footage->shape().size, (Size{48, 64}));
  const auto turned = test::readAll(*footage);
  for (int y = 0; y < 64; ++y)
    for (int x = 0; x < 48; ++x) ASSERT_EQ(test::sampleAt(turned[1], 0, x, y), test::sampleAt(flat[1], 0, 63 - y, x));
}

TEST(Reading, ShapesAreTheFilesOwn) {
  const TempFolder folder;
  const struct {
    const char* file;
    const char* arguments;
    const char* text;
    bool full;
  } cases[] = {{"a.mkv", "-c:v ffv1 -pix_fmt yuv422p10le", "4:2:2 10-bit", false},
               {"b.mkv", "-c:v ffv1 -pix_fmt yuv444p16le", "4:4:4 16-bit", false},
               {"c.mkv", "-c:v ffv1 -pix_fmt bgr0", "RGB 8-bit", true},
               {"d.mkv", "-c:v ffv1 -pix_fmt gbrp12le", "RGB 12-bit", true},
               {"e.mkv", "-c:v ffv1 -pix_fmt yuva420p", "4:2:0 8-bit with alpha", false},
               {"f.avi", "-c:v mjpeg -q:v 2", "4:2:0 8-bit", true},
               {"g.mkv", "-c:v ffv1 -pix_fmt yuv411p", "4:1:1 8-bit", false},
               {"h.mov", "-c:v png -pix_fmt rgba64be", "RGB 16-bit with alpha", true},
               {"i.mkv", "-c:v ffv1 -pix_fmt gray16le", "gray 16-bit", true},
               {"j.mov", "-c:v png -pix_fmt pal8", "RGB 8-bit with alpha", true}};
  for (const auto& c : cases) {
    test::makeNumberedClip(folder / c.file, 3, {64, 48}, c.arguments);
    const auto footage = test::openFootage(folder / c.file);
    ASSERT_TRUE(footage) << c.file;
    EXPECT_EQ(formatText(footage->shape().format), c.text) << c.file;
    EXPECT_EQ(footage->shape().fullRange(), c.full) << c.file;
    EXPECT_EQ(test::numberShown(test::readAll(*footage)[2]), 2) << c.file;
  }
}

TEST(Reading, VaryingRateKeepsItsStamps) {
  const TempFolder folder;
  // 30 frames of which each third is dropped: the rest keep their times.
  test::makeNumberedClip(folder / "a.mkv", 30, {64, 48}, "-vf \"select='mod(n,3)'\" -vsync vfr -c:v ffv1");
  const auto footage = test::openFootage(folder / "a.mkv");
  ASSERT_TRUE(footage->clock().varying());
  const auto frames = test::readAll(*footage);
  ASSERT_EQ(frames.size(), 20u);
  const auto& stamps = footage->clock().stamps();
  for (std::size_t i = 0; i < frames.size(); ++i) {
    const double seconds = stamps[i] / footage->clock().rate().toDouble();
    EXPECT_NEAR(seconds, (test::numberShown(frames[i]) - 1) / 30.0, 0.0011);
  }
}

/// What time stamps that vary mean is a rate of the trade; it can be set to another, and no frame moves.
TEST(Reading, AVaryingRateMeansAStandardOne) {
  const TempFolder folder;
  struct Case {
    const char* file;
    const char* filter;
    Rational rate;
  };
  // Shaken a little, the ends at their places.
  const Case cases[] = {
      {"a.mkv", "setpts='1000*(N/29.87+0.006*(random(0)-0.5))'", 30},
      {"b.mkv", "setpts='1000*(N/59.9+0.012*(random(0)-0.5))'", 60},
      {"c.mkv", "setpts='1000*(N*1001/60000+0.012*(random(0)-0.5)*between(N,3,290))'", Rational(60000, 1001)},
      {"d.mkv", "setpts='1000*(N*1001/30000+0.012*(random(0)-0.5)*between(N,3,290))'", Rational(30000, 1001)},
      {"e.mkv", "setpts='1000*N/15',select='lt(random(0),0.15)+eq(n,0)+eq(n,1)'", 15},
      {"f.mkv", "setpts='1000*N/25',select='lt(random(0),0.3)+eq(n,0)+eq(n,1)'", 25},
  };
  for (const Case& c : cases) {
    test::makeNumberedClip(
        folder / c.file, 300, {64, 48},
        std::string("-vf \"settb=1/1000,") + c.filter + "\" -enc_time_base 1:1000 -vsync passthrough -c:v ffv1");
    const auto footage = test::openFootage(folder / c.file);
    ASSERT_TRUE(footage && footage->clock().varying()) << c.file;
    EXPECT_EQ(footage->clock().rate(), c.rate) << c.file << ": " << rateText(footage->clock().rate());
    FootageOptions options;
    options.rate = Rational(24);
    const auto other = Footage::open(folder / c.file, options, {}, {});
    ASSERT_TRUE(other) << other.error().message;
    EXPECT_EQ((*other)->clock().rate(), Rational(24));
    ASSERT_EQ((*other)->clock().stamps().size(), footage->clock().stamps().size());
    for (std::size_t i = 0; i < footage->clock().stamps().size(); ++i)
      ASSERT_NEAR((*other)->clock().stamps()[i] / 24, footage->clock().stamps()[i] / c.rate.toDouble(), 1e-9);
    EXPECT_NEAR((*other)->video().seconds().toDouble(), footage->video().seconds().toDouble(), 1.0 / 15);
  }
}

TEST(Reading, PixelAspectIsKept) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mp4", 2, {128, 96}, "-c:v libx264 -vf setsar=16/15");
  EXPECT_EQ(test::openFootage(folder / "a.mp4")->shape().pixelAspect, Rational(16, 15));
}

// What cannot be read is said in a sentence; what can be read is used.

std::string failureOf(const std::string& path) {
  auto footage = Footage::open(path, {}, {}, {});
  return footage ? "" : footage.error().message;
}

TEST(BadFootage, IsSaidInASentence) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "good.mp4", 60, {128, 96}, "-c:v libx264 -g 10");
  std::ofstream(folder / "empty.mp4");
  std::ofstream(folder / "text.mp4") << "no footage at all\n";
  std::ofstream(folder / "list.m3u8") << "#EXTM3U\n#EXT-X-TARGETDURATION:5\n#EXTINF:5,\n/etc/passwd\n";
  std::ofstream(folder / "list.txt") << "ffconcat version 1.0\nfile good.mp4\n";
  std::filesystem::create_directory(folder / "folder");
  ASSERT_EQ(test::runCommand("head -c 3000 " + folder / "good.mp4" + " > " + folder / "cut.mp4").exitCode, 0);
  EXPECT_NE(failureOf(folder / "gone.mp4").find("There is no file gone.mp4"), std::string::npos);
  EXPECT_NE(failureOf(folder / "empty.mp4").find("empty"), std::string::npos);
  for (const char* name : {"text.mp4", "list.m3u8", "list.txt", "folder", "cut.mp4"}) {
    const std::string message = failureOf(folder / name);
    EXPECT_FALSE(message.empty()) << name;
    EXPECT_EQ(message.back(), '.') << message;
  }
  EXPECT_FALSE(failureOf("/dev/zero").empty());
}

TEST(BadFootage, CutShortGivesWhatItHolds) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "good.ts", 60, {128, 96}, "-c:v libx264 -g 10 -bf 0");
  const auto size = std::filesystem::file_size(folder / "good.ts");
  std::filesystem::resize_file(folder / "good.ts", size / 2);
  const auto footage = test::openFootage(folder / "good.ts");
  ASSERT_TRUE(footage);
  const auto frames = test::readAll(*footage);
  ASSERT_GT(frames.size(), 15u);
  for (std::size_t i = 0; i + 1 < frames.size(); ++i) EXPECT_EQ(test::numberShown(frames[i]), static_cast<int>(i));
}

TEST(BadFootage, CorruptInTheMiddleKeepsItsFrameNumbers) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 60, {128, 96}, "-c:v mjpeg -q:v 2 -f avi");
  std::fstream file(folder / "a.mkv", std::ios::in | std::ios::out | std::ios::binary);
  const auto size = std::filesystem::file_size(folder / "a.mkv");
  file.seekp(static_cast<std::streamoff>(size / 2));
  for (int i = 0; i < 60; ++i) file.put(char(i * 37));
  file.close();
  const auto footage = test::openFootage(folder / "a.mkv");
  ASSERT_TRUE(footage);
  const auto frames = test::readAll(*footage);
  ASSERT_EQ(frames.size(), 60u);
  EXPECT_EQ(test::numberShown(frames.front()), 0);
  EXPECT_EQ(test::numberShown(frames.back()), 59);
}

TEST(BadFootage, RandomDamageNeverCrashes) {
  const TempFolder folder;
  const char* files[] = {"a.mp4", "a.mkv", "a.ts", "a.avi"};
  std::mt19937 random(11);
  for (const char* name : files) {
    test::makeNumberedClip(folder / name, 30, {64, 48},
                           std::string(name) == "a.avi" ? "-c:v mpeg4 -bf 1" : "-c:v libx264 -g 10 -bf 1");
    std::ifstream in(folder / name, std::ios::binary);
    const std::string good{std::istreambuf_iterator<char>(in), {}};
    for (int round = 0; round < 12; ++round) {
      std::string bad = good;
      for (int i = 0; i < 1 + round * 4; ++i) bad[random() % bad.size()] = static_cast<char>(random());
      if (round % 4 == 3) bad.resize(random() % bad.size());
      std::ofstream(folder / "bad", std::ios::binary) << bad;
      auto footage = Footage::open(folder / "bad", {}, {}, {});
      if (!footage) continue;
      auto reader = (*footage)->newReader(1);
      if (!reader) continue;
      for (std::int32_t n = 0; n < (*footage)->clock().frameCount(); n += 7) {
        auto picture = (*reader)->read(n, {}, {});
        if (picture) {
          EXPECT_EQ(picture->shape(), (*footage)->shape());
        }
      }
    }
  }
}

TEST(Stills, AClipMayBeNamedLikeAPattern) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 5, {64, 48}, "-c:v ffv1");
  std::filesystem::rename(folder / "a.mkv", folder / "50%done.mkv");
  const auto footage = test::openFootage(folder / "50%done.mkv");
  ASSERT_TRUE(footage);
  EXPECT_EQ(footage->clock().frameCount(), 5);
}

TEST(Stills, GapsHoldTheStillBeforeThem) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "s-%03d.png", 8, {64, 48}, "-start_number 5 -c:v png");
  std::filesystem::remove(folder / "s-008.png");
  for (const std::string& path : {folder / "s-%03d.png", folder.path().string()}) {
    const auto footage = test::openFootage(path);
    ASSERT_TRUE(footage);
    EXPECT_EQ(footage->warnings().size(), 1u);
    const auto frames = test::readAll(*footage);
    ASSERT_EQ(frames.size(), 8u);
    EXPECT_EQ(test::numberShown(frames[3]), 2);
    EXPECT_EQ(test::numberShown(frames[4]), 4);
  }
}

}  // namespace
}  // namespace molten

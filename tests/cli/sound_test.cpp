// Sound through molten-render: with the picture's time, beside it in every kind of file, alone, in pieces.
#include <cstring>

#include "support/clips.h"
#include "core/number_text.h"
#include "support/sounds.h"

namespace molten {
namespace {

using test::TempFolder;

test::CommandResult render(const std::string& arguments) {
  return test::runCommand(std::string(MOLTEN_RENDER) + " " + arguments);
}

/// Sound of a file as another program decodes it, at soundRate, in two channels.
Sound decoded(const std::string& path) {
  const auto raw = test::runCommand("ffmpeg -v error -i '" + path + "' -map 0:a -f f32le -ar 48000 -ac 2 -");
  EXPECT_EQ(raw.exitCode, 0) << raw.err;
  Sound sound(raw.out.size() / sizeof(float) / soundChannels);
  std::memcpy(sound.values().data(), raw.out.data(), sound.values().size_bytes());
  return sound;
}

Sound part(const Sound& sound, std::size_t from, std::size_t samples) {
  Sound out(samples);
  std::copy_n(sound.values().begin() + static_cast<std::ptrdiff_t>(from * soundChannels), samples * soundChannels, out.values().begin());
  return out;
}

/// The most that two differ by in what both have.
double apart(const Sound& a, const Sound& b) {
  double most = 0;
  for (std::size_t i = 0; i < std::min(a.values().size(), b.values().size()); ++i)
    most = std::max(most, std::abs(static_cast<double>(a.values()[i]) - b.values()[i]));
  return most;
}

/// The fewest samples by which `b` comes after `a`, by how alike they are; −2000…2000.
int shiftOf(const Sound& a, const Sound& b, std::size_t from) {
  int best = 0;
  double most = -1;
  for (int shift = -2000; shift <= 2000; ++shift) {
    double sum = 0;
    for (std::size_t i = 0; i < 4000; ++i)
      sum += static_cast<double>(a.at(from + i, 0)) * b.at(static_cast<std::size_t>(static_cast<std::int64_t>(from + i) + shift), 0);
    if (sum > most) most = sum, best = shift;
  }
  return best;
}

class SoundRender : public ::testing::Test {
 protected:
  /// Three seconds of pictures with noise that is low enough for every coder, in two channels.
  std::string clip(const std::string& name = "clip.mkv", const std::string& sound = "-c:a flac") {
    const auto made = test::runCommand(
        "ffmpeg -v error -y -f lavfi -i testsrc2=s=96x64:r=25:d=3 -f lavfi -i "
        "\"anoisesrc=d=3:r=48000:a=0.5:s=3,lowpass=f=3000,aformat=sample_fmts=s16,pan=stereo|c0=c0|c1=-0.5*c0\" "
        "-c:v ffv1 " + sound + " " + (folder / name));
    EXPECT_EQ(made.exitCode, 0) << made.err;
    return folder / name;
  }
  std::string tone(double seconds, const std::string& name = "tone.wav") {
    const auto made = test::runCommand("ffmpeg -v error -y -f lavfi -i \"sine=f=1000:r=48000:d=" + exactText(seconds) +
                                       ",volume=4\" -ac 2 " + (folder / name));
    EXPECT_EQ(made.exitCode, 0) << made.err;
    return folder / name;
  }
  /// Renders to a file of that name.
  std::string made(const std::string& arguments, const std::string& name) {
    const auto result = render(arguments + " -o " + (folder / name));
    EXPECT_EQ(result.exitCode, 0) << result.err;
    return folder / name;
  }
  TempFolder folder;
};

TEST_F(SoundRender, EveryKindOfFileHoldsItAsLongAsThePictures) {
  const Sound own = decoded(clip());
  ASSERT_EQ(own.samples(), 3u * soundRate);
  const struct {
    const char *name, *codec;
    double apart;  ///< −1: a coder that loses something
  } kinds[] = {{"a.mov", "pcm_s24le", 1e-6}, {"b.mkv", "flac", 1e-6}, {"c.mp4", "aac", -1},
               {"d.webm", "opus", -1},       {"e.wav", "pcm_s24le", 1e-6}, {"f.flac", "flac", 1e-6}};
  for (const auto& kind : kinds) {
    SCOPED_TRACE(kind.name);
    const std::string result = made(folder / "clip.mkv", kind.name);
    const auto said = test::runCommand("ffprobe -v error -select_streams a -show_entries stream=codec_name,sample_rate,channels -of csv=p=0 " + result);
    EXPECT_EQ(said.out, std::string(kind.codec) + ",48000,2\n");
    const Sound sound = decoded(result);
    const auto lasts = test::runCommand("ffprobe -v error -show_entries format=duration -of csv=p=0 " + result);
    // Opus begins before what is heard of it, which such a file counts in.
    EXPECT_NEAR(std::stod(lasts.out), 3, std::string(kind.codec) == "opus" ? 0.01 : 0);
    // A decoder may give AAC's last frame in full, which lasts longer than the file says that it is heard.
    EXPECT_GE(sound.samples(), own.samples());
    EXPECT_LT(sound.samples(), own.samples() + (kind.apart < 0 ? 1024 : 1));
    if (kind.apart >= 0)
      EXPECT_LE(apart(sound, own), kind.apart);
    else
      EXPECT_EQ(shiftOf(own, sound, 40'000), 0);
  }
}

TEST_F(SoundRender, InPiecesItIsOne) {
  const std::string chain = clip() + " --stage 'pace:spans=1s@100%~0.4s+2s@-60%~0.3s+2s@170%'";
  const Sound whole = decoded(made(chain, "whole.mkv"));
  std::size_t at = 0;
  for (const char* frames : {"0-30", "31-31", "32-79", "80-124"}) {
    const Sound piece = decoded(made(chain + " --frames " + frames, "piece.mkv"));
    EXPECT_LE(apart(part(whole, at, piece.samples()), piece), 2e-6) << frames;
    at += piece.samples();
  }
  EXPECT_EQ(at, whole.samples());
}

TEST_F(SoundRender, TheShotsSoundGoesWithItsTime) {
  const std::string source = folder / "t.mkv";
  ASSERT_EQ(test::runCommand("ffmpeg -v error -y -f lavfi -i testsrc2=s=96x64:r=25:d=4 -i " + tone(4) + " -c:v ffv1 -c:a flac " + source).exitCode, 0);
  const auto hertz = [&](const std::string& arguments, double from = 0.5) {
    const Sound sound = decoded(made(source + " " + arguments, "h.wav"));
    return test::hertzOf(part(sound, static_cast<std::size_t>(from * soundRate), 6000), 200, 4000);
  };
  EXPECT_NEAR(hertz("--stage pace:spans=4s@200%"), 2000, 2);
  EXPECT_NEAR(hertz("--stage pace:spans=4s@50%"), 500, 1);
  EXPECT_NEAR(hertz("--stage pace:spans=4s@200% --set own-sound.other-speeds=keep-pitch"), 1000, 5);
  EXPECT_NEAR(hertz("--stage step-rate:rate=8"), 1000, 1) << "steps are for the eye";
  EXPECT_NEAR(hertz("--stage time-field:back=1s"), 1000, 1) << "what is displaced sounds now";
  const Sound silent = decoded(made(source + " --stage pace:spans=4s@200% --set own-sound.other-speeds=silent", "s.wav"));
  EXPECT_EQ(test::levelOf(part(silent, 20'000, 20'000)), 0);
  const Sound frozen = decoded(made(source + " --stage pace:spans=1s@100%+1s@0%+1s@100%", "f.wav"));
  EXPECT_GT(test::levelOf(part(frozen, 20'000, 20'000)), 0.1);
  EXPECT_EQ(test::levelOf(part(frozen, 49'000, 46'000)), 0);
  EXPECT_GT(test::levelOf(part(frozen, 100'000, 20'000)), 0.1);
}

TEST_F(SoundRender, SoundsAreLaidTrimmedFadedAndLoud) {
  test::makeNumberedClip(folder / "silent.mkv", 100, {96, 64}, "-c:v ffv1");
  const Sound own = decoded(tone(1));
  const Sound sound = decoded(made(folder / "silent.mkv" + " --rate 25 --length 4 --add-sound " + (folder / "tone.wav") +
                                       "@1.5s,gain=-6dB,fade-in=0.2s,skip-start=0.25s",
                                   "laid.wav"));
  ASSERT_EQ(sound.samples(), 4u * soundRate);
  EXPECT_EQ(test::levelOf(part(sound, 0, 72'000)), 0);
  for (std::size_t i = 0; i < 36'000; i += 11) {
    const double fade = std::min(1.0, (static_cast<double>(i) + 0.5) / 9600);
    ASSERT_NEAR(sound.at(72'000 + i, 0), own.at(12'000 + i, 0) * 0.5011872 * fade, 1e-5) << i;
  }
  EXPECT_EQ(test::levelOf(part(sound, 108'000, 80'000)), 0);
  const Sound round = decoded(made(folder / "silent.mkv" + " --rate 25 --length 4 --add-sound " + (folder / "tone.wav") + "@0.5s,loop,length=3s", "r.wav"));
  EXPECT_GT(test::levelOf(part(round, 150'000, 15'000)), 0.1);
  EXPECT_EQ(test::levelOf(part(round, 168'200, 20'000)), 0);
}

TEST_F(SoundRender, ThePictureAloneAndTheSoundAsItIs) {
  const std::string source = clip();
  const auto streams = [](const std::string& path) {
    return test::runCommand("ffprobe -v error -show_entries stream=codec_name -of csv=p=0 " + path).out;
  };
  EXPECT_EQ(streams(made(source + " --sound none", "none.mkv")), "ffv1\n");
  const Sound own = decoded(source);
  const std::string copy = made(source + " --sound copy", "copy.mkv");
  EXPECT_EQ(streams(copy), "ffv1\nflac\n");
  EXPECT_EQ(decoded(copy), own);
  EXPECT_EQ(decoded(made(source + " --sound copy --stage pace:spans=3s@50%", "slow.mkv")), own) << "whatever becomes of its time";
  // From in on: what begins within a packet goes along whole.
  const std::string from = made(source + " --sound copy --frames 25-49", "from.mkv");
  const auto begins = test::runCommand("ffprobe -v error -select_streams a -show_entries packet=pts_time -of csv=p=0 " + from);
  EXPECT_LT(std::abs(std::stod(begins.out)), 0.11);
  const auto refused = render(source + " --sound copy -o " + (folder / "w.webm"));
  EXPECT_EQ(refused.exitCode, 1);
  EXPECT_NE(refused.err.find("is flac, which such a file (webm) cannot hold as it is."), std::string::npos) << refused.err;
  EXPECT_FALSE(std::filesystem::exists(folder / "w.webm"));
}

/// Values that follow a sound: over the command line, in the result's pictures; and what cannot be followed is said.
TEST_F(SoundRender, ValuesFollowWhatIsLaid) {
  const std::string gray = folder / "gray.mkv";
  ASSERT_EQ(test::runCommand("ffmpeg -v error -y -f lavfi -i color=c=0x404040:s=64x48:r=25:d=2 -c:v ffv1 " + gray).exitCode, 0);
  const auto lumas = [&](const std::string& path) {
    std::vector<int> all;
    for (const Picture& picture : test::readAll(*test::openFootage(path))) all.push_back(picture.row(0, 24)[32]);
    return all;
  };
  const std::string follows = gray + " --stage 'finish:exposure=1_follow_loudness_0_0%_100%_1_0_0_0s_0s' --add-sound " + tone(1) + "@0.5s --sound none ";
  const auto whole = lumas(made(follows, "whole.mkv"));
  ASSERT_EQ(whole.size(), 50u);
  EXPECT_EQ(whole[5], lumas(gray)[5]);
  EXPECT_GT(whole[20], whole[5] + 10);
  EXPECT_EQ(whole[45], whole[5]);
  // A piece has the same.
  const auto piece = lumas(made(follows + "--frames 15-34", "piece.mkv"));
  EXPECT_EQ(piece, std::vector<int>(whole.begin() + 15, whole.begin() + 35));
  const auto said = [&](const std::string& arguments) { return render(gray + arguments + " --sound none -o " + (folder / "b.mkv")).err; };
  EXPECT_NE(said(" --stage 'finish:exposure=1_follow_loudness_0'").find("The footage has no sound"), std::string::npos);
  EXPECT_NE(said(" --stage 'finish:exposure=1_follow_loudness_0_0%_100%_3'").find("sound 3, which is not laid"), std::string::npos);
  EXPECT_NE(said(" --add-sound gone.wav --stage 'finish:exposure=1_follow_loudness_0_0%_100%_1'").find("gone.wav"), std::string::npos);
}

TEST_F(SoundRender, TooLoudIsSaidAndWhatIsAmissToo) {
  test::makeNumberedClip(folder / "silent.mkv", 50, {96, 64}, "-c:v ffv1");
  const auto loud = render(folder / "silent.mkv" + " --add-sound " + tone(1) + "@0s,gain=12dB -o " + (folder / "loud.mkv"));
  EXPECT_EQ(loud.exitCode, 0);
  EXPECT_NE(loud.err.find("dB over full scale"), std::string::npos) << loud.err;
  const struct {
    std::string arguments, says;
    int code;
  } cases[] = {{folder / "silent.mkv" + " -o " + (folder / "x.wav"), "There is no sound to write", 1},
               {folder / "silent.mkv" + " --add-sound @1s -o " + (folder / "x.mkv"), "no file is named", 2},
               {folder / "silent.mkv" + " --add-sound a.wav@1s,volume=3 -o " + (folder / "x.mkv"), "has no parameter \"volume\"", 2},
               {folder / "silent.mkv" + " --sound copy -o " + (folder / "x.mkv"), "has no sound in it", 1},
               {folder / "silent.mkv" + " --add-sound " + (folder / "gone.wav") + " -o " + (folder / "x.mkv"), "There is no file gone.wav", 1}};
  for (const auto& one : cases) {
    const auto result = render(one.arguments);
    EXPECT_EQ(result.exitCode, one.code) << one.arguments;
    EXPECT_NE(result.err.find(one.says), std::string::npos) << result.err;
  }
  // Sound that is damaged is silent there, and that is said.
  ASSERT_EQ(test::runCommand("ffmpeg -v error -y -i " + clip() + " -map 0:a -c copy " + (folder / "whole.mka")).exitCode, 0);
  std::ifstream in(folder / "whole.mka", std::ios::binary);
  std::string bytes((std::istreambuf_iterator<char>(in)), {});
  for (std::size_t i = 0; i < 2000; ++i) bytes[bytes.size() / 2 + 7 * i] ^= 0x55;
  test::writeFile(folder / "hurt.mka", bytes);
  for (const char* result : {"hurt.wav", "hurt.mkv"}) {
    const auto hurt = render(folder / "silent.mkv" + " --strict --add-sound " + (folder / "hurt.mka") + " -o " + (folder / result));
    EXPECT_EQ(hurt.exitCode, 1) << result;
    EXPECT_NE(hurt.err.find("of its sound cannot be decoded and will be silent."), std::string::npos) << hurt.err;
  }
  // A sound that the project reads is never written over.
  const auto over = render(folder / "silent.mkv" + " --add-sound " + (folder / "tone.wav") + " -o " + (folder / "tone.wav"));
  EXPECT_EQ(over.exitCode, 1);
  EXPECT_NE(over.err.find("is part of what the project reads"), std::string::npos) << over.err;
}

}  // namespace
}  // namespace molten

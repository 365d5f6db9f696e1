// Sound of files: exact to the sample from any moment on, whatever it is coded in.
#include <fstream>
#include <gtest/gtest.h>

#include "core/engine/sound_feed.h"
#include "core/media/sound_reader.h"
#include "core/number_text.h"
#include "support/clips.h"
#include "support/sounds.h"

namespace molten {
namespace {

class SoundReaderTest : public ::testing::Test {
 protected:
  /// `ffmpeg ARGUMENTS` into a file of that name.
  std::string made(const std::string& arguments, const std::string& name) {
    const auto result = test::runCommand("ffmpeg -v error -y " + arguments + " " + (folder / name));
    EXPECT_EQ(result.exitCode, 0) << result.err;
    return folder / name;
  }
  /// Noise of its own at each moment, in two channels.
  static std::string noise(double seconds, int rate = 48000) {
    return "-f lavfi -i \"anoisesrc=d=" + exactText(seconds) + ":r=" + std::to_string(rate) +
           ":a=0.4:s=7,aformat=sample_fmts=s16,pan=stereo|c0=c0|c1=-0.5*c0\"";
  }
  static std::unique_ptr<SoundReader> open(const std::string& path) {
    auto reader = SoundReader::open(path);
    EXPECT_TRUE(reader) << (reader ? "" : reader.error().message);
    return reader ? std::move(*reader) : nullptr;
  }
  static Sound read(SoundReader& reader, std::int64_t first, std::size_t count) {
    Sound out(count);
    EXPECT_TRUE(reader.read(first, out, {}));
    return out;
  }
  test::TempFolder folder;
};

/// In order and in any order it is the same.
TEST_F(SoundReaderTest, AnyMomentIsWhatItIsInOrder) {
  const struct {
    const char *name, *arguments;
    float close;  ///< coders that remember are so close after a jump
  } files[] = {{"a.wav", "", 0},
               {"b.flac", "", 0},
               {"c.m4a", "-c:a aac -b:a 192k -aac_pns 0", 1e-4f},
               {"d.mp3", "-c:a libmp3lame -b:a 192k", 1e-4f},
               {"e.ogg", "-c:a libvorbis -b:a 192k", 1e-4f},
               {"f.mka", "-c:a flac", 0},
               // Where an AAC encoder asks for noise that the decoder makes by itself, no two ways to a moment give the same.
               {"g.mka", "-c:a aac -b:a 192k -aac_pns 0", 1e-4f},
               {"h.wav", "-ar 44100", 1e-6f},
               {"i.mka", "-c:a flac -ar 22050", 1e-6f},
               {"k.wav", "-ac 1 -ar 8000", 1e-6f}};
  std::mt19937 random(1);
  for (const auto& file : files) {
    SCOPED_TRACE(file.name);
    const std::string path = made(noise(25) + " " + file.arguments, file.name);
    const auto reader = open(path);
    ASSERT_TRUE(reader);
    const Sound whole = read(*reader, 0, 25 * soundRate);
    EXPECT_GT(test::levelOf(whole), 0.01);
    const auto other = open(path);
    for (int i = 0; i < 12; ++i) {
      const auto first = static_cast<std::int64_t>(random() % (24 * soundRate));
      const Sound piece = read(*other, first, 3000);
      float off = 0;
      for (std::size_t k = 0; k < piece.samples(); ++k)
        for (int c = 0; c < soundChannels; ++c)
          off = std::max(off, std::abs(piece.at(k, c) - whole.at(static_cast<std::size_t>(first) + k, c)));
      EXPECT_LE(off, file.close) << "from " << first;
    }
  }
}

TEST_F(SoundReaderTest, SamplesAreTheFilesOwn) {
  const std::string path = made(noise(2), "own.wav");
  const auto raw = test::runCommand("ffmpeg -v error -i " + path + " -f f32le -");
  ASSERT_EQ(raw.exitCode, 0);
  const auto reader = open(path);
  const Sound whole = read(*reader, 0, 2 * soundRate);
  ASSERT_EQ(raw.out.size(), whole.values().size_bytes());
  EXPECT_EQ(std::memcmp(raw.out.data(), whole.values().data(), raw.out.size()), 0);
  Sound past = read(*reader, 2 * soundRate, 500);
  EXPECT_EQ(test::levelOf(past), 0);
  EXPECT_EQ(reader->end(), 2 * soundRate);
  past = read(*reader, -500, 500);
  EXPECT_EQ(test::levelOf(past), 0);
}

/// What begins after the pictures, and what was not recorded in between, stays where it was.
TEST_F(SoundReaderTest, LateStartsAndGapsAreKept) {
  const std::string sound = made("-f lavfi -i sine=f=1000:d=4:r=48000", "tone.wav");
  const std::string late = made("-f lavfi -i color=c=gray:s=32x32:r=25:d=4 -itsoffset 0.5 -i " + sound +
                                    " -map 0:v -map 1:a -c:v libx264 -c:a pcm_s16le",
                                "late.mov");
  auto reader = open(late);
  ASSERT_TRUE(reader);
  EXPECT_EQ(test::levelOf(read(*reader, 0, 23'900)), 0);
  EXPECT_GT(test::levelOf(read(*reader, 24'100, 10'000)), 0.05);
  const std::string gap = made("-i " + sound + " -af \"aselect='lt(t,1)+gt(t,2.5)'\" -c:a flac", "gap.mka");
  reader = open(gap);
  ASSERT_TRUE(reader);
  EXPECT_GT(test::levelOf(read(*reader, 40'000, 4'000)), 0.05);
  EXPECT_EQ(test::levelOf(read(*reader, 60'000, 50'000)), 0);
  EXPECT_GT(test::levelOf(read(*reader, 130'000, 4'000)), 0.05);
}

TEST_F(SoundReaderTest, OneChannelIsHeardInBothAndEightInTwo) {
  auto reader = open(made("-f lavfi -i \"sine=f=1000:d=1:r=48000,volume=4\"", "one.wav"));
  ASSERT_TRUE(reader);
  const Sound one = read(*reader, 0, 40'000);
  for (std::size_t i = 0; i < one.samples(); ++i) ASSERT_EQ(one.at(i, 0), one.at(i, 1));
  EXPECT_NEAR(test::levelOf(one), 0.5 / std::sqrt(2), 0.01) << "as loud as it is";
  reader = open(made("-f lavfi -i \"aevalsrc=" + [] {
    std::string all;
    for (int c = 0; c < 8; ++c) all += (c ? "|" : "") + std::string("0.9*sin(2*PI*") + std::to_string(300 + 100 * c) + "*t)";
    return all;
  }() + ":d=1:s=48000:c=7.1\"", "eight.wav"));
  ASSERT_TRUE(reader);
  EXPECT_EQ(reader->description().channels, 8);
  const Sound eight = read(*reader, 0, 40'000);
  EXPECT_GT(test::levelOf(eight), 0.05);
  for (const float value : eight.values()) ASSERT_LE(std::abs(value), 1);
}

/// A stream whose channels and rate change on its way: all of it in its place, in two channels.
TEST_F(SoundReaderTest, ChannelsAndRatesThatChangeOnTheWay) {
  std::ofstream all(folder / "all.ts", std::ios::binary);
  int at = 0;
  for (const char* part : {"sine=f=500:r=48000:d=2 -ac 1", "sine=f=1000:r=44100:d=2 -ac 2", "sine=f=2000:r=24000:d=2 -ac 6"}) {
    const std::string file = made("-f lavfi -i " + std::string(part) + " -c:a aac -muxdelay 0 -output_ts_offset " + std::to_string(2 * at), "part.ts");
    all << std::ifstream(file, std::ios::binary).rdbuf();
    ++at;
  }
  all.close();
  const auto reader = open(folder / "all.ts");
  ASSERT_TRUE(reader);
  const auto hertzAt = [&](double seconds, double about) {
    return test::hertzOf(read(*reader, std::llround(seconds * soundRate), 9600), about - 60, about + 60);
  };
  EXPECT_NEAR(hertzAt(1, 500), 500, 3);
  EXPECT_NEAR(hertzAt(3, 1000), 1000, 3);
  EXPECT_NEAR(hertzAt(5, 2000), 2000, 3);
  EXPECT_NEAR(hertzAt(1, 500), 500, 3) << "and back again";
  EXPECT_EQ(reader->damaged(), 0);
}

TEST_F(SoundReaderTest, WhatCannotBeReadIsSaid) {
  test::writeFile(folder / "text.wav", std::string("no sound at all"));
  test::makeNoiseClip(folder / "silent.mkv", 5, {32, 32}, "yuv444p");
  const struct {
    std::string name, says;
  } cases[] = {{"text.wav", "text.wav is not sound"},
               {"silent.mkv", "silent.mkv has no sound in it."},
               {"none.wav", "There is no file none.wav"}};
  for (const auto& one : cases) {
    const auto reader = SoundReader::open(folder / one.name);
    ASSERT_FALSE(reader) << one.name;
    EXPECT_TRUE(reader.error().message.starts_with(one.says)) << reader.error().message;
  }
}

TEST_F(SoundReaderTest, DamageIsSilentAndTheRestIsWhereItWas) {
  const std::string path = made(noise(10) + " -c:a flac", "whole.mka");
  const auto reader = open(path);
  const Sound whole = read(*reader, 0, 10 * soundRate);
  std::ifstream in(path, std::ios::binary);
  std::string bytes((std::istreambuf_iterator<char>(in)), {});
  std::mt19937 random(2);
  for (int i = 0; i < 400; ++i) bytes[bytes.size() / 3 + random() % 60'000] ^= static_cast<char>(random() | 1);
  test::writeFile(folder / "hurt.mka", bytes);
  const auto hurt = open(folder / "hurt.mka");
  ASSERT_TRUE(hurt);
  const Sound left = read(*hurt, 0, 10 * soundRate);
  const auto alike = [&](std::size_t from, std::size_t to) {
    for (std::size_t i = from; i < to; ++i)
      if (left.at(i, 0) != whole.at(i, 0)) return false;
    return true;
  };
  EXPECT_TRUE(alike(0, 2 * soundRate));
  EXPECT_FALSE(alike(2 * soundRate, 8 * soundRate));
  EXPECT_TRUE(alike(8 * soundRate, 10 * soundRate)) << "what comes after lies where it lay";
  // Cut short.
  test::writeFile(folder / "cut.mka", bytes.substr(0, bytes.size() / 3));
  const auto cut = open(folder / "cut.mka");
  ASSERT_TRUE(cut);
  EXPECT_EQ(test::levelOf(read(*cut, 5 * soundRate, 1000)), 0);
}

TEST_F(SoundReaderTest, AFeedTellsTheOutlineAtEveryZoom) {
  const std::string path = made(noise(8), "feed.wav");
  const auto budget = std::make_shared<MemoryBudget>(std::size_t(1) << 26);
  const auto feed = SoundFeed::open(path, budget);
  ASSERT_TRUE(feed);
  (*feed)->waitForPeaks();
  EXPECT_EQ((*feed)->length(), 8 * soundRate);
  Sound whole(8 * soundRate);
  ASSERT_TRUE((*feed)->read(0, whole, {}));
  std::mt19937 random(3);
  for (const double apart : {256.0, 300.0, 4096.0, 10'000.0, 100'000.0}) {
    std::vector<Peak> peaks(20);
    const double first = static_cast<double>(random() % 40'000);
    (*feed)->peaks()->look(first, apart, peaks);
    for (std::size_t i = 0; i < peaks.size(); ++i) {
      const double from = first + apart * static_cast<double>(i), to = from + apart;
      const auto within = [&](double a, double b) {
        Peak peak;
        for (auto n = static_cast<std::int64_t>(std::max(0.0, a)); n < std::min<std::int64_t>(8 * soundRate, static_cast<std::int64_t>(b)); ++n)
          for (int c = 0; c < soundChannels; ++c) {
            const float value = whole.at(static_cast<std::size_t>(n), c);
            peak.take({value, value});
          }
        return peak;
      };
      const Peak inner = within(from, to), outer = within(from - 256, to + 256);
      if (inner.empty()) continue;
      EXPECT_LE(peaks[i].most, outer.most + 1e-4f);
      EXPECT_GE(peaks[i].most, inner.most - 1e-4f);
      EXPECT_GE(peaks[i].least, outer.least - 1e-4f);
      EXPECT_LE(peaks[i].least, inner.least + 1e-4f);
    }
  }
  EXPECT_LE(budget->used(), budget->limit() / 8) << "decoded sound is kept under the budget";
}

}  // namespace
}  // namespace molten

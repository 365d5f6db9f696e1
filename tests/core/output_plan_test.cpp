// What a name, a codec and a picture come to.
#include "core/media/picture_writer.h"
#include "core/media/stills_reader.h"
#include "support/clips.h"

namespace molten {
namespace {

OutputSpec spec(const std::string& path, const std::string& codec = "", int bits = 8, bool alpha = false) {
  OutputSpec s;
  s.path = path;
  s.codec = codec;
  s.shape.format = {ColourModel::Yuv, bits, 1, 1, alpha, false};
  s.shape.size = {641, 360};
  return s;
}

std::string planned(const OutputSpec& s) {
  const auto plan = planOutput(s);
  return plan ? plan->codec->id + " " + plan->formatText : plan.error().message;
}

TEST(OutputPlan, TheNameDecidesUnlessACodecIsNamed) {
  EXPECT_EQ(planned(spec("/a/o.mp4")), "h264 4:2:0 8-bit");
  EXPECT_EQ(planned(spec("/a/o.MOV")), "prores 4:2:2 10-bit");
  EXPECT_EQ(planned(spec("/a/o.mov", "h264")), "h264 4:2:0 8-bit");
  EXPECT_EQ(planned(spec("/a/o.mkv", "", 10)), "ffv1 4:2:0 10-bit");
  EXPECT_EQ(planned(spec("/a/o.mov", "", 8, true)), "prores 4:4:4 10-bit with alpha");
  EXPECT_EQ(planned(spec("/a/o.webm", "", 8, true)), "vp9 4:2:0 8-bit with alpha");
  EXPECT_EQ(planned(spec("/a/o-%d.png", "", 10)), "png16 RGB 16-bit");
  EXPECT_EQ(planned(spec("/a/o-%d.png", "png", 10)), "png RGB 8-bit");
  EXPECT_EQ(planned(spec("/a/o-%04d.tiff")), "tiff RGB 8-bit");
}

TEST(OutputPlan, WhatDoesNotFitIsSaidInASentence) {
  for (const auto& s :
       {spec("o"), spec("o.moon"), spec("o.mp4", "vp9"), spec("o.mp4", "moon"), spec("o.png"), spec("o.webm", "png")}) {
    const auto plan = planOutput(s);
    ASSERT_FALSE(plan) << s.path << s.codec;
    EXPECT_EQ(plan.error().message.back(), '.');
  }
  OutputSpec s = spec("o.mp4");
  s.quality = 60;
  EXPECT_FALSE(planOutput(s));
  s.quality = 51;
  EXPECT_TRUE(planOutput(s));
}

TEST(OutputPlan, EvenSizesOnlyWhereTheyMustBe) {
  EXPECT_EQ(planOutput(spec("o.mp4"))->size, (Size{640, 360}));
  EXPECT_EQ(planOutput(spec("o.mp4"))->notes.size(), 1u);
  EXPECT_EQ(planOutput(spec("o.mkv"))->size, (Size{641, 360}));
}

TEST(Stills, AreNumberedAsThePatternSays) {
  EXPECT_EQ(stillPath("/a/b-%05d.png", 12), "/a/b-00012.png");
  EXPECT_EQ(stillPath("/a/b-%d.png", 12), "/a/b-12.png");
  EXPECT_EQ(stillPath("/a/b-%02d.png", 1234), "/a/b-1234.png");
}

/// Whatever stands in a name, its number is one thing for who reads and who writes.
TEST(Stills, TheNumberOfANameIsTheFirstOne) {
  EXPECT_EQ(stillPath("/films/a-%05d.png", 7), "/films/a-00007.png");
  EXPECT_EQ(stillPath("/%03d/a-%d.png", 7), "/%03d/a-7.png") << "of the file's name, not of its folder's";
  EXPECT_EQ(stillPath("%d02%05.png", 7), "702%05.png");
  EXPECT_EQ(stillPath("50%-%02d-%03d.png", 7), "50%-07-%03d.png");
  for (const char* const none : {"a.png", "a%.png", "a%05.png", "%d/a.png"}) EXPECT_FALSE(isStillsPattern(none)) << none;
}

}  // namespace
}  // namespace molten

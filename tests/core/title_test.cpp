// Titles: what is drawn, how they are laid out, and how they come and go.
#include <gtest/gtest.h>

#include <cmath>

#include "core/engine/evaluator.h"
#include "core/media/title_picture.h"
#include "core/number_text.h"
#include "core/stages/insert.h"
#include "core/picture/blank.h"
#include "core/stages/insert.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

/// Where something is drawn: columns and rows of an alpha above a half.
struct Ink {
  int left = 1 << 20, top = 1 << 20, right = -1, bottom = -1;
  long count = 0;
};
Ink inkOf(const Picture& picture) {
  Ink ink;
  for (int y = 0; y < picture.shape().size.height; ++y)
    for (int x = 0; x < picture.shape().size.width; ++x) {
      if (picture.row(3, y)[x] < 128) continue;
      ink.left = std::min(ink.left, x), ink.right = std::max(ink.right, x);
      ink.top = std::min(ink.top, y), ink.bottom = std::max(ink.bottom, y);
      ++ink.count;
    }
  return ink;
}
TitleLook look(const std::string& text, double size = 60) {
  TitleLook look;
  look.text = text, look.size = size;
  return look;
}
Ink inkOf(const TitleLook& look) {
  return inkOf(titlePicture(look, 1));
}

TEST(Title, IsAsLargeAsItSaysInItsColour) {
  TitleLook one = look("H", 100);
  one.colour = {1, 0.5, 0};
  const Picture picture = titlePicture(one, 1);
  EXPECT_EQ(picture.shape().size, titleSize(one));
  const Ink ink = inkOf(picture);
  // A capital of this typeface is about seven tenths of its size high.
  EXPECT_NEAR(ink.bottom - ink.top + 1, 71, 6);
  int full = 0;
  for (int y = ink.top; y <= ink.bottom; ++y)
    for (int x = ink.left; x <= ink.right; ++x)
      if (picture.row(3, y)[x] == 255) {
        ++full;
        ASSERT_EQ(picture.row(2, y)[x], 255);
        ASSERT_EQ(picture.row(0, y)[x], 128);
        ASSERT_EQ(picture.row(1, y)[x], 0);
      }
  EXPECT_GT(full, 500);
  const TitleBox box = titleBox(one);
  EXPECT_LE(box.left, ink.left + 1);
  EXPECT_GE(box.right, ink.right);
}

TEST(Title, ItsWordsChangeWhatTheySay) {
  const Ink plain = inkOf(look("HOH"));
  TitleLook other = look("HOH");
  other.tracking = 20;
  EXPECT_NEAR((inkOf(other).right - inkOf(other).left) - (plain.right - plain.left), 40, 3) << "twice between three letters";
  other = look("HOH"), other.weight = 400;
  EXPECT_LT(inkOf(other).count, plain.count);
  other = look("HOH"), other.size = 120;
  EXPECT_NEAR(static_cast<double>(inkOf(other).count) / static_cast<double>(plain.count), 4, 0.2);
  other = look("HOH"), other.outline = 6, other.outlineColour = {0, 0, 1};
  EXPECT_NEAR((inkOf(other).right - inkOf(other).left) - (plain.right - plain.left), 12, 2);
  other = look("HOH"), other.shade = 1, other.shadeAway = 30;
  EXPECT_NEAR((inkOf(other).right - inkOf(other).left) - (plain.right - plain.left), 21, 2) << "down and to the right alike";
  // Lines.
  other = look("H\nH"), other.lineDistance = 1.5;
  const Ink wide = inkOf(other);
  other.lineDistance = 1;
  EXPECT_NEAR((wide.bottom - wide.top) - (inkOf(other).bottom - inkOf(other).top), 30, 1.5);
  other = look("HHHH\nH"), other.align = TitleLook::Align::Left;
  const Picture left = titlePicture(other, 1);
  const Ink all = inkOf(left);
  const auto inkInLower = [&](const Picture& picture, int x) {
    for (int y = (all.top + all.bottom) / 2 + 5; y <= all.bottom; ++y)
      if (picture.row(3, y)[x] > 128) return true;
    return false;
  };
  EXPECT_TRUE(inkInLower(left, all.left + 2));
  EXPECT_FALSE(inkInLower(left, all.right - 2));
  other.align = TitleLook::Align::Right;
  const Picture right = titlePicture(other, 1);
  EXPECT_FALSE(inkInLower(right, all.left + 2));
  EXPECT_TRUE(inkInLower(right, all.right - 2));
}

/// What nobody expects: nothing, far too much, the other way round, what no typeface has.
TEST(Title, WhateverIsWrittenIsDrawn) {
  EXPECT_EQ(inkOf(look("")).count, 0);
  const Size long1 = titleSize(look(std::string(10000, 'W'), 80));
  EXPECT_LE(long1.width, longestTitle);
  EXPECT_LE(long1.height, longestTitle);
  EXPECT_GT(inkOf(look(std::string(10000, 'W'), 80)).count, 1000000);
  EXPECT_GT(inkOf(look("שלום עולם")).count, 500);
  EXPECT_GT(inkOf(look("\xF3\xB0\x80\x80\xF3\xB0\x80\x81")).count, 50) << "letters of no typeface are boxes";
  EXPECT_GT(inkOf(look("ligature ffi \xE2\x80\x94 caf\xC3\xA9")).count, 500);
  EXPECT_GE(inkOf(look("broken \xFF\xFE bytes")).count, 1);
  TitleLook none = look("H");
  none.typeface = "No such typeface anywhere";
  EXPECT_GT(inkOf(none).count, 100);
  const auto all = typefaces();
  EXPECT_TRUE(std::find(all.begin(), all.end(), ownTypeface) != all.end());
}

/// Drawn smaller it is the same title, smaller: no letter stands elsewhere.
TEST(Title, IsTheSameAtEveryScale) {
  const TitleLook title = look("FERROWICK\nnight shift", 90);
  const Picture full = titlePicture(title, 1), half = titlePicture(title, 2);
  ASSERT_EQ(half.shape().size.width, (full.shape().size.width + 1) / 2);
  double off = 0;
  for (int y = 0; y < full.shape().size.height / 2; ++y)
    for (int x = 0; x < full.shape().size.width / 2; ++x) {
      const int mean = (full.row(3, 2 * y)[2 * x] + full.row(3, 2 * y)[2 * x + 1] + full.row(3, 2 * y + 1)[2 * x] + full.row(3, 2 * y + 1)[2 * x + 1]) / 4;
      off += std::abs(mean - half.row(3, y)[x]);
    }
  EXPECT_LT(off / (half.shape().size.width * half.shape().size.height), 4);
}

class TitleInserted : public ::testing::Test {
 protected:
  TitleInserted() {
    test::makeGrayClip(folder / "black.mkv", 40, {320, 180}, [](int, int, int) { return 0; });
    evaluator = std::make_unique<Evaluator>(std::make_shared<FrameFeed>(test::openFootage(folder / "black.mkv"), std::size_t(1) << 27, 1), 2);
  }
  Picture at(const std::string& words, std::int64_t frame) {
    const auto stage = parseStage("insert:shows=title,colour=ffffff,letters=30%," + words, 30);
    EXPECT_TRUE(stage) << (stage ? "" : stage.error().message);
    auto picture = evaluator->picture(evaluator->plan({*stage}, {}), {frame}, {});
    EXPECT_TRUE(picture);
    return *picture;
  }
  /// Left and right end of what is white; −1: nothing is.
  static std::pair<int, int> white(const Picture& picture) {
    std::pair<int, int> found{-1, -1};
    for (int x = 0; x < 320; ++x)
      for (int y = 0; y < 180; ++y)
        if (test::sampleAt(picture, 0, x, y) > 128) {
          if (found.first < 0) found.first = x;
          found.second = x;
        }
    return found;
  }
  TempFolder folder;
  std::unique_ptr<Evaluator> evaluator;
};

TEST_F(TitleInserted, StandsAtItsPlaceWhileItLasts) {
  const double rate = evaluator->feed().footage().clock().rate().toDouble();
  const std::string times = "text=HHH,starts-at=" + exactText(10 / rate) + "s,to=" + exactText(20 / rate) + "s";
  EXPECT_EQ(white(at(times, 9)).first, -1);
  const auto there = white(at(times, 10));
  EXPECT_NEAR(there.first + there.second, 320, 4) << "in the middle";
  EXPECT_EQ(white(at(times, 29)), there);
  EXPECT_EQ(white(at(times, 30)).first, -1);
}

/// It grows from a side, which stays where it is; from nothing.
TEST_F(TitleInserted, GrowsFromASideAndBack) {
  const auto whole = white(at("text=HHH,grows-from=left,at=0.1x0.5", 0));
  EXPECT_NEAR(whole.first, 32, 6);
  const auto half = white(at("text=HHH,grows-from=left,at=0.1x0.5,width=50%", 0));
  EXPECT_NEAR(half.first, 32, 6);
  EXPECT_NEAR(half.second - half.first, (whole.second - whole.first) / 2.0, 4);
  EXPECT_EQ(white(at("text=HHH,grows-from=left,at=0.1x0.5,width=0%", 0)).first, -1);
  const auto right = white(at("text=HHH,grows-from=right,at=0.9x0.5,width=50%", 0));
  EXPECT_NEAR(right.second, 288, 6);
  // Cropped from its right side, what is left stays where it is.
  const auto cropped = white(at("text=HHH,crop-right=50%,grows-from=left,at=0.1x0.5", 0));
  EXPECT_EQ(cropped.first, whole.first);
  EXPECT_NEAR(cropped.second - cropped.first, (whole.second - whole.first) / 2.0, 6);
}

/// What comes after it treats it as a part of the picture.
TEST_F(TitleInserted, IsBentByAFieldAndMovesWithTheTime) {
  const double rate = evaluator->feed().footage().clock().rate().toDouble();
  const std::string second = exactText(20 / rate);
  // It slides across; a field from top to bottom reads it earlier above than below.
  const std::string slides = "insert:shows=title,colour=ffffff,letters=30%,text=H,at=0.1x0.5@0s+0.9x0.5@" + exactText(40 / rate) + "s";
  const Chain chain{*parseStage(slides, 30), *parseStage("time-field:back=" + second + "s,start=0.5x0.3,end=0.5x0.7", 30)};
  const auto picture = evaluator->picture(evaluator->plan(chain, {}), {30}, {});
  ASSERT_TRUE(picture);
  const auto leftmost = [&](int y) {
    for (int x = 0; x < 320; ++x)
      if (test::sampleAt(*picture, 0, x, y) > 128) return x;
    return -1;
  };
  const int above = leftmost(80), below = leftmost(102);
  ASSERT_GE(above, 0);
  ASSERT_GE(below, 0);
  EXPECT_GT(below - above, 20) << "what is read later has come farther";
}

TEST(TitleWords, AreWrittenAndReadAgain) {
  const auto stage = parseStage("insert:shows=title,text=Night\\, shift\\nof \\\\ Ferrowick,letters=20%", 25);
  ASSERT_TRUE(stage) << stage.error().message;
  EXPECT_EQ(valueOf<std::string>(*stage, "text"), "Night, shift\nof \\ Ferrowick");
  EXPECT_EQ(valueOf<double>(*stage, "letters"), 0.2);
  const auto again = parseStage(stageText(*stage), 25);
  ASSERT_TRUE(again);
  EXPECT_EQ(*again, *stage);
}

/// A title in the chain of a blank is that title, and what bends it there leaves the picture below as it is.
TEST_F(TitleInserted, InABlankItHasAChainOfItsOwn) {
  const double rate = evaluator->feed().footage().clock().rate().toDouble();
  const std::string blank = blankPath({{320, 180}, evaluator->feed().footage().clock().rate(), evaluator->feed().footage().video().seconds()});
  const std::string title = "insert:shows=title,colour=ffffff,letters=30%,text=H,at=0.1x0.5@0s+0.9x0.5@" + exactText(40 / rate) + "s";
  const std::string field = "time-field:back=" + exactText(20 / rate) + "s,start=0.5x0.3,end=0.5x0.7";
  const auto made = [&](const std::vector<std::string>& words) {
    auto picture = evaluator->picture(evaluator->plan(chainOf(words), {}), {30}, {});
    EXPECT_TRUE(picture) << (picture ? "" : picture.error().message);
    return picture ? *picture : Picture();
  };
  const Picture itself = made({title}), within = made({"insert:source=" + blank, "insert/" + title});
  for (int y = 0; y < 180; ++y)
    for (int x = 0; x < 320; ++x)
      ASSERT_NEAR(static_cast<int>(test::sampleAt(itself, 0, x, y)), static_cast<int>(test::sampleAt(within, 0, x, y)), 2) << x << " " << y;
  // The action makes that of the title.
  const VideoDescription in = evaluator->feed().footage().video();
  const Stage acted = insert().acted(*parseStage(title, 25), "lay-into-clear-pictures", in);
  ASSERT_EQ(acted.branch.size(), 1u);
  EXPECT_EQ(acted.branch[0], *parseStage(title, 25));
  EXPECT_EQ(insert().acted(acted, "lay-into-clear-pictures", in), acted) << "once is enough";
  EXPECT_TRUE(test::samePicture(*evaluator->picture(evaluator->plan({acted}, {}), {30}, {}), within));
  // Of as many square pixels as it is wide, in words that nothing cuts.
  const VideoDescription wide{{320, 180}, Rational(4, 3), Rational(26777, 1000), 217};
  const std::string clear = valueOf<std::string>(insert().acted(*parseStage(title, 25), "lay-into-clear-pictures", wide), "source");
  EXPECT_EQ(clear, "blank:427x180@26.777:8.104s");
  EXPECT_EQ(parseBlank(clear)->pictures(), 217);
  // Bent with all of a black picture, or by itself: the same.
  const Picture all = made({title, field}), alone = made({"insert:source=" + blank, "insert/" + title, "insert/" + field});
  for (int y = 0; y < 180; ++y)
    for (int x = 0; x < 320; ++x)
      ASSERT_NEAR(static_cast<int>(test::sampleAt(all, 0, x, y)), static_cast<int>(test::sampleAt(alone, 0, x, y)), 2) << x << " " << y;
}

TEST(Blanks, AreFootageOfClearPictures) {
  const auto footage = test::openFootage("blank:33x17@29.97:2.5s");
  ASSERT_TRUE(footage);
  EXPECT_EQ(footage->shape().size, (Size{33, 17}));
  EXPECT_EQ(footage->clock().rate(), Rational(30000, 1001));
  EXPECT_EQ(footage->clock().frameCount(), 75);
  EXPECT_TRUE(footage->shape().format.alpha);
  const auto reader = footage->newReader(1);
  ASSERT_TRUE(reader);
  for (const int n : {74, 0, 31}) {
    const auto picture = (*reader)->read(n, {}, {});
    ASSERT_TRUE(picture);
    for (int p = 0; p < 4; ++p)
      for (int y = 0; y < 17; ++y)
        for (int x = 0; x < 33; ++x) ASSERT_EQ(test::sampleAt(*picture, p, x, y), 0u);
  }
  for (const Blank& blank : {Blank{}, Blank{{1, 16384}, Rational(24000, 1001), Rational(1, 8)}, Blank{{16384, 1}, 60, 86400}})
    EXPECT_EQ(parseBlank(blankPath(blank)), blank) << blankPath(blank);
  for (const char* const off : {"blank:", "blank:320x180", "blank:0x180@25:1s", "blank:320x20000@25:1s", "blank:320x180@0:1s", "blank:320x180@25:0s",
                                "blank:320x180@25:-1s", "blank:320x180@25:1", "blank:320x180@25:86401s", "blank:x@:s", "blank:3 20x180@25:1s", "blank:320x180@2000:1s"}) {
    const auto refused = Footage::open(off, {}, {}, {});
    ASSERT_FALSE(refused) << off;
    EXPECT_NE(refused.error().message.find("blank:1920x1080@25:10s"), std::string::npos) << off;
  }
}

}  // namespace
}  // namespace molten

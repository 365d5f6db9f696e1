// Paths as text: every name of a file comes back as it was, and text is UTF-8.
#include "core/files/path_text.h"

#include "core/near_word.h"

namespace molten {
namespace {

TEST(PathText, ComesBackWhateverBytesItIs) {
  std::mt19937 random(9);
  for (int round = 0; round < 20'000; ++round) {
    std::string path;
    for (unsigned i = 0, count = random() % 12; i < count; ++i)
      path += random() % 3 == 0 ? static_cast<char>(1 + random() % 255) : "ab%:/\xC3\xA9"[random() % 7];
    if (random() % 8 == 0) path = "bytes:" + path;
    const std::string text = pathText(path);
    EXPECT_TRUE(isUtf8(text));
    EXPECT_EQ(pathOfText(text), path);
    if (isUtf8(path) && !path.starts_with("bytes:")) {
      EXPECT_EQ(text, path) << "what is text already stays as it is";
    }
  }
  EXPECT_EQ(pathText("/takes/caf\xE9 5%.mov"), "bytes:/takes/caf%E9 5%25.mov");
}

/// By a slow decoder: each code point written in its shortest form, none of them half of a pair.
TEST(PathText, KnowsUtf8) {
  const auto encoded = [](std::uint32_t c) {
    std::string s;
    if (c < 0x80) return std::string(1, static_cast<char>(c));
    if (c < 0x800) return s += {static_cast<char>(0xc0 | c >> 6), static_cast<char>(0x80 | (c & 63))};
    if (c < 0x10000) return s += {static_cast<char>(0xe0 | c >> 12), static_cast<char>(0x80 | (c >> 6 & 63)), static_cast<char>(0x80 | (c & 63))};
    return s += {static_cast<char>(0xf0 | c >> 18), static_cast<char>(0x80 | (c >> 12 & 63)), static_cast<char>(0x80 | (c >> 6 & 63)), static_cast<char>(0x80 | (c & 63))};
  };
  for (std::uint32_t c = 0; c < 0x110400; c += c < 0x1000 ? 1 : 37) EXPECT_EQ(isUtf8(encoded(c)), c < 0x110000 && (c < 0xd800 || c > 0xdfff)) << c;
  for (const char* wrong : {"\x80", "\xC0\x80", "\xC1\xBF", "\xE0\x80\x80", "\xF0\x80\x80\x80", "\xED\xA0\x80", "\xF5\x80\x80\x80", "\xE2\x82", "a\xFF"}) EXPECT_FALSE(isUtf8(wrong));
}

TEST(NearWord, IsTheOneThatMayBeMeant) {
  const std::vector<std::string> known{"echoes", "time-field", "pace", "strips", "loop"};
  EXPECT_EQ(didYouMean("echos", known), " Did you mean echoes?");
  EXPECT_EQ(didYouMean("ehcoes", known), " Did you mean echoes?");
  EXPECT_EQ(didYouMean("TimeField", known), " Did you mean time-field?");
  EXPECT_EQ(didYouMean("pcae", known), " Did you mean pace?");
  EXPECT_EQ(didYouMean("sharpen", known), "");
  EXPECT_EQ(didYouMean("", known), "");
  EXPECT_EQ(didYouMean(std::string(10'000, 'x'), known), "");
}

}  // namespace
}  // namespace molten

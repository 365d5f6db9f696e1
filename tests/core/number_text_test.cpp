// Numbers in text: as the C library writes and reads them where nothing else is set, in every language.
#include "core/number_text.h"

#include <clocale>
#include <cstdio>
#include <cstring>
#include <limits>
#include <regex>

#include "core/picture/blank.h"
#include "core/project/project.h"
#include "core/time/pace_text.h"
#include "support/clips.h"

namespace molten {
namespace {

namespace fs = std::filesystem;

/// While it stands, numbers of the C library are written as in a language; German, French or Arabic, whichever the system has.
class Language {
 public:
  explicit Language(const std::string& name) : before_(std::setlocale(LC_ALL, nullptr)) {
    // The languages that a system has are listed by few; one is compiled here, from what the package `locales` brings.
    const std::string made = folder_ / (name + ".UTF-8");
    if (std::system(("localedef -i " + name + " -f UTF-8 " + made + " >/dev/null 2>&1").c_str()) < 0) return;
    const char* const path = std::getenv("LOCPATH");
    if (path) pathBefore_ = path;
    setenv("LOCPATH", folder_.path().c_str(), 1);
    spoken_ = std::setlocale(LC_ALL, (name + ".UTF-8").c_str());
  }
  ~Language() {
    std::setlocale(LC_ALL, "C");
    pathBefore_ ? setenv("LOCPATH", pathBefore_->c_str(), 1) : unsetenv("LOCPATH");
    std::setlocale(LC_ALL, before_.c_str());
  }
  bool spoken() const { return spoken_; }

 private:
  test::TempFolder folder_;
  std::string before_;
  std::optional<std::string> pathBefore_;
  bool spoken_ = false;
};

std::string byTheLibrary(const char* format, int precision, double value) {
  char text[500];
  std::snprintf(text, sizeof text, format, precision, value);
  return text;
}

TEST(NumberText, IsWrittenAsTheLibraryDoes) {
  const std::string before = std::setlocale(LC_NUMERIC, nullptr);
  std::setlocale(LC_NUMERIC, "C");
  std::mt19937_64 random(5);
  std::vector<double> values{0, -0.0, 0.5, 1.5, 2.5, 0.125, 1e300, -1e300, 1e-300, 99.995, 0.9999999, std::numeric_limits<double>::max(), std::numeric_limits<double>::denorm_min()};
  for (int i = 0; i < 3000; ++i) {
    double value;
    const std::uint64_t bits = random();
    std::memcpy(&value, &bits, sizeof value);
    values.push_back(std::isfinite(value) ? value : 3);
    values.push_back(static_cast<double>(random() % 2000001) / 1000 - 1000);
  }
  for (const double value : values) {
    for (const int digits : {0, 1, 2, 3, 6}) EXPECT_EQ(fixedText(value, digits), byTheLibrary("%.*f", digits, value));
    for (const int digits : {2, 3, 4, 6, 17}) EXPECT_EQ(shortText(value, digits), byTheLibrary("%.*g", digits, value));
    EXPECT_EQ(readNumber(exactText(value)), value);
    EXPECT_LE(exactText(value).size(), shortText(value, 17).size());
  }
  std::setlocale(LC_NUMERIC, before.c_str());
}

TEST(NumberText, WholeNumbersHaveNoughtsBefore) {
  EXPECT_EQ(paddedText(7, 3), "007");
  EXPECT_EQ(paddedText(-7, 3), "-007");
  EXPECT_EQ(paddedText(12345, 3), "12345");
  EXPECT_EQ(paddedText(0, 1), "0");
  EXPECT_EQ(hexText(0), "0000000000000000");
  EXPECT_EQ(hexText(0xfedcba9876543210), "fedcba9876543210");
}

TEST(NumberText, IsReadWithPointOrComma) {
  EXPECT_EQ(readNumber("1.5"), 1.5);
  EXPECT_EQ(readNumber("1,5"), 1.5);
  EXPECT_EQ(readNumber("+2"), 2);
  EXPECT_EQ(readNumber("-1e-3"), -0.001);
  for (const char* wrong : {"", "1,2,3", "1.2,3", "x", "1 ", " 1", "inf", "nan", "1e999", "0x10", "--1"}) EXPECT_FALSE(readNumber(wrong)) << wrong;
  EXPECT_EQ(readWhole("-12"), -12);
  for (const char* wrong : {"", "1.0", "12a", "99999999999999999999"}) EXPECT_FALSE(readWhole(wrong)) << wrong;
  EXPECT_EQ(parseRate("23,976"), Rational(24000, 1001));
  EXPECT_EQ(parseRate("12,5"), Rational(25, 2));
}

/// What goes into files and lists, by whatever function.
std::vector<std::string> texts() {
  std::vector<std::string> all{blankPath({{64, 48}, Rational(24000, 1001), Rational(5, 2)}), rateText(Rational(24000, 1001)), speedText(Rational(1, 3))};
  for (const StageKind* kind : stageKinds()) {
    const Stage stage = newStage(*kind);
    VideoDescription video;
    video.size = {640, 360};
    video.rate = Rational(30000, 1001);
    video.length = 90;
    for (const StageNote& note : kind->notes(stage.values, video, 25)) all.push_back(note.text);
    all.push_back(kind->summary(stage.values, video));
    all.push_back(stageText(stage));
    for (std::size_t i = 0; i < stage.values.size(); ++i) all.push_back(valueText(kind->description().parameters[i], stage.values[i]));
  }
  return all;
}

TEST(NumberText, IsTheSameInEveryLanguage) {
  const std::vector<std::string> expected = texts();
  for (const char* const name : {"de_DE", "fr_FR", "ar_EG"}) {
    const Language language(name);
    if (!language.spoken()) GTEST_SKIP() << "needs the package locales";
    char comma[8];
    std::snprintf(comma, sizeof comma, "%.1f", 0.5);
    if (std::string_view(name) != "ar_EG") {
      EXPECT_STREQ(comma, "0,5") << "the language has no decimal comma";
    }
    EXPECT_EQ(texts(), expected) << name;
    EXPECT_EQ(parseBlank(expected[0])->rate, Rational(24000, 1001)) << name;
  }
}

/// Whatever formats or reads numbers with a point by the C library, or by streams, does so by the language.
TEST(NumberText, NoOtherFileFormatsNumbers) {
  const std::regex formats(R"re(printf\([^;]*%[-+ #0-9.*]*l?[aefgAEFG]|strto[df]\(|std::sto[dfl]d?\(|\batof\(|scanf\([^;]*%[0-9]*l?[aefg]|[^i]ostringstream|std::stringstream|setprecision|asprintf|toLocaleString|QLocale\(\))re");
  int files = 0;
  for (const auto& entry : fs::recursive_directory_iterator(fs::path(MOLTEN_SOURCE) / "src")) {
    const std::string kind = entry.path().extension();
    if (kind != ".cpp" && kind != ".h") continue;
    ++files;
    std::ifstream in(entry.path());
    const std::string text((std::istreambuf_iterator<char>(in)), {});
    std::smatch found;
    EXPECT_FALSE(std::regex_search(text, found, formats)) << entry.path() << ": " << found.str() << " goes by the language; core/number_text.h does not.";
  }
  EXPECT_GT(files, 500);
}

}  // namespace
}  // namespace molten

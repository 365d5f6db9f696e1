// Stages that move pictures in time, from the command line: which frame each picture of the result is.
#include <cmath>
#include <random>

#include "core/time/past_the_ends.h"
#include "core/number_text.h"
#include "support/clips.h"

namespace molten {
namespace {

using test::TempFolder;

constexpr int frames = 90;
constexpr int rate = 30;

/// A Pace in whole percents and hundredths of a second, as the test reads it.
struct WrittenPace {
  struct Span {
    int length, speed, glide;  // hundredths of a second, percent, hundredths of a second
  };
  int from = 0;  // frames
  std::vector<Span> spans;

  std::string text() const {
    std::string all = "pace:from=" + std::to_string(from) + "f,spans=";
    for (std::size_t i = 0; i < spans.size(); ++i) {
      all += (i ? "+" : "") + fixedText(spans[i].length / 100.0, 2) + "s@" + std::to_string(spans[i].speed) + "%";
      if (i + 1 < spans.size() && spans[i].glide > 0) all += "~" + fixedText(spans[i].glide / 100.0, 2) + "s";
    }
    return all;
  }
  int hundredths() const {
    int sum = 0;
    for (const Span& span : spans) sum += span.length;
    return sum;
  }
  int pictures() const { return std::max(1, (hundredths() * rate + 99) / 100); }

  /// The frame of a moment in pictures, not folded.
  std::int64_t frame(double moment) const {
    return static_cast<std::int64_t>(std::floor(position(moment) + 0.5L + 1e-6L));
  }
  /// In frames, in long double.
  long double position(double moment) const {
    const long double t = 100.0L * moment / rate;
    long double begin = 0, source = 0;  // hundredths, hundredths of percents
    for (std::size_t i = 0; i < spans.size(); ++i) {
      const long double end = begin + spans[i].length;
      const auto glideAt = [&](std::size_t g, long double mark, long double atMark) -> std::optional<long double> {
        if (g + 1 >= spans.size() || spans[g].glide <= 0 || spans[g].speed == spans[g + 1].speed) return std::nullopt;
        const auto glides = [&](std::size_t k) {
          return k + 1 < spans.size() && spans[k].glide > 0 && spans[k].speed != spans[k + 1].speed;
        };
        const long double before = spans[g].length / (g > 0 && glides(g - 1) ? 2.0L : 1.0L),
                          after = spans[g + 1].length / (glides(g + 1) ? 2.0L : 1.0L);
        const long double length = std::min({static_cast<long double>(spans[g].glide), 2 * before, 2 * after});
        const long double u = (t - mark) / length + 0.5L;
        if (u <= 0 || u >= 1) return std::nullopt;
        const long double a = spans[g].speed, b = spans[g + 1].speed;
        return atMark - a * length / 2 + length * (a * u + (b - a) * (u * u * u - u * u * u * u / 2));
      };
      if (t <= end || i + 1 == spans.size()) {
        long double at = source + (t - begin) * spans[i].speed;
        if (const auto glide = glideAt(i, end, source + static_cast<long double>(spans[i].length) * spans[i].speed))
          at = *glide;
        else if (const auto earlier = i > 0 ? glideAt(i - 1, begin, source) : std::nullopt)
          at = *earlier;
        return from + at * rate / 10000;
      }
      source += static_cast<long double>(spans[i].length) * spans[i].speed;
      begin = end;
    }
    return 0;
  }
};

WrittenPace randomPace(std::mt19937& random) {
  const auto within = [&](int a, int b) { return std::uniform_int_distribution<>(a, b)(random); };
  WrittenPace pace;
  pace.from = within(-10, 60);
  for (int i = within(1, 5); i > 0; --i)
    pace.spans.push_back({within(10, 120), within(0, 3) ? within(-300, 300) : 0, within(0, 1) ? within(5, 80) : 0});
  return pace;
}

class MomentsRendered : public ::testing::Test {
 protected:
  static void SetUpTestSuite() {
    folder = new TempFolder;
    test::makeNumberedClip(*folder / "a.mkv", frames, {64, 64}, "-r 30 -c:v ffv1");
  }
  static void TearDownTestSuite() {
    delete folder;
    folder = nullptr;
  }
  /// The numbers that the result's pictures show; −1 for one that is black.
  std::vector<int> numbers(const std::vector<std::string>& stages, const std::string& more = "") {
    std::string words = std::string(MOLTEN_RENDER) + " " + (*folder / "a.mkv") + " --progress none " + more;
    for (const auto& stage : stages) words += " --stage " + stage;
    const auto done = test::runCommand(words + " -o " + (*folder / "out.mkv"));
    EXPECT_EQ(done.exitCode, 0) << done.err << words;
    pictures = test::readAll(*test::openFootage(*folder / "out.mkv"));
    std::vector<int> shown;
    for (const Picture& picture : pictures) {
      const bool clear = picture.shape().format.alpha && test::sampleAt(picture, 3, 5, 5) == 0;
      shown.push_back(clear ? -1 : test::numberShown(picture));
    }
    return shown;
  }
  static TempFolder* folder;
  std::vector<Picture> pictures;
};
TempFolder* MomentsRendered::folder = nullptr;

constexpr const char* pastNames[] = {"stand-still", "turn-back", "go-round", "transparent"};

TEST_F(MomentsRendered, EveryPictureOfAPaceIsTheFormulasFrame) {
  std::mt19937 random(77);
  for (int round = 0; round < 24; ++round) {
    const WrittenPace pace = randomPace(random);
    const auto past = static_cast<PastTheEnds>(round % 4);
    const std::string text = pace.text() + ",past-the-ends=" + pastNames[round % 4];
    const auto shown = numbers({text});
    ASSERT_EQ(static_cast<int>(shown.size()), pace.pictures()) << text;
    for (int n = 0; n < pace.pictures(); ++n)
      ASSERT_EQ(shown[static_cast<std::size_t>(n)], foldFrame(pace.frame(n), frames, past)) << text << " picture " << n;
  }
}

TEST_F(MomentsRendered, PaceThenStepRateThenTimeField) {
  std::mt19937 random(78);
  for (int round = 0; round < 6; ++round) {
    const WrittenPace pace = randomPace(random);
    const int back = 3 + round;
    const std::string field = "time-field:start=0.5x1,end=0.5x0,back=" + std::to_string(back) + "f";
    numbers({pace.text(), "step-rate:rate=7.5", field});
    const int length = pace.pictures();
    ASSERT_EQ(static_cast<int>(pictures.size()), length);
    for (int n = 0; n < length; n += 5)
      for (const int y : {3, 17, 40, 60}) {
        // Upside down: the field is 0 at the lower edge.
        const float f = static_cast<float>((64 - (y + 0.5)) / 64);
        const double moment = std::clamp(n - back + static_cast<double>(f) * back, 0.0, length - 1.0);
        const double stepped = std::floor(moment / 4 + 1e-6) * 4;  // every fourth picture at 7.5 of 30
        const int frame = foldFrame(pace.frame(stepped), frames, PastTheEnds::StandStill);
        for (int block = 0; block < 4; ++block) {
          const int bit = y / 16 * 4 + block;
          ASSERT_EQ(test::sampleAt(pictures[static_cast<std::size_t>(n)], 0, block * 16 + 8, y) > 128,
                    (frame >> bit & 1) == 1)
              << pace.text() << " picture " << n << " row " << y << " should be of " << frame;
        }
      }
  }
}

TEST_F(MomentsRendered, TimeFieldAndPaceInEitherOrder) {
  std::mt19937 random(79);
  for (int round = 0; round < 6; ++round) {
    const WrittenPace pace = randomPace(random);
    const int back = 4 + round;
    const std::string field = "time-field:back=" + std::to_string(back) + "f,past-the-ends=turn-back";
    for (const bool fieldFirst : {true, false}) {
      fieldFirst ? numbers({field, pace.text()}) : numbers({pace.text(), field});
      const int length = pace.pictures();
      ASSERT_EQ(static_cast<int>(pictures.size()), length);
      for (int n = 0; n < length; n += 5)
        for (const int y : {3, 17, 40, 60}) {
          const float f = static_cast<float>((y + 0.5) / 64);
          const double d = -back + static_cast<double>(f) * back;
          // What the one asks of the other is folded as it is, and a frame is chosen once.
          const auto within = [](double at, int count) { return std::clamp(at, 0.0, count - 1.0); };
          const auto turned = [](double at, int count) {
            return at < 0 ? -at : at > count - 1 ? 2 * (count - 1) - at : at;
          };
          const auto nearest = [](double at) { return static_cast<std::int64_t>(std::floor(at + 0.5 + 1e-6)); };
          const double paced = within(static_cast<double>(pace.position(n)), frames) + d;
          if (length == 1 || (length - 1 < back && !fieldFirst)) continue;
          const int frame = fieldFirst ? foldFrame(nearest(paced), frames, PastTheEnds::TurnBack)
                                       : foldFrame(pace.frame(turned(n + d, length)), frames, PastTheEnds::StandStill);
          for (int block = 0; block < 4; ++block) {
            const int bit = y / 16 * 4 + block;
            ASSERT_EQ(test::sampleAt(pictures[static_cast<std::size_t>(n)], 0, block * 16 + 8, y) > 128,
                      (frame >> bit & 1) == 1)
                << pace.text() << (fieldFirst ? " over " : " under ") << field << " picture " << n << " row " << y
                << " should be of " << frame;
          }
        }
    }
  }
}

TEST_F(MomentsRendered, FrameOrderLoopAndTheOutputsOwnRate) {
  EXPECT_EQ(numbers({"frame-order:order=1:4+3:2+4+2-6:2"}),
            (std::vector<int>{1, 1, 1, 1, 3, 3, 4, 2, 2, 3, 3, 4, 4, 5, 5, 6, 6}));
  EXPECT_EQ(numbers({"frame-order:order=3-1", "loop:end-frames=twice"}), (std::vector<int>{3, 2, 1, 1, 2, 3}));
  EXPECT_EQ(numbers({"frame-order:order=3-1", "loop"}, "--length 8f"), (std::vector<int>{3, 2, 1, 2, 3, 2, 1, 2}));
  // 60 % at a rate of 18 is a frame for each picture of 30 fps footage.
  EXPECT_EQ(numbers({"pace:spans=0.5s@60%"}, "--rate 18"), (std::vector<int>{0, 1, 2, 3, 4, 5, 6, 7, 8}));
  EXPECT_EQ(numbers({"step-rate:rate=10,phase=1f"}, "--frames 0-7"), (std::vector<int>{0, 1, 1, 1, 4, 4, 4, 7}));
}

}  // namespace
}  // namespace molten

// How long a render has to go, against pipelines whose end is worked out picture by picture.
#include "core/engine/time_left.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <functional>
#include <random>
#include <vector>

namespace molten {
namespace {

/// Pictures are made one after another, wait for room between maker and encoder, and are encoded one after another; the
/// encoder keeps some back until its group is complete. All in seconds.
struct Pipeline {
  int pictures = 1500;
  std::function<double(int)> making = [](int) { return 0.01; }, encoding = [](int) { return 0.01; };
  int keptBack = 50, group = 120;
  bool lateByOne = false;  ///< the group comes out when the next one begins
  double pause = 0;  ///< after each tenth picture, as while someone plays

  /// By how large a part of what was really left the estimate was off at most, after the first tenth. Of the last moments,
  /// when next to nothing is left, a tenth of the whole counts.
  double worst() const {
    constexpr int room = 3;
    struct Encoded {
      double at, took;
      std::int64_t out;
    };
    std::vector<double> put, taken;
    std::vector<Encoded> encoded;
    double now = 0, paused = 0;
    std::int64_t out = 0;
    std::vector<double> waited;
    // A pause holds the maker; the encoder empties what there is meanwhile.
    for (int k = 0; k < pictures; ++k) {
      now += making(k);
      if (k >= room) now = std::max(now, taken[static_cast<std::size_t>(k - room)]);
      put.push_back(now);
      waited.push_back(paused);
      if (k % 10 == 9) now += pause, paused += pause;
      const double begin = std::max(put.back(), encoded.empty() ? 0.0 : encoded.back().at);
      taken.push_back(begin);
      double took = 0;
      const bool last = (k + 1) % group == 0 || k + 1 == pictures, begins = lateByOne && k % group == 0 && k > 0;
      const int whole = begins ? k : last && (!lateByOne || k + 1 == pictures) ? k + 1 : 0;
      while (out < std::max(whole, k + 1 - keptBack)) took += encoding(static_cast<int>(out++));
      encoded.push_back({begin + took, took, out});
    }
    const double end = encoded.back().at;
    TimeLeft time(pictures);
    std::size_t told = 0;
    double most = 0;
    for (int k = 0; k < pictures; ++k) {
      time.made(making(k));
      const double at = put[static_cast<std::size_t>(k)];
      for (; told < encoded.size() && encoded[told].at <= at; ++told) time.encoded(encoded[told].took, encoded[told].out);
      const auto estimate = time.left(at - waited[static_cast<std::size_t>(k)]);
      if (10 * (k + 1) < pictures) continue;
      if (!estimate) {
        EXPECT_TRUE(told == 0 || encoded[told - 1].out == 0) << "picture " << k << " has come out";
        continue;
      }
      const double left = end - at - (paused - waited[static_cast<std::size_t>(k)]);  // of work
      most = std::max(most, std::abs(*estimate - left) / std::max(left, 0.1 * end));
    }
    return most;
  }
};

std::function<double(int)> always(double seconds) {
  return [seconds](int) { return seconds; };
}

TEST(TimeLeft, IsRightWithinAFifthAfterTheFirstTenth) {
  for (const auto& [making, encoding] : {std::pair{0.02, 0.004}, {0.01, 0.008}, {0.01, 0.01}, {0.008, 0.01}, {0.004, 0.02}}) {
    Pipeline pipeline;
    pipeline.making = always(making), pipeline.encoding = always(encoding);
    EXPECT_LT(pipeline.worst(), 0.2) << making << " to make, " << encoding << " to encode";
    pipeline.lateByOne = true;
    EXPECT_LT(pipeline.worst(), 0.2) << making << " to make, " << encoding << " to encode, given back by the next group";
    pipeline.keptBack = 0, pipeline.lateByOne = false;
    EXPECT_LT(pipeline.worst(), 0.05) << making << " to make, " << encoding << " to encode, none kept back";
  }
}

TEST(TimeLeft, TheFirstPictureMayWaitForFootage) {
  Pipeline pipeline;
  pipeline.making = [](int k) { return k == 0 ? 5.0 : 0.01; };
  pipeline.encoding = always(0.003);
  EXPECT_LT(pipeline.worst(), 0.1);
}

TEST(TimeLeft, CostsThatGoUpAndDownEvenOut) {
  std::mt19937 random(3);
  std::uniform_real_distribution<double> cost(0.002, 0.03);
  std::vector<double> costs;
  for (int k = 0; k < 2000; ++k) costs.push_back(cost(random));
  Pipeline pipeline;
  pipeline.pictures = 2000;
  pipeline.making = [&](int k) { return costs[static_cast<std::size_t>(k)]; };
  pipeline.encoding = always(0.004);
  EXPECT_LT(pipeline.worst(), 0.2);
}

TEST(TimeLeft, PausesAreNoWork) {
  Pipeline pipeline;
  pipeline.pause = 0.5;
  pipeline.encoding = always(0.002);
  EXPECT_LT(pipeline.worst(), 0.2);
}

/// A short clip fits into the encoder as a whole: what it will take is not known before it begins to give back.
TEST(TimeLeft, NothingIsSaidBeforeSomethingHasComeOut) {
  Pipeline pipeline;
  for (const int pictures : {48, 200, 480}) {
    pipeline.pictures = pictures;
    // How long a group's end holds up the making is not known before the first group is over.
    EXPECT_LT(pipeline.worst(), 0.3) << pictures;
  }
}

TEST(TimeLeft, SomethingIsLeftUntilAllHasComeOut) {
  TimeLeft time(3);
  EXPECT_FALSE(time.left(0));
  for (int k = 0; k < 3; ++k) time.made(1);
  EXPECT_FALSE(time.left(3));
  for (const std::int64_t out : {0, 1, 2}) time.encoded(0.5, out);
  EXPECT_GT(time.left(4), 0) << "one is still in the encoder";
}

}  // namespace
}  // namespace molten

// Renders' frames: only what is still to be read, in any budget, the same pictures.
#include "core/engine/forward_feed.h"

#include <random>

#include "core/engine/evaluator.h"
#include "core/project/project.h"
#include "support/clips.h"

namespace molten {
namespace {

using test::TempFolder;

struct Made {
  std::vector<Picture> pictures;
  std::size_t mostBytes = 0;
  std::uint64_t decoded = 0;
  int places = 0;
};

Made makeAll(const std::shared_ptr<const Footage>& footage, const ChainPlan& plan, const ForwardFeed::Moments& moments,
             std::int64_t count, std::size_t bytes) {
  Made made;
  const auto budget = std::make_shared<MemoryBudget>(bytes);
  {
    ForwardFeed feed(footage, plan, moments, count, budget, 2);
    made.places = feed.places();
    for (std::int64_t k = 0; k < count; ++k) {
      auto table = feed.take(k, {});
      if (!table) {
        ADD_FAILURE() << table.error().message;
        break;
      }
      made.pictures.push_back(assembled(plan, plan.gathering(moments(k)), *table));
      made.mostBytes = std::max(made.mostBytes, budget->used());
      feed.done(k);
    }
    made.decoded = feed.decoded();
  }
  EXPECT_EQ(budget->used(), 0u);
  return made;
}

TEST(ForwardFeed, EveryBudgetGivesTheEvaluatorsPictures) {
  const TempFolder folder;
  test::makeNoiseClip(folder / "a.mp4", 90, {300, 200}, "yuv420p", "-c:v libx264 -preset ultrafast -qp 0 -g 12 -bf 2");
  const auto footage = test::openFootage(folder / "a.mp4");
  const std::size_t frame = footage->shape().bytes();
  Evaluator evaluator(std::make_shared<FrameFeed>(footage, frame * 200, 2), 2);
  int severalPlaces = 0;
  using Case = std::pair<const char*, InBetween>;
  for (const auto& [chain, between] :
       {Case{"time-field:back=3s", InBetween::Whole},
        Case{"time-field:back=2.8s,start=0x0.5,end=1x0.4,past-the-ends=turn-back", InBetween::Mixed},
        Case{"time-field:back=0.8s,ahead=0.6s,start=0x0,end=1x1,past-the-ends=go-round", InBetween::Whole},
        Case{"time-field:back=0.7s,past-the-ends=transparent", InBetween::Whole},
        Case{"time-field:back=1s,start=0.2x0,end=0.7x1", InBetween::Flow}}) {
    const Rational rate = footage->clock().rate();
    const PicturePlan plan = evaluator.plan({*parseStage(chain, rate)}, {1, between});
    for (const Rational outputRate : {rate, rate * Rational(2, 5), rate * Rational(5, 3)}) {
      const auto moments = [&](std::int64_t k) {
        return Moment::at(Rational(60) / rate + Rational(k) / outputRate, rate);
      };
      const std::int64_t count = 24;
      for (const std::size_t bytes : {frame * 200, frame * 48}) {
        const Made made = makeAll(footage, plan.gather(), moments, count, bytes);
        severalPlaces += made.places > 1;
        ASSERT_EQ(made.pictures.size(), static_cast<std::size_t>(count));
        for (std::int64_t k = 0; k < count; k += 5)
          EXPECT_TRUE(
              test::samePicture(made.pictures[static_cast<std::size_t>(k)], *evaluator.picture(plan, moments(k), {})))
              << chain << " at " << rateText(outputRate) << ", picture " << k;
      }
    }
  }
  EXPECT_GE(severalPlaces, 3);
}

TEST(ForwardFeed, HoldsWhatIsStillToBeReadAndDecodesOnce) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mp4", 150, {512, 384}, "-c:v libx264 -g 30 -bf 2");
  const auto footage = test::openFootage(folder / "a.mp4");
  const Rational rate = footage->clock().rate();
  const ChainPlan plan({*parseStage("time-field:back=4s", rate)},
                       {footage->shape(), footage->clock(), footage->video()});
  const auto moments = [&](std::int64_t k) { return Moment{k, 0}; };
  const Made made = makeAll(footage, plan, moments, 150, std::size_t(1) << 30);
  EXPECT_EQ(made.places, 1);
  EXPECT_EQ(made.decoded, 150u);
  // On average a pixel waits for half of the reach.
  const std::size_t waits = static_cast<std::size_t>(4 * rate.toDouble() / 2) * plan.layout().frameBytes();
  EXPECT_LT(made.mostBytes, waits * 13 / 10);
  // With less, at several places: each of them goes through the clip once, with a little to spare.
  const Made small = makeAll(footage, plan, moments, 150, plan.layout().frameBytes() * 56);
  EXPECT_GT(small.places, 1);
  EXPECT_LT(small.decoded, static_cast<std::uint64_t>(small.places) * 170);
  EXPECT_LT(small.mostBytes, plan.layout().frameBytes() * 56);
}

TEST(ForwardFeed, StopsAtOnceAndSaysWhatIsMissing) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mp4", 60, {128, 96}, "-c:v libx264");
  const auto footage = test::openFootage(folder / "a.mp4");
  const ChainPlan plan({}, {footage->shape(), footage->clock(), footage->video()});
  const auto budget = std::make_shared<MemoryBudget>(std::size_t(1) << 26);
  const auto moments = [](std::int64_t k) { return Moment{k, 0}; };
  {
    ForwardFeed feed(footage, plan, moments, 60, budget, 1);
    std::stop_source stop;
    stop.request_stop();
    const auto table = feed.take(59, stop.get_token());
    ASSERT_FALSE(table);
    EXPECT_TRUE(table.error().cancelled);
  }
  std::filesystem::remove(folder / "a.mp4");
  ForwardFeed feed(footage, plan, moments, 60, budget, 1);
  const auto table = feed.take(0, {});
  ASSERT_FALSE(table);
  EXPECT_NE(table.error().message.find("There is no file a.mp4"), std::string::npos);
}

}  // namespace
}  // namespace molten

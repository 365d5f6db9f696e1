// The budget of memory: whoever can make room is asked to, all of them, for as long as they live.
#include "core/memory_budget.h"

namespace molten {
namespace {

TEST(MemoryBudget, AsksEveryoneWhoCanMakeRoom) {
  const auto whole = std::make_shared<MemoryBudget>(1000);
  int first = 0, second = 0;
  std::optional<MemoryBudget::RoomMaker> one, other;
  one.emplace(*whole, [&] { ++first; });
  other.emplace(*whole, [&] { ++second; });
  auto part = MemoryBudget::part(whole, 100);
  EXPECT_EQ(first, 1);
  EXPECT_EQ(second, 1);
  one.reset();
  auto another = MemoryBudget::part(whole, 100);
  EXPECT_EQ(first, 1) << "it is gone";
  EXPECT_EQ(second, 2) << "that the first one went takes nothing from the second";
  other.reset();
  part.reset(), another.reset();
  EXPECT_EQ(whole->used(), 0u);
}

}  // namespace
}  // namespace molten

// What pictures let go is used again, and what is not goes back.
#include <gtest/gtest.h>
#include <malloc.h>

#include <cstring>
#include <vector>

#include "core/picture/picture.h"
#include "core/picture/picture_memory.h"

namespace molten {
namespace {

constexpr std::size_t mega = std::size_t(1) << 20;

TEST(PictureMemory, BeginsWhereRowsBeginAndIsOnesOwn) {
  std::vector<std::shared_ptr<void>> all;
  for (std::size_t bytes : {std::size_t(1), std::size_t(63), 64 * mega / 1024, 3 * mega, 3 * mega, 80 * mega}) {
    all.push_back(pictureMemory(bytes));
    EXPECT_EQ(reinterpret_cast<std::uintptr_t>(all.back().get()) % rowAlignment, 0u);
    std::memset(all.back().get(), static_cast<int>(all.size()), bytes);
  }
  EXPECT_NE(all[3].get(), all[4].get());
  EXPECT_EQ(static_cast<const std::uint8_t*>(all[3].get())[3 * mega - 1], 4);
}

#ifndef MOLTEN_SANITIZED
TEST(PictureMemory, ThatWasLetGoIsTakenByTheNextOfThatSize) {
  const void* first = nullptr;
  {
    const auto one = pictureMemory(5 * mega);
    first = one.get();
  }
  const auto smaller = pictureMemory(5 * mega - 1);
  EXPECT_NE(smaller.get(), first);
  EXPECT_EQ(pictureMemory(5 * mega).get(), first);
}

TEST(PictureMemory, OfThousandsOfSizesGoesBackButForSixtyFourMegabytes) {
  const auto inUse = [] {
    const struct mallinfo2 all = mallinfo2();
    return all.uordblks + all.hblkhd;
  };
  const std::size_t before = inUse();
  for (std::size_t round = 0; round < 40; ++round) {
    std::vector<std::shared_ptr<void>> together;
    for (std::size_t i = 0; i < 50; ++i) together.push_back(pictureMemory(mega + 4096 * (50 * round + i)));
  }
  EXPECT_LE(inUse(), before + 65 * mega);
}
#endif

}  // namespace
}  // namespace molten

#include "core/engine/tile_store.h"

#include <sys/mman.h>

#include <algorithm>
#include <new>

namespace molten {
namespace {

constexpr std::size_t hugePage = std::size_t(1) << 21;

std::size_t pagesFor(std::size_t bytes) {
  return (bytes + hugePage - 1) / hugePage * hugePage;
}

}  // namespace

TileStore::TileStore(const FrameLayout& layout)
    : layout_(layout),
      slabBytes_(pagesFor(layout.tileBytes() > hugePage / 16 ? layout.tileBytes() * 4 : hugePage)),
      tilesPerSlab_(slabBytes_ / layout.tileBytes()) {}

TileStore::~TileStore() {
  for (Slab& slab : slabs_)
    if (slab.memory) close(slab);
}

void TileStore::open(Slab& slab) {
  const std::size_t bytes = slabBytes_ + hugePage;
  void* const mapped = mmap(nullptr, bytes, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0);
  if (mapped == MAP_FAILED) throw std::bad_alloc();
  slab.mapped = static_cast<std::uint8_t*>(mapped);
  const auto address = reinterpret_cast<std::uintptr_t>(mapped);
  slab.memory = slab.mapped + (pagesFor(address) - address);
  madvise(slab.memory, slabBytes_, MADV_HUGEPAGE);
  slab.free.resize(tilesPerSlab_);
  for (std::size_t i = 0; i < tilesPerSlab_; ++i) slab.free[i] = static_cast<std::uint16_t>(tilesPerSlab_ - 1 - i);
}

void TileStore::close(Slab& slab) {
  munmap(slab.mapped, slabBytes_ + hugePage);
  slab.memory = slab.mapped = nullptr;
  slab.free.clear();
}

void TileStore::take(std::span<std::uint8_t*> tiles, const std::vector<bool>& wanted) {
  const std::scoped_lock lock(mutex_);
  for (std::size_t t = 0; t < tiles.size(); ++t) {
    if (tiles[t] || (!wanted.empty() && !wanted[t])) continue;
    while (firstWithRoom_ < slabs_.size() && slabs_[firstWithRoom_].memory && slabs_[firstWithRoom_].free.empty())
      ++firstWithRoom_;
    if (firstWithRoom_ == slabs_.size()) slabs_.emplace_back();
    Slab& slab = slabs_[firstWithRoom_];
    if (!slab.memory) open(slab);
    tiles[t] = slab.memory + slab.free.back() * layout_.tileBytes();
    slab.free.pop_back();
  }
}

void TileStore::giveBack(std::span<std::uint8_t*> tiles) {
  const std::scoped_lock lock(mutex_);
  std::size_t index = 0;  // of the slab; a frame's tiles mostly share one
  for (std::uint8_t*& tile : tiles) {
    if (!tile) continue;
    const auto holds = [&](const Slab& s) { return s.memory && tile >= s.memory && tile < s.memory + slabBytes_; };
    if (!holds(slabs_[index]))
      index = static_cast<std::size_t>(std::find_if(slabs_.begin(), slabs_.end(), holds) - slabs_.begin());
    Slab& slab = slabs_[index];
    slab.free.push_back(static_cast<std::uint16_t>(static_cast<std::size_t>(tile - slab.memory) / layout_.tileBytes()));
    tile = nullptr;
    firstWithRoom_ = std::min(firstWithRoom_, index);
    if (slab.free.size() < tilesPerSlab_) continue;
    // One empty slab stays, so that frames that come and go do not have the system clear pages without end.
    if (spare_ < slabs_.size() && spare_ != index && slabs_[spare_].free.size() == tilesPerSlab_)
      close(slab);
    else
      spare_ = index;
  }
}

int StoredFrame::keep(const Picture& picture, const std::vector<bool>& wanted) {
  std::vector<std::uint8_t*> before = tiles_;
  store_->take(tiles_, wanted);
  int kept = 0;
  for (std::size_t t = 0; t < tiles_.size(); ++t) {
    if (tiles_[t] == before[t]) continue;
    for (int p = 0; p < picture.format().planes(); ++p)
      layout().toPart(picture, static_cast<int>(t), p, tiles_[t] + layout().plane(p).offset);
    ++kept;
  }
  return kept;
}

std::size_t StoredFrame::bytes() const {
  const auto held = std::count_if(tiles_.begin(), tiles_.end(), [](const auto* tile) { return tile != nullptr; });
  return static_cast<std::size_t>(held) * layout().tileBytes();
}

Picture StoredFrame::picture() const {
  Picture out(layout().shape());
  for (int t = 0; t < layout().tiles(); ++t)
    for (int p = 0; p < out.format().planes(); ++p) layout().fromPart(tile(t) + layout().plane(p).offset, t, p, out);
  return out;
}

}  // namespace molten

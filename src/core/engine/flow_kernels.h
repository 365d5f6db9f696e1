#pragma once
// Samples made along the motion, a row at once. Results are the same to the bit on every processor.

#include <array>
#include <cstdint>
#include <span>

namespace molten {

constexpr int flowSpare = 16;  ///< floats or numbers past the end of a row that kernels read

/// What lies around a box of a plane, row after row.
template <class Sample>
struct PatchView {
  const Sample* samples = nullptr;  ///< of the place (left, top); up to 64 bytes after the last one may be read
  int stride = 0, left = 0, top = 0;
};

/// Consecutive samples of a row, somewhere between two frames.
struct FlowRun {
  int x = 0, y = 0, count = 0;
  const float* part = nullptr;           ///< of the way from the earlier frame to the later one, 0…1, a sample each
  std::array<const float*, 6> cells{};   ///< along the row, in samples: u across and down, v likewise, uOff, vOff; with spare
  const std::int32_t* cell = nullptr;    ///< that each sample lies at or after; rising
  const float* along = nullptr;          ///< how far each is from there to the next cell, 0…1
  float same = 0;                           ///< motions that differ by less are one
  float trusted = 1;                        ///< up to here there is no doubt; from three times that on nothing is believed
  float most = 255;                         ///< the largest sample
};

/// As FlowMix says. Motions must not lead out of the patches by more than they hold.
void mixAlongFlow(const FlowRun& run, const PatchView<std::uint8_t>& earlier, const PatchView<std::uint8_t>& later,
                  std::uint8_t* out);
void mixAlongFlow(const FlowRun& run, const PatchView<std::uint16_t>& earlier, const PatchView<std::uint16_t>& later,
                  std::uint16_t* out);
void mixAlongFlow(const FlowRun& run, const PatchView<float>& earlier, const PatchView<float>& later, float* out);

/// A flow's vectors (x, y in 1/16 pixel) on its cells.
struct FlowCells {
  const std::int16_t *forward = nullptr, *backward = nullptr;
  int across = 0, down = 0;
  float cell = 1;
};
/// Both opinions at places of a row, six floats each as in FlowOpinions; `parts`: of the way.
void opinionsOfRow(const FlowCells& cells, const float* xs, float y, const float* parts, int count, float* out);

}  // namespace molten

#pragma once
// Samples made along the motion, a row at once. Results are the same to the bit on every processor.

#include <array>
#include <cstdint>
#include <span>

namespace molten {

/// What lies around a box of a plane, row after row.
template <class Sample>
struct PatchView {
  const Sample* samples = nullptr;  ///< of the place (left, top); up to 64 bytes after the last one may be read
  int stride = 0, left = 0, top = 0;
};

/// Consecutive samples of a row, somewhere between two frames.
struct FlowRun {
  int x = 0, y = 0, count = 0;
  const float* part = nullptr;              ///< of the way from the earlier frame to the later one, 0…1, a sample each
  std::array<const float*, 6> opinions{};   ///< likewise, in samples: u across and down, v likewise, uOff, vOff
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

/// A row of cells, six floats each as in FlowOpinions, spread to columns: those from firstColumns[i] on lie between cell i
/// and the next one, the part along[column] of the way; the last entry is the end. Nothing is spread between two cells that
/// stand still. Up to seven floats past the end are written.
void spreadOpinions(const float* cells, std::span<const int> firstColumns, const float* along,
                    const std::array<float*, 6>& out);

/// A flow's vectors (x, y in 1/16 pixel) on its cells.
struct FlowCells {
  const std::int16_t *forward = nullptr, *backward = nullptr;
  int across = 0, down = 0;
  float cell = 1;
};
/// opinionsAt() for places of a row, six floats each as in FlowOpinions.
void opinionsOfRow(const FlowCells& cells, const float* xs, float y, const float* parts, int count, float* out);

}  // namespace molten

#pragma once
// Pictures between two frames, along the motion from one to the other.

#include <optional>
#include <span>

#include "core/engine/gathering.h"
#include "core/engine/plane_patch.h"

namespace molten {

/// A picture that lies between two neighbouring frames, both of them there.
struct EvenPair {
  std::int32_t first, second;
  std::uint32_t weight;  ///< of the second, in 1/65536
};

/// Makes what a program reads between frames. `frameOf`: the frame of the footage for a number of the program, or
/// noFrame.
///
/// For a pixel that lies the part t between frames A and B: let u be the motion at the place from which it comes in A,
/// u = forward(x − t·u), and v the motion back from where it goes in B, v = backward(x − (1 − t)·v), each found by
/// fixed-point steps on the flow's cells and straight between them. That gives two opinions,
///   p = (1 − t)·A(x − t·u) + t·B(x + (1 − t)·u)   and   q = (1 − t)·A(x + t·v) + t·B(x − (1 − t)·v),
/// weighed by how alike their two samples are; where the way there and the way back disagree, by the disagreement, the
/// plain mix takes over. Where nothing moves it is the plain mix. At a cut the nearer frame is taken; frames that are
/// not neighbours are mixed.
class FlowMix {
 public:
  FlowMix(const GatherProgram& program, const FrameLayout& layout, const PictureShape& made, const FrameTable& table,
          Gathering::Meaning frameOf);
  /// Of a picture all of which lies at one place between two frames of the shape that is made.
  FlowMix(const EvenPair& pair, const FrameLayout& layout, const PictureShape& made, const FrameTable& table);

  /// Rows of tiles [from, to) of a plane: the pixels all of whose frames are in the table. For several threads.
  void assemble(Picture& out, int plane, int from, int to) const;
  /// Likewise of a picture at one place: the rows of a plane from row · evenDown on. No layout's tiles bind it, and what
  /// lies around a box is read for many.
  static constexpr int evenDown = 64;
  void assembleEven(Picture& out, int plane, int row) const;

 private:
  static constexpr int evenAcross = 512;
  template <class Sample>
  class Tile;
  template <class... Words>
  void makeTile(Picture& out, Words... words) const;
  bool madeAlpha(int plane) const;  ///< an alpha that the frames have not
  PlaneBox tileBox(int plane, int tile) const;

  const GatherProgram* program_ = nullptr;  ///< none: `even_` is all of it
  std::optional<EvenPair> even_;
  const FrameLayout& layout_;
  PictureShape made_;
  const FrameTable& table_;
  Gathering::Meaning frameOf_;
};

}  // namespace molten

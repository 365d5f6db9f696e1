#pragma once
// A render in pieces, in a folder that several processes, on several machines, may work in at the same time: `project.molten` is
// the project as it was when the render was asked for, `pieces.json` says which pieces there are to be, and what of, and each piece is
// a file that appears when it is whole.

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/engine/render_job.h"

namespace molten {

/// A K-th of N: numbers from 1.
struct Share {
  std::int64_t number = 1, of = 1;
};

/// The usual folder for the pieces of a result: hidden, beside it, on the same disk.
std::string piecesBeside(const std::string& output);

class PieceFolder {
 public:
  /// Makes the folder, for a render with these settings; its file, codec and size are those of the project's output. One that is
  /// there for the very same is taken as it is; where only the list is missing, the pieces of this render are used. Fails with a sentence: if it holds pieces of another, if such a render is not made in
  /// pieces, or if it cannot be done at all.
  static Result<PieceFolder> make(const std::string& folder, const RenderSettings& settings);
  /// One that is there. Fails with a sentence if it is none, or if what the pieces are made of, or the program, has changed since.
  static Result<PieceFolder> open(const std::string& folder);

  /// Whether a folder holds the pieces of a render with other settings. False where that cannot be told, and where the settings are
  /// the same but files, or the program, have changed since: those pieces are the user's to remove.
  static bool isOfAnother(const std::string& folder, const RenderSettings& settings);
  /// Whether any piece is there, of whatever render.
  static bool holdsPieces(const std::string& folder);
  /// Whether it tells of pieces at all.
  static bool isThere(const std::string& folder);

  const std::string& folder() const { return folder_; }
  const Project& project() const { return project_; }
  /// All pieces, in order.
  const std::vector<PieceSpan>& pieces() const { return pieces_; }
  std::int64_t pictures() const { return pieces_.back().last + 1; }
  /// Where a piece stands, once it is whole.
  std::string pathOf(const PieceSpan& piece) const;
  /// Those of a share that are not there yet. Neighbours belong to the same share.
  std::vector<PieceSpan> missing(Share share = {}) const;

  /// Makes what is missing of a share.
  Result<std::vector<std::string>> work(Share share, const RenderSettings& machine,
                                        const std::function<void(const RenderProgress&)>& progress, std::stop_token stop) const;
  /// All pieces as one file: the one that was asked for, or another of the same kind. Fails with a sentence that names what is missing.
  Result<RenderOutline> join(const std::string& output, const RenderSettings& machine,
                             const std::function<void(const RenderProgress&)>& progress, std::stop_token stop) const;
  /// The pieces and all else that make() wrote go, and the folder, if nothing else is in it. Nothing where it is none.
  static void discard(const std::string& folder);

 private:
  PieceRun run(std::vector<PieceSpan> spans) const;
  /// `machine`: memory, threads and, if it is open already, the footage.
  Result<RenderSettings> settings(const RenderSettings& machine, std::stop_token stop) const;

  std::string folder_, key_;
  Project project_;
  Span wished_;  ///< pictures of the result, as they were asked for
  SoundWish sound_ = SoundWish::Mix;
  std::vector<PieceSpan> pieces_;
};

}  // namespace molten

#pragma once
// What one picture is gathered from: which frames its samples read, and how.

#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "core/engine/frame_table.h"
#include "core/engine/gather_program.h"

namespace molten {

/// A program at a moment. Programs serve many moments by numbers that mean other frames at each.
class Gathering {
 public:
  /// The frame of the source that a number of the program means, or noFrame.
  using Meaning = std::function<std::int32_t(std::int32_t number)>;
  /// `only`: the frame that the picture is, sample for sample, if it is one.
  Gathering(std::shared_ptr<const GatherProgram> program, Meaning meaning, std::optional<std::int32_t> only);

  const GatherProgram& program() const { return *program_; }
  const std::shared_ptr<const GatherProgram>& programPointer() const { return program_; }
  const Meaning& meaning() const { return meaning_; }
  /// The frames that are read; rising, no repeats.
  const std::vector<std::int32_t>& frames() const { return frames_; }
  std::optional<std::int32_t> onlyFrame() const { return only_; }
  /// The program's frames out of a table. Frames that the table lacks come later, in another lot.
  FrameLookup lookUp(const FrameTable& table) const;

 private:
  std::shared_ptr<const GatherProgram> program_;
  Meaning meaning_;
  std::optional<std::int32_t> only_;
  std::vector<std::int32_t> frames_;
};

}  // namespace molten

#pragma once
// Numbered stills as footage: `name-%05d.png`, or a folder of pictures.

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/media/frame_reader.h"
#include "core/media/video_reader.h"

namespace molten {

/// One path a frame, from the lowest number to the highest; where a number is missing, the still before it stands in.
struct StillsList {
  std::vector<std::string> paths;
  std::vector<std::optional<FileStamp>> stamps;  ///< of each, when they were listed
  int missing = 0;                               ///< numbers without a file
};

/// Where in a path its number stands: the first `%05d`, or the like, of its file's name.
struct NumberPlace {
  std::size_t begin = 0, end = 0;  ///< of the characters that the number takes the place of
  std::string digits;              ///< `05`
};
/// None if it has none.
std::optional<NumberPlace> numberPlace(const std::string& path);
/// True for `…%05d…` and the like.
inline bool isStillsPattern(const std::string& path) {
  return numberPlace(path).has_value();
}

/// The stills that a pattern or a folder names; in a folder, the pictures in the order of the numbers in their names.
/// True if a file of this path is one of the numbered stills of a pattern or a folder, or would become one.
bool isAmongStills(const std::string& path, const std::string& where);
Result<StillsList> listStills(const std::string& patternOrFolder);

class StillsReader : public FrameReader {
 public:
  /// `target`: found from the first still; the others take its shape.
  StillsReader(std::shared_ptr<const StillsList> stills, const ImportTarget& target,
               std::shared_ptr<FrameFaults> faults)
      : stills_(std::move(stills)), importer_(target), faults_(std::move(faults)) {}
  Result<Picture> read(std::int32_t n, const FrameSink& sink, std::stop_token stop) override;
  bool staysFor(std::int32_t) const override { return true; }
  std::int32_t distanceTo(std::int32_t) const override { return 1; }

 private:
  std::shared_ptr<const StillsList> stills_;
  FrameImporter importer_;
  std::shared_ptr<FrameFaults> faults_;
};

}  // namespace molten

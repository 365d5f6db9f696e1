// Lists of shots: OpenTimelineIO, edit lists, lists of frames.
#include "core/project/edl.h"
#include "core/project/frame_list.h"
#include "core/project/otio.h"
#include "fuzz/text.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  using namespace molten;
  const std::string text = fuzz::textOf(bytes, count);
  std::vector<std::string> lost;
  for (const auto& list : {parseOtio(text, "/films", lost), parseEdl(text, 25, "/films", lost), parseFrameList(text, "/films")}) {
    if (!list) continue;
    fuzz::require(shotCount(projectOf(*list)) == list->clips.size());
    // What is written of it has as many clips, where they are such as can be read.
    const auto again = parseOtio(otioText(*list), "/films", lost);
    fuzz::require(!again || again->clips.size() == list->clips.size());
    edlText(*list, lost);
  }
  return 0;
}

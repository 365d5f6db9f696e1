#include "core/project/paintings.h"

#include <filesystem>

#include "core/media/av_handles.h"
#include "core/media/painting_file.h"

namespace molten {
namespace {

template <class Visit>
void eachPainting(Chain& chain, Visit visit) {
  for (Stage& stage : chain)
    for (ParameterValue& value : stage.values)
      if (auto* painting = std::get_if<Painting>(&value)) visit(*painting);
}

}  // namespace

Status readPaintings(Chain& chain) {
  Status done;
  eachPainting(chain, [&](Painting& painting) {
    if (painting.picture || painting.file.empty()) return;
    auto read = readPainting(painting.file);
    if (read)
      painting.picture = std::move(*read);
    else if (done)
      done = Error{"The painting " + fileName(painting.file) + " cannot be read: " + read.error().message};
  });
  return done;
}

Status writePaintings(const std::vector<Chain*>& chains, const std::string& path) {
  const std::filesystem::path project(path);
  Status done;
  int number = 0;
  for (Chain* chain : chains)
    eachPainting(*chain, [&](Painting& painting) {
      if (!painting.picture || !done) return;
      const std::string name = project.stem().string() + "-painted-" + std::to_string(++number) + ".png";
      painting.file = (project.parent_path() / name).string();
      done = writePainting(*painting.picture, painting.file);
    });
  return done;
}

}  // namespace molten

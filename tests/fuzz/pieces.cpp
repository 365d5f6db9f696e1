// Renders in pieces: pieces, their lists, and the list of renders. The first byte says which.
#include <filesystem>

#include "core/engine/piece_folder.h"
#include "core/engine/render_store.h"
#include "core/media/piece_file.h"
#include "fuzz/text.h"

extern "C" {
#include <libavutil/crc.h>
}

namespace {

using namespace molten;

/// Behind a head and before a sum that are right, since else nothing of it would be read.
void piece(const std::string& packets) {
  std::string bytes("molten piece 1\n\1\0\0\0k\0\0\0\0\0\0\0\0", 28);
  bytes += packets;
  const std::uint32_t sum = av_crc(av_crc_get_table(AV_CRC_32_IEEE_LE), 0, reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size());
  bytes.append(reinterpret_cast<const char*>(&sum), sizeof sum);
  auto file = PieceFile::open(fuzz::fileOf(reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size(), "a.molten-piece"), "k");
  fuzz::require(static_cast<bool>(file));
  const auto packet = newPacket();
  for (auto more = file->next(*packet); more && *more; more = file->next(*packet)) fuzz::require(packet->size >= 0);
}

void inFolder(const std::string& folder, const char* name, const std::string& text) {
  std::filesystem::create_directories(folder);
  std::ofstream(folder + "/" + name, std::ios::binary | std::ios::trunc) << text;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  if (count == 0) return 0;
  const std::string text = fuzz::textOf(bytes + 1, count - 1), place = "/dev/shm/molten-fuzz-pieces";
  if (bytes[0] == 'p') piece(text);
  if (bytes[0] == 'l') {
    inFolder(place, "project.molten", "{}");
    inFolder(place, "pieces.json", text);
    (void)static_cast<bool>(PieceFolder::open(place));
  }
  if (bytes[0] == 'r') {
    inFolder(place + "-list/1", "render.json", text);
    RenderStore store(place + "-list");
    for (const StoredRender& one : store.all()) {
      // What was read is written again as the same.
      fuzz::require(static_cast<bool>(store.change(one.id, [](StoredRender&) {})));
      const auto again = store.all();
      fuzz::require(again.size() == 1 && again[0].state == one.state && again[0].path() == one.path() && again[0].order == one.order);
    }
  }
  return 0;
}

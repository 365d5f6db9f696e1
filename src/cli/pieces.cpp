#include "cli/pieces.h"

#include <cstdio>

#include "cli/reports.h"
#include "core/files/read_file.h"
#include "core/media/picture_writer.h"

namespace molten {
namespace {

RenderSettings machineOf(const Arguments& a) {
  RenderSettings machine;
  machine.memoryBytes = a.memoryBytes;
  machine.threads = a.threads;
  return machine;
}

int makeShare(const Arguments& a, const PieceFolder& folder, const RenderSettings& machine, std::stop_token stop) {
  const auto made = folder.work(*a.piece, machine, [&](const RenderProgress& p) { printProgress(a.progress, p); }, std::move(stop));
  if (!made) {
    if (!made.error().cancelled) return say(Failed, made.error());
    std::fprintf(stderr, "molten-render: Stopped. Pieces that are whole stay; the same call goes on with the others.\n");
    return Failed;
  }
  for (const auto& finding : *made) std::fprintf(stderr, "molten-render: %s\n", finding.c_str());
  return a.strict && !made->empty() ? Failed : Done;
}

}  // namespace

int renderInPieces(const Arguments& a, const RenderSettings& settings, std::stop_token stop) {
  const auto folder = PieceFolder::make(a.pieces, settings);
  if (!folder) return say(Failed, folder.error());
  if (a.piece) return makeShare(a, *folder, settings, std::move(stop));
  std::printf("%zu pieces, %lld pictures. Make them with  molten-render --pieces %s --piece K/N  and put them together with  molten-render --join %s\n",
              folder->pieces().size(), static_cast<long long>(folder->pictures()), a.pieces.c_str(), a.pieces.c_str());
  return Done;
}

int makePieces(const Arguments& a, std::stop_token stop) {
  const auto folder = PieceFolder::open(a.pieces);
  if (!folder) return say(Failed, folder.error());
  return makeShare(a, *folder, machineOf(a), std::move(stop));
}

int joinThePieces(const Arguments& a, std::stop_token stop) {
  if (!a.output.empty())
    if (const auto codec = codecAsked(a.output, a.codec, a.quality); !codec) return say(WordsOff, codec.error());
  const auto folder = PieceFolder::open(a.join);
  if (!folder) return say(Failed, folder.error());
  const std::string path = a.output.empty() ? folder->project().output.path : a.output;
  if (a.noOverwrite && identityOf(path)) return say(Failed, {path + " is there already, and --no-overwrite keeps it. Choose another name."});
  const auto joined = folder->join(a.output, machineOf(a), [&](const RenderProgress& p) { printProgress(a.progress, p); }, std::move(stop));
  if (!joined) return say(Failed, joined.error());
  sayOutline(*joined);
  sayReplaced(*joined);
  if (a.clearPieces) PieceFolder::discard(a.join);
  return a.strict && !joined->findings.empty() ? Failed : Done;
}

}  // namespace molten

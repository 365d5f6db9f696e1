#pragma once
// Moving pictures that can only be encoded once all are known: they come without loss, and are encoded anew at the end.

#include "core/media/packet_sink.h"

namespace molten {

/// True of GIF, whose few colours are chosen for all pictures together, and of animated WebP.
bool isRecoded(const CodecDescription& codec);
/// Repeats on and on. Takes packets of the lossless encoder that PictureEncoder makes for such a codec.
Result<std::unique_ptr<PacketSink>> openRecodedFile(const OutputSpec& spec, const OutputPlan& plan);

}  // namespace molten

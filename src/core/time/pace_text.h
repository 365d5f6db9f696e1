#pragma once
// A Pace's spans as text: `2s@100%~0.4s+1.5s@35%+0.5s@0%+2s@-140%`.

#include <string>
#include <string_view>

#include "core/result.h"
#include "core/time/pace_curve.h"

namespace molten {

/// Spans joined by `+`, each length@speed; a glide that follows is `~length`, its bend `~bend%` after that, and
/// `:before` or `:after` where it does not lie around its mark. Lengths take s, ms, f (frames of `rate`); speeds % or a
/// fraction (`1/3`). `whole` is the source as it runs: no spans. Fails with a sentence that says what is wanted.
Result<PaceSpans> parsePaceSpans(std::string_view text, Rational rate);
/// The shortest text that is read back to the same spans.
std::string paceSpansText(const PaceSpans& spans);

/// `35 %`, `−140 %`, `33.33 %`.
std::string speedText(Rational speed);
/// `35%`, `140`, `1/3`: a speed as typed. Nothing if it is none, or over 10 000 %.
std::optional<Rational> parseSpeed(std::string_view text);
/// `1.5s`, `36f`, `1/12s`, `500ms`, a bare number of seconds. Nothing if it is no time.
std::optional<Rational> parseSeconds(std::string_view text, Rational rate);

}  // namespace molten

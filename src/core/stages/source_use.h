#pragma once
// By what sources are known.

#include <compare>
#include <optional>
#include <string>

#include "core/time/frame_clock.h"
#include "core/time/rational.h"

namespace molten {

/// By what a piece of footage is known: what is named alike is opened and decoded once, whatever looks at it.
struct SourceUse {
  std::string path;                              ///< empty: the shot's own footage
  std::optional<Rational> rate = std::nullopt;   ///< of stills, or of footage with a varying rate; none: its own
  friend bool operator==(const SourceUse&, const SourceUse&) = default;
  friend std::strong_ordering operator<=>(const SourceUse& a, const SourceUse& b) {
    if (const auto paths = a.path <=> b.path; paths != 0) return paths;
    const auto known = [](const SourceUse& use) { return use.rate.value_or(Rational(0)); };
    return known(a).num() * known(b).den() <=> known(b).num() * known(a).den();
  }
};

/// The source that a stage reads besides the video that enters, and what is seen between two of its frames.
struct OwnSource {
  SourceUse use;
  InBetween between = InBetween::Whole;
  friend bool operator==(const OwnSource&, const OwnSource&) = default;
};

}  // namespace molten

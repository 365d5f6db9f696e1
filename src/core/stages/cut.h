#pragma once
// A stretch of a video: how a project's in and out stand in a chain. It is not among the stages that are offered.

#include "core/stages/stage.h"

namespace molten {

/// From a moment on, both in seconds, of what enters.
Stage cutOut(Rational from, Rational length);

}  // namespace molten

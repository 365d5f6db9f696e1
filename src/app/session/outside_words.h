#pragma once
// What is said about reading outside of the clip.

#include <QString>

#include "app/session/session.h"

namespace molten {

/// `The first 0.80 s reads before the clip.`; empty where nothing reads outside.
QString outsideSentence(const Session& session);
/// What is shown there: `Stand still: the end frame stands still.`
QString whatHappensThere(PastTheEnds ends);

}  // namespace molten

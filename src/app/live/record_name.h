#pragma once
// Where a recording that is asked for by name goes.

#include <QDateTime>
#include <QString>
#include <QStringList>

#include "core/result.h"

namespace molten {

/// A new .mp4 or .mov: `%t` in the name becomes the time (2026-05-04_21-30-00), and a name that is there, or is one of `taken`, gets
/// a number. Fails with a sentence if no such file can be made.
Result<QString> recordName(QString wanted, const QDateTime& now, const QStringList& taken = {});

}  // namespace molten

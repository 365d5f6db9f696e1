#pragma once
// What a render is for: settings of the form under a name, the program's and the user's own.

#include <QString>
#include <vector>

namespace molten {

struct RenderPreset {
  QString name;      ///< `A loop on a page`
  QString codec;     ///< an id of codecs()
  int quality = -1;  ///< −1: the codec's usual one
  int part = 1;      ///< of the footage's size: 1, a half (2), a quarter (4)
  bool own = false;  ///< the user's, and can be removed
};

/// The program's, then the user's own in the order in which they were kept. What cannot be written here is left out.
std::vector<RenderPreset> renderPresets();
/// In place of the user's own of that name, if there is one.
void keepPreset(RenderPreset preset);
void removePreset(const QString& name);

}  // namespace molten

#pragma once
// A reel as other programs know one: stretches of files, one after another, each at one speed where that can be said.

#include <string>
#include <vector>

#include "core/project/played.h"

namespace molten {

/// A moment of a clip where its speed is none that can be said in one number. In seconds.
struct ListedKey {
  Rational at;      ///< since the clip begins in the list; negative in a dissolve before that
  double source = 0;
  friend bool operator==(const ListedKey&, const ListedKey&) = default;
};

/// Times are in seconds. Of two that dissolve, one ends and the other begins in the middle of that.
struct ListedClip {
  std::string name, path;
  Rational sourceRate = 25;   ///< frames a second
  Rational from;              ///< of the footage, where it begins
  Rational length;            ///< of the list; whole frames of it
  Rational speed = 1;         ///< seconds of the footage in a second: 0 stands still, negative goes backwards
  Rational before = 0, after = 0;  ///< how far it is seen beyond its begin and its end, in dissolves
  std::vector<ListedKey> keys = {};  ///< where it has no one speed: its course; `speed` is then that between its ends
  friend bool operator==(const ListedClip&, const ListedClip&) = default;
};

struct CutList {
  std::string name;
  Rational rate = 25;
  std::vector<ListedClip> clips;
  friend bool operator==(const CutList&, const CutList&) = default;
};

/// From, speed and, where it has none, keys of a clip, by what is seen at each picture of it and of its dissolves: seconds of the
/// footage. Requires one in the clip itself.
void setCourse(ListedClip& clip, const std::vector<double>& seconds, const Rational& picture);
/// What can be listed of a project; `lost` gets a sentence for each thing that cannot. `readings`: as readingsOf() gives them.
CutList cutListOf(const Project& project, const Played& played, const std::vector<std::shared_ptr<const ChainReading>>& readings,
                  const std::string& name, std::vector<std::string>& lost);
/// Shots that show what is listed: a clip at its own speed is trimmed, another one has a Pace.
Project projectOf(const CutList& list);

}  // namespace molten

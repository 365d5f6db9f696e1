#pragma once
// What somebody may have meant who wrote a name slightly wrong.

#include <string>
#include <string_view>
#include <vector>

namespace molten {

/// ` Did you mean echoes?`, of the known name that is nearest; empty where none is near. It is put behind a sentence.
/// Near: at most a third of the letters, but at least one, are missing, too many, other ones, or two neighbours are swapped
/// (optimal string alignment distance).
std::string didYouMean(std::string_view written, const std::vector<std::string>& known);

}  // namespace molten

#include "core/near_word.h"

#include <algorithm>

namespace molten {
namespace {

/// Letters to be changed, put in, taken out, or swapped with their neighbour.
std::size_t distance(std::string_view a, std::string_view b) {
  std::vector<std::vector<std::size_t>> of(a.size() + 1, std::vector<std::size_t>(b.size() + 1));
  for (std::size_t i = 0; i <= a.size(); ++i)
    for (std::size_t k = 0; k <= b.size(); ++k) {
      if (i == 0 || k == 0) {
        of[i][k] = i + k;
        continue;
      }
      of[i][k] = std::min({of[i - 1][k] + 1, of[i][k - 1] + 1, of[i - 1][k - 1] + (a[i - 1] != b[k - 1])});
      if (i > 1 && k > 1 && a[i - 1] == b[k - 2] && a[i - 2] == b[k - 1]) of[i][k] = std::min(of[i][k], of[i - 2][k - 2] + 1);
    }
  return of[a.size()][b.size()];
}

std::string lower(std::string_view text) {
  std::string out(text);
  for (char& c : out)
    if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
  return out;
}

}  // namespace

std::string didYouMean(std::string_view written, const std::vector<std::string>& known) {
  constexpr std::size_t longest = 40;
  if (written.empty() || written.size() > longest) return {};
  const std::string* nearest = nullptr;
  std::size_t least = std::max<std::size_t>(1, written.size() / 3) + 1;
  for (const std::string& one : known)
    if (const std::size_t far = distance(lower(written), lower(one)); far < least) least = far, nearest = &one;
  return nearest ? " Did you mean " + *nearest + "?" : std::string();
}

}  // namespace molten

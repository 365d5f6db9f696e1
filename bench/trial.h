#pragma once
// Programs as a whole, run in pairs.

#include <string>
#include <vector>

namespace molten::bench {

using Words = std::vector<std::string>;

struct Run {
  double seconds = 0;    ///< until it ended
  double processor = 0;  ///< seconds of all cores
  double megabytes = 0;  ///< at most
};

/// Ends the program if the call fails. What it writes goes to `output`.
Run run(const Words& words, const std::string& output = "/dev/null");

/// Least, middle and greatest of some values.
struct Spread {
  double least = 0, middle = 0, most = 0;
};
Spread spreadOf(std::vector<double> values);

/// Two calls, run in turn.
class Pairs {
 public:
  Pairs(const Words& a, const Words& b, int times);
  /// Of a over b.
  Spread processor() const;
  Spread seconds() const;
  double secondsOf(bool first) const;  ///< the middle
  double processorOf(bool first) const;

 private:
  std::vector<Run> a_, b_;
};

}  // namespace molten::bench

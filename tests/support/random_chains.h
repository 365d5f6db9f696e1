#pragma once
// Valid chains of any stages with any values, made from the stages' own descriptions.

#include <random>
#include <string>

#include "core/stages/stage.h"

namespace molten::test {

class RandomChains {
 public:
  /// `pictures`: about as long as the clips are that the chains are for, so that times are worth something.
  RandomChains(unsigned seed, int pictures) : random_(seed), pictures_(pictures) {}

  int within(int least, int most) { return std::uniform_int_distribution<>(least, most)(random_); }
  bool oneIn(int times) { return within(1, times) == 1; }
  double between(double least, double most) { return std::uniform_real_distribution<>(least, most)(random_); }

  /// Files that stages may read as sources of their own; with them those have chains of their own too.
  void offerSources(std::vector<std::string> paths) { sources_ = std::move(paths); }

  Stage stage(const StageKind& kind);
  Drives drives(const ParameterDescription& parameter);
  /// Of any kinds.
  Chain chain(int stages);

 private:
  ParameterValue valueFor(const ParameterDescription& parameter);
  double numberFor(const NumberDescription& number);
  std::mt19937 random_;
  int pictures_;
  std::vector<std::string> sources_;
  bool inBranch_ = false;
};

/// The chain as it is written, for messages.
std::string chainWords(const Chain& chain);

}  // namespace molten::test

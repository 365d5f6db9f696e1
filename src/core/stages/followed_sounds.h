#pragma once
// The sounds that a chain's values may follow.

#include <memory>

#include "core/stages/stage.h"

namespace molten {

/// Of those that are laid beside a chain. Copies are cheap; two are the same where sounds are laid alike.
class FollowedSounds {
 public:
  FollowedSounds() = default;
  explicit FollowedSounds(const Chain& laid) : laid_(std::make_shared<const Chain>(laid)) {}
  /// Counted from 1; nullptr: there is none.
  const Stage* find(std::size_t number) const {
    return laid_ && number >= 1 && number <= laid_->size() ? &(*laid_)[number - 1] : nullptr;
  }
  friend bool operator==(const FollowedSounds& a, const FollowedSounds& b) {
    return a.laid_ == b.laid_ || (a.laid_ && b.laid_ && *a.laid_ == *b.laid_);
  }

 private:
  std::shared_ptr<const Chain> laid_;
};

}  // namespace molten

#pragma once
// Screens that do not go dark.

#include <memory>

namespace molten {

/// Asks the desktop to keep the screen awake for as long as it is told to, where there is one that can be asked.
class Awake {
 public:
  Awake();
  ~Awake() { keep(false); }
  void keep(bool awake);

 private:
  struct Wish;
  std::shared_ptr<Wish> wish_;  ///< shared with an answer that may come later
};

}  // namespace molten

#pragma once
// The threads behind the render queue: one changes the list on disk, one renders what waits there.

#include <condition_variable>
#include <deque>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "core/engine/render_runner.h"

namespace molten {

class QueueHands {
 public:
  struct Asks {
    RunnerTold told;                                  ///< from the rendering thread
    /// From the rendering thread: what is open now is to be given to open(), soon.
    std::function<void()> open;
    /// From either thread, within a catch block; it goes on all the same.
    std::function<void()> thrown;
  };
  QueueHands(std::string folder, Asks asks);
  ~QueueHands();

  /// One after another, on a thread of its own.
  void change(std::function<void(RenderStore&)> act);
  /// Something waits: it is rendered, unless that goes on already.
  void poke();
  /// Footage that is open already, for a render of the list; nullptr: it is not wanted any more.
  void lend(const std::string& id, std::shared_ptr<const Footage> footage);
  void open(std::optional<Project> project);
  void setHeld(bool held);
  void setMemory(std::size_t bytes);
  /// The one of this process that runs is called off, whatever is just being done.
  void interrupt();
  /// Rendering ends now, and does not begin again.
  void stopRendering();

 private:
  void changeAll(const std::stop_token& stop);
  void renderAll(const std::stop_token& stop);
  std::optional<Project> whatIsOpen(const std::stop_token& stop);
  void wake();

  Asks asks_;
  RenderStore store_;
  std::mutex mutex_;
  std::condition_variable_any changed_;
  std::deque<std::function<void(RenderStore&)>> changes_;
  std::map<std::string, std::shared_ptr<const Footage>> lent_;
  std::optional<std::optional<Project>> open_;
  std::optional<std::stop_source> round_;  ///< of what is being rendered just now
  std::size_t memory_ = std::size_t(1) << 30;
  bool held_ = false, poked_ = true;
  std::jthread changing_, rendering_;
};

}  // namespace molten

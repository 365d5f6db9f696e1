#pragma once
// Renders of the list, one after another, each in pieces, so that it goes on where it was.

#include <functional>
#include <optional>
#include <stop_token>
#include <string>

#include "core/engine/render_store.h"

namespace molten {

/// What the work is done with.
struct RunnerMachine {
  std::size_t memoryBytes = std::size_t(1) << 30;
  int threads = 2;
  /// What is open just now: what it reads is not written over either.
  std::function<std::optional<Project>()> open = {};
  /// Footage that is open already; nullptr: it is opened.
  std::function<std::shared_ptr<const Footage>(const StoredRender&)> footage = {};
  /// Asked between two pictures; comes back when the work may go on.
  std::function<void(const std::stop_token&)> hold = {};
};

/// Told what becomes of a render: its state, or its progress.
using RunnerTold = std::function<void(const StoredRender&)>;

/// Renders what waits until nothing does, or it is stopped: then what ran waits again, and its pieces stay. What is paused or cancelled in
/// the list meanwhile, by whomever, is let go of within half a second. Gives back how many failed; none if another process is at it.
std::optional<int> runRenders(RenderStore& store, const RunnerMachine& machine, const RunnerTold& told, std::stop_token stop);

}  // namespace molten

#pragma once
// The list of renders on disk, which the window and the command line share: what waits, runs, is paused, or is over. A folder
// each: `render.json`, and `project.molten` as it was when the render was asked for. Several processes may change it at the same time.

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/engine/render_job.h"

namespace molten {

/// A render that was asked for, and what has become of it.
struct StoredRender {
  enum class State { Waiting, Running, Paused, Written, Cancelled, Failed };

  std::string id;           ///< the name of its folder; given by the store
  State state = State::Waiting;
  RenderSettings job;       ///< without footage and machine; RenderStore::all() reads of the project the output's path alone
  std::string summary;      ///< what will be written, in words
  std::string keeps;        ///< the project whose result is kept; empty: a render
  std::string sentence;     ///< afterwards: what was met, or why nothing was written
  bool joining = false;     ///< all its pieces are there, and its file may be half put in place; once that is done, its pieces are to go
  std::int64_t order = 0;   ///< the lower, the earlier
  RenderProgress progress;  ///< as it was last told

  bool over() const { return state >= State::Written; }
  std::string path() const { return keeps.empty() ? job.project.output.path : keeps; }
};

class RenderStore {
 public:
  /// Nothing is made before something is added.
  explicit RenderStore(std::string folder) : folder_(std::move(folder)) {}
  /// The user's own; $MOLTEN_QUEUE names another.
  static std::string usualFolder();

  const std::string& folder() const { return folder_; }
  /// Behind all others. Gives back its id.
  Result<std::string> add(const StoredRender& render);
  /// In order. What runs while no process works on the list waits in truth.
  std::vector<StoredRender> all() const;
  /// With its project.
  Result<StoredRender> read(const std::string& id) const;
  /// What is changed besides id and project is written.
  Status change(const std::string& id, const std::function<void(StoredRender&)>& act);
  /// Told often: not synced, and no failure.
  void tellProgress(const std::string& id, const RenderProgress& progress);
  /// It changes places with the one before (−1) or after it (+1) that is not over.
  Status move(const std::string& id, int by);
  /// The entry and its pieces; what was written stays. Not while it runs. Of one that was cancelled or failed the pieces stay until
  /// then, so that it can go on.
  Status remove(const std::string& id);

  /// The pieces of one whose result is written: they are not needed any more.
  void discardJoined(const StoredRender& render);

  /// Held by the process that renders. None if another does.
  class Turn {
   public:
    Turn(Turn&& other) noexcept;
    Turn& operator=(Turn&&) = delete;
    ~Turn();

   private:
    friend class RenderStore;
    explicit Turn(int file) : file_(file) {}
    int file_;
  };
  std::optional<Turn> takeTurn() const;
  bool isWorkedOn() const;

 private:
  std::string pathOf(const std::string& id, const char* file) const;
  std::optional<StoredRender> readAlone(const std::string& id) const;
  Status write(const StoredRender& render) const;
  /// Unless another that is not written is on its way to the same place.
  void discardPieces(const StoredRender& render) const;
  std::optional<Turn> lock(const char* name, bool wait) const;

  std::string folder_;
};

}  // namespace molten

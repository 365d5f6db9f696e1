#include "core/engine/render_runner.h"

#include <algorithm>
#include <chrono>
#include <condition_variable>
#include <filesystem>
#include <mutex>
#include <regex>
#include <thread>

#include "core/engine/kept_result.h"
#include "core/engine/piece_folder.h"
#include "core/engine/project_footage.h"
#include "core/engine/sound_job.h"
#include "core/thrown.h"

namespace molten {
namespace {

using State = StoredRender::State;
using Clock = std::chrono::steady_clock;

/// One render on its way.
class Run {
 public:
  Run(RenderStore& store, const RunnerMachine& machine, const RunnerTold& told, std::stop_token outer, StoredRender render)
      : store_(store), machine_(machine), told_(told), render_(std::move(render)), passedOn_(std::move(outer), [this] { stop_.request_stop(); }) {}

  /// True if it did not fail.
  bool run() {
    render_.state = State::Running;
    render_.sentence.clear();
    keep();
    std::jthread watching([this](std::stop_token over) { watch(over); });
    const auto result = orThrown([this] { return made(); });
    watching = {};
    if (result) {
      render_.state = State::Written;
      for (const auto& finding : result->findings) render_.sentence += (render_.sentence.empty() ? "" : "\n") + finding;
    } else if (!result.error().cancelled) {
      render_.state = State::Failed;
      render_.sentence = said(result.error().message);
    } else {
      // Called off by the list, or with the process.
      const State wished = stateInList().value_or(State::Running);
      render_.state = wished == State::Running ? State::Waiting : wished;
    }
    // What is whole is there for another try; where nothing is, nothing stays.
    const std::string pieces = piecesBeside(render_.path());
    if (render_.state != State::Written && !PieceFolder::holdsPieces(pieces)) PieceFolder::discard(pieces);
    keep();
    if (render_.state == State::Written) store_.discardJoined(render_);
    return render_.state != State::Failed;
  }

 private:
  /// Files on the way to the result are spoken of by its name.
  std::string said(std::string sentence) const {
    static const std::regex onTheWay(R"((piece-\d+\.molten-piece|pieces\.json|project\.molten))");
    return std::regex_replace(sentence, onTheWay, std::filesystem::path(render_.path()).filename().string());
  }
  void keep() {
    (void)store_.change(render_.id, [this](StoredRender& stored) {
      // What was called off while the last of it was done stays called off only if it was not done after all.
      stored.state = render_.state;
      stored.sentence = render_.sentence;
      stored.joining = render_.joining;
    });
    told_(render_);
  }

  /// None while its entry cannot be read: nobody has called it off then.
  std::optional<State> stateInList() const {
    for (const StoredRender& one : store_.all())
      if (one.id == render_.id) return one.state;
    return std::nullopt;
  }

  /// What others do to the list, and what they want to know.
  void watch(const std::stop_token& over) {
    std::mutex mutex;
    std::unique_lock lock(mutex);
    std::condition_variable_any never;
    constexpr std::chrono::milliseconds often{200};
    while (!over.stop_requested()) {
      never.wait_for(lock, over, often, [] { return false; });
      try {
        store_.tellProgress(render_.id, latest());
        if (stateInList().value_or(State::Running) != State::Running) stop_.request_stop();
      } catch (...) {
        // The list is looked at again in a moment.
        continue;
      }
    }
  }

  RenderProgress latest() const {
    const std::scoped_lock lock(mutex_);
    return progress_;
  }

  /// Between two pictures.
  void progressed(RenderProgress progress) {
    progress.done += before_, progress.total += before_;
    render_.progress = progress;
    const auto now = Clock::now();
    constexpr std::chrono::milliseconds often{60};
    {
      const std::scoped_lock lock(mutex_);
      progress_ = progress;
    }
    if (progress.over() || now - toldAt_ > often) {
      toldAt_ = now;
      told_(render_);
    }
    if (machine_.hold) machine_.hold(stop_.get_token());
  }

  Result<RenderOutline> made() {
    const auto tell = [this](const RenderProgress& progress) { progressed(progress); };
    const auto stop = stop_.get_token();
    if (!render_.keeps.empty()) {
      if (const auto done = keepResult(render_.keeps, {machine_.memoryBytes, machine_.threads}, tell, stop); !done) return done.error();
      return RenderOutline();
    }
    const auto whole = store_.read(render_.id);
    if (!whole) return whole.error();
    RenderSettings settings = whole->job;
    settings.memoryBytes = machine_.memoryBytes;
    settings.threads = machine_.threads;
    if (machine_.open) settings.open = machine_.open();
    if (machine_.footage) settings.footage = machine_.footage(*whole);
    if (!settings.footage) {
      auto footage = openSource(settings.project.source.path, {settings.project.source.rate}, {}, stop);
      if (!footage) return footage.error();
      settings.footage = std::move(*footage);
    }
    if (settings.timeMap || holdsSoundAlone(settings.project.output.path)) return render(settings, tell, stop);
    return inPieces(settings, tell, stop);
  }

  Result<RenderOutline> inPieces(RenderSettings& settings, const std::function<void(const RenderProgress&)>& tell, const std::stop_token& stop) {
    // What it was about to put in place may stand there already.
    if (render_.joining) settings.mayReplace.reset();
    const std::string place = piecesBeside(settings.project.output.path);
    auto folder = PieceFolder::make(place, settings);
    if (!folder && PieceFolder::isOfAnother(place, settings)) {
      PieceFolder::discard(place);
      folder = PieceFolder::make(place, settings);
    }
    if (!folder) return folder.error();
    for (const PieceSpan& piece : folder->missing()) before_ -= piece.count();
    before_ += folder->pictures();
    auto findings = folder->work({}, settings, tell, stop);
    if (!findings) return findings.error();
    // What came to be there meanwhile is not replaced unasked.
    if (const auto outline = outlineRender(settings); !outline) return outline.error();
    render_.joining = true;
    keep();
    before_ = 0;
    auto joined = folder->join({}, settings, tell, stop);
    if (!joined) return joined;
    for (std::string& finding : *findings)
      if (!std::count(joined->findings.begin(), joined->findings.end(), finding)) joined->findings.push_back(std::move(finding));
    return joined;
  }

  RenderStore& store_;
  const RunnerMachine& machine_;
  const RunnerTold& told_;
  StoredRender render_;
  std::int64_t before_ = 0;  ///< pictures of pieces that were there
  mutable std::mutex mutex_;
  RenderProgress progress_;
  Clock::time_point toldAt_{};
  std::stop_source stop_;
  std::stop_callback<std::function<void()>> passedOn_;
};

/// What a process that ended did not come to.
void tidy(RenderStore& store) {
  for (const StoredRender& one : store.all())
    if (one.state == State::Written && one.joining) store.discardJoined(one);
}

}  // namespace

std::optional<int> runRenders(RenderStore& store, const RunnerMachine& machine, const RunnerTold& told, std::stop_token stop) {
  std::error_code none;
  if (!std::filesystem::exists(store.folder(), none)) return 0;
  const auto turn = store.takeTurn();
  if (!turn) return std::nullopt;
  tidy(store);
  int failed = 0;
  while (!stop.stop_requested()) {
    auto all = store.all();
    // While it is this process's turn, what is said to run was left by another.
    const auto next = std::find_if(all.begin(), all.end(), [](auto& one) { return one.state == State::Waiting || one.state == State::Running; });
    if (next == all.end()) break;
    if (!Run(store, machine, told, stop, std::move(*next)).run()) ++failed;
  }
  return failed;
}

}  // namespace molten

#include "cli/queue.h"

#include <cstdio>
#include <filesystem>
#include <utility>

#include "cli/reports.h"
#include "core/engine/render_runner.h"
#include "core/engine/sound_job.h"
#include "core/project/files_behind.h"

namespace molten {

namespace {

int put(RenderStore& store, const StoredRender& render, const std::string& replaced = {}) {
  const auto added = store.add(render);
  if (!added) return say(Failed, added.error());
  std::printf("%s waits in the list of renders; molten-render --queue, or a window, renders it.\n", std::filesystem::path(render.path()).filename().c_str());
  if (!replaced.empty()) std::printf("%s is there already and will be replaced.\n", replaced.c_str());
  return Done;
}

}  // namespace

int putIntoQueue(const Arguments&, const RenderSettings& settings) {
  StoredRender render;
  render.job = settings;
  writePathsInFull(render.job.project);
  RenderStore store(RenderStore::usualFolder());
  for (const StoredRender& one : store.all())
    if (!one.over() && one.path() == render.path())
      return say(Failed, {one.path() + " is being rendered already, or waits for it. Choose another name."});
  if (holdsSoundAlone(render.path())) {
    render.summary = "The sound alone";
    return put(store, render);
  }
  const auto outline = outlineRender(render.job);
  if (!outline) return say(Failed, outline.error());
  render.job.mayReplace = outline->replaced;
  render.summary = std::to_string(outline->pictures.count()) + " pictures · " + std::to_string(outline->plan.size.width) + " × " +
                   std::to_string(outline->plan.size.height) + " · " + outline->plan.codec->label + ", " + outline->plan.formatText;
  return put(store, render, outline->firstReplaced);
}

int runQueue(const Arguments& a, std::stop_token stop) {
  RenderStore store(RenderStore::usualFolder());
  RunnerMachine machine;
  machine.memoryBytes = a.memoryBytes;
  machine.threads = a.threads;
  std::string last;
  const auto told = [&](const StoredRender& render) {
    if (render.state == StoredRender::State::Running && std::exchange(last, render.id) != render.id)
      std::fprintf(stderr, "molten-render: %s\n", render.path().c_str());
    const std::string name = std::filesystem::path(render.path()).filename().string();
    switch (render.state) {
      case StoredRender::State::Running:
        if (render.progress.total > 0) printProgress(a.progress, render.progress);
        break;
      case StoredRender::State::Written:
        std::fprintf(stderr, "molten-render: %s is written.%s%s\n", name.c_str(), render.sentence.empty() ? "" : " ", render.sentence.c_str());
        break;
      case StoredRender::State::Failed:
        std::fprintf(stderr, "molten-render: %s was not rendered: %s\n", name.c_str(), render.sentence.c_str());
        break;
      default:
        break;
    }
  };
  const auto failed = runRenders(store, machine, told, stop);
  if (!failed) return say(Failed, {"The list of renders is being worked on already, by a window or another call; what waits there will be done by that."});
  if (stop.stop_requested()) std::fprintf(stderr, "molten-render: Stopped. Pieces that are whole stay; the same call goes on with the others.\n");
  return *failed > 0 || stop.stop_requested() ? Failed : Done;
}

}  // namespace molten

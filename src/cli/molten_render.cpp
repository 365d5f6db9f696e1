// molten-render: chains and projects from the command line.

#include <cerrno>
#include <csignal>
#include <cstdio>
#include <cstring>
#include <exception>
#include <filesystem>
#include <iostream>
#include <thread>

#include "cli/arguments.h"
#include "cli/pieces.h"
#include "cli/queue.h"
#include "cli/reports.h"
#include "cli/slurm.h"
#include "core/engine/kept_result.h"
#include "core/engine/project_footage.h"
#include "core/engine/sound_job.h"
#include "core/files/read_file.h"
#include "core/machine.h"
#include "core/media/av_handles.h"
#include "core/media/picture_writer.h"
#include "core/number_text.h"
#include "core/project/each.h"
#include "core/project/files_behind.h"
#include "core/project/listing.h"
#include "core/project/missing_files.h"
#include "core/project/paintings.h"
#include "core/project/piece.h"
#include "core/project/project_file.h"
#include "core/project/project_schema.h"
#include "core/project/swap.h"
#include "core/thrown.h"
#include "core/time/pace_text.h"

namespace {

using namespace molten;

/// Ctrl+C, or the end of the session or the terminal, ends the work as Cancel does, whatever is just being done: nothing
/// half-written stays. Make one before any other thread.
class Interrupts {
 public:
  explicit Interrupts(std::stop_source stop) {
    // A reader of the output that has gone, or a limit on the size of files, makes a write fail; that is said.
    std::signal(SIGPIPE, SIG_IGN);
    std::signal(SIGXFSZ, SIG_IGN);
    sigemptyset(&signals_);
    for (const int one : {SIGINT, SIGTERM, SIGHUP, SIGQUIT}) sigaddset(&signals_, one);
    pthread_sigmask(SIG_BLOCK, &signals_, nullptr);
    waiting_ = std::jthread([this, stop](std::stop_token over) mutable {
      constexpr timespec look{0, 100'000'000};
      while (!over.stop_requested())
        if (sigtimedwait(&signals_, nullptr, &look) > 0) stop.request_stop();
    });
  }

 private:
  sigset_t signals_;
  std::jthread waiting_;
};

/// Where more was taken than was named: the decoder and the encoder cannot be told how much they may have.
void sayMemory(const Arguments& a) {
  if (!a.memoryNamed) return;
  constexpr std::size_t program = std::size_t(150) << 20;
  const std::size_t taken = memoryTaken();
  if (taken <= a.memoryBytes + a.memoryBytes / 10 + program) return;
  std::fprintf(stderr,
               "molten-render: it took %zu MB in all: %zu MB are for frames, the rest is what the decoder and the encoder need "
               "for pictures of this size.\n",
               taken / 1'000'000, a.memoryBytes / 1'000'000);
}

int listStages(const Arguments& a) {
  std::span<const StageKind* const> kinds = stageKinds();
  const StageKind* one = nullptr;
  if (!a.stageToList.empty()) {
    auto stage = parseStage(a.stageToList, 25);
    if (!stage) return say(WordsOff, stage.error());
    one = stage->kind;
    kinds = {&one, 1};
  }
  std::fputs((a.json ? stagesJson(kinds) : stagesText(kinds)).c_str(), stdout);
  return Done;
}

int renderTheSound(const Arguments& a, const RenderSettings& settings, std::stop_token stop) {
  const bool replaces = identityOf(settings.project.output.path).has_value();
  const auto written = renderSound(settings, [&](const RenderProgress& progress) { printProgress(a.progress, progress); }, stop);
  if (!written) return say(Failed, written.error());
  for (const auto& note : written->notes) std::fprintf(stderr, "molten-render: %s\n", note.c_str());
  for (const auto& finding : written->findings) std::fprintf(stderr, "molten-render: %s\n", finding.c_str());
  if (replaces) sayReplaced(settings.project.output.path);
  return a.strict && !written->findings.empty() ? Failed : Done;
}

/// What of the project a list can say.
int writeTheList(const Arguments& a, const std::shared_ptr<const Footage>& footage, const Project& project, std::stop_token stop) {
  SourceMaterial material(std::make_shared<Sources>(footage, std::make_shared<MemoryBudget>(a.memoryBytes), 1), 1, std::move(stop));
  const DescribeSource describe = describedBy(material);
  const VideoDescription video = footage->video(project.source.between);
  std::optional<Error> trouble;
  const auto played = playedOf(project, video, describe, &trouble);
  if (!played) return say(Failed, played.error());
  if (trouble) return say(Failed, *trouble);
  std::vector<std::string> lost;
  const bool replaces = identityOf(project.output.path).has_value();
  const auto written = saveList(project.output.path, project, *played, readingsOf(project, *played, video, describe), lost);
  for (const auto& sentence : lost) std::fprintf(stderr, "molten-render: %s\n", sentence.c_str());
  if (!written) return say(Failed, written.error());
  if (replaces) sayReplaced(project.output.path);
  return Done;
}

/// The project that is named, or one of what is named otherwise.
Result<Project> projectOfInput(const Arguments& a) {
  Project project;
  if (namesProject(a.input)) {
    auto loaded = loadProject(a.input);
    if (!loaded) return loaded.error();
    project = std::move(*loaded);
    if (project.source.path.empty() && a.each.empty()) return Error{"The project has no footage yet; open it in the window and choose a clip."};
  } else if (isListFile(a.input)) {
    std::vector<std::string> lost;
    auto listed = loadList(a.input, a.rate.value_or(25), lost);
    for (const auto& sentence : lost) std::fprintf(stderr, "molten-render: %s\n", sentence.c_str());
    if (!listed) return listed.error();
    project = std::move(*listed);
  } else {
    project.source.path = a.input;
  }
  if (a.footageRate) project.source.rate = a.footageRate;
  if (a.between) project.source.between = *a.between;
  return project;
}

/// Words are checked before the footage is read: at a rate that any unit accepts.
Status checkWords(const Arguments& a, const Project& project) {
  Chain asWritten = project.chain;
  for (const auto& text : a.stages)
    if (auto added = appendStage(asWritten, text, 25); !added) return added.error();
  if (asWritten.size() > mostStages) return Error{"More than " + std::to_string(mostStages) + " stages in a chain are not worked with."};
  for (const auto& text : a.sounds)
    if (auto laid = parseLaidSound(text, 25); !laid) return laid.error();
  if (!a.each.empty() && a.output.find("%s") == std::string::npos)
    return Error{"Each clip needs a name of its own: write %s where it goes, as in results/%s.mp4."};
  const bool pictures = !a.output.empty() && !isListFile(a.output) && !holdsSoundAlone(a.output);
  if (const auto codec = pictures ? codecAsked(a.output, a.codec, a.quality) : nullptr; !codec) return codec.error();
  return {};
}

/// What --stage and --set say, of the shot that is meant.
Status setShot(const Arguments& a, Project& project, Rational rate) {
  const bool all = a.shot == "all";
  const auto named = readWhole(a.shot);
  const auto shot = static_cast<std::size_t>(named.value_or(1));
  if (!a.shot.empty() && !all && (!named || *named < 1 || shot > shotCount(project)))
    return Error{"--shot takes a number from 1 to " + std::to_string(shotCount(project)) + ", or all, not \"" + a.shot + "\"."};
  Project one = all ? reelChainOf(project, project.source.path) : shotAt(project, shot - 1);
  for (const auto& text : a.stages)
    if (auto added = appendStage(one.chain, text, rate); !added) return added;
  for (const auto& text : a.assignments)
    if (auto done = assign(one, text, rate); !done) return done;
  project = (all ? ofReelChain(project, {"", one, ""}) : inShot(project, shot - 1, {"", one, ""})).after;
  return {};
}

/// What is to be rendered, as the call's words have it. Without a result's name: as the project has it.
Result<RenderSettings> settingsOf(const Arguments& a, Project project, const std::string& output, const std::stop_source& stop, int& code) {
  code = Failed;
  FootageOptions options;
  options.rate = project.source.rate;
  auto footage = openSource(project.source.path, options, {}, stop.get_token());
  if (!footage) return footage.error();
  const Rational rate = (*footage)->clock().rate();
  for (const auto& text : a.sounds) project.sounds.push_back(*parseLaidSound(text, rate));
  if (auto set = setShot(a, project, rate); !set) {
    code = WordsOff;
    return set.error();
  }
  if (auto painted = readPaintings(project.chain); !painted) return painted.error();
  if (a.rate) project = setOutputRate(project, a.rate, (*footage)->video()).after;
  if (a.length) project.output.length = parseSeconds(*a.length, project.output.rate.value_or(rate));
  if (!output.empty()) {
    project.output.path = output;
    // The result's name decides; a codec and quality remembered by the project belonged to another name.
    project.output.codec = a.codec;
    project.output.quality = a.quality;
  }
  if (a.size) project.output.size = a.size;
  if (a.withoutMissing) {
    std::vector<std::string> said;
    project = withoutMissing(project, said);
    for (const auto& sentence : said) std::fprintf(stderr, "molten-render: %s\n", sentence.c_str());
  }
  RenderSettings settings{*footage, std::move(project), a.frames, a.memoryBytes, a.threads, a.timeMap};
  settings.sound = a.sound;
  if (a.noOverwrite) settings.mayReplace = 0;
  return settings;
}

/// The name of what a render would replace; empty: nothing.
Result<std::string> firstReplaced(const RenderSettings& settings) {
  const std::string& path = settings.project.output.path;
  if (isListFile(path) || holdsSoundAlone(path)) return identityOf(path) ? fileName(path) : std::string();
  RenderSettings any = settings;
  any.mayReplace.reset();
  const auto outline = outlineRender(any);
  if (!outline) return outline.error();
  return outline->firstReplaced;
}

int renderProject(const Arguments& a, Project project, const std::string& output, const std::stop_source& stop) {
  int code = Done;
  const auto settings = settingsOf(a, std::move(project), output, stop, code);
  if (!settings) return say(code, settings.error());
  const Footage& footage = *settings->footage;
  if (a.describe) {
    std::fputs(describeJson(settings->footage, settings->project).c_str(), stdout);
    return Done;
  }
  for (const auto& warning : footage.warnings()) std::fprintf(stderr, "molten-render: %s\n", warning.c_str());
  if (a.noOverwrite && !a.output.empty()) {
    const auto there = firstReplaced(*settings);
    if (!there) return say(Failed, there.error());
    if (!there->empty()) return say(Failed, {*there + " is there already, and --no-overwrite keeps it. Choose another name."});
  }
  if (a.slurm) return renderBySlurm(a, *settings);
  if (a.queue) return putIntoQueue(a, *settings);
  if (!a.pieces.empty()) return renderInPieces(a, *settings, stop.get_token());
  if (isListFile(output)) return writeTheList(a, settings->footage, settings->project, stop.get_token());
  if (holdsSoundAlone(output)) return renderTheSound(a, *settings, stop.get_token());

  const auto rendered = render(*settings, [&](const RenderProgress& progress) { printProgress(a.progress, progress); }, stop.get_token());
  if (!rendered) return say(Failed, rendered.error());
  sayOutline(*rendered);
  sayMemory(a);
  sayReplaced(*rendered);
  const bool whole = rendered->findings.empty() && footage.warnings().empty();
  return a.strict && !whole ? Failed : Done;
}

/// The clips of a folder, one after another. One that fails is said, and the others go on.
int renderEach(const Arguments& a, const Project& project, const std::stop_source& stop) {
  if (isReel(project)) return say(WordsOff, {"A folder of clips goes through the chain of one shot; this project is a reel of several, or of a trimmed one."});
  const auto clips = eachClipOf(a.each, a.output);
  if (!clips) return say(Failed, clips.error());
  std::size_t failed = 0;
  for (const EachClip& clip : *clips) {
    if (stop.stop_requested()) break;
    std::fprintf(stderr, "molten-render: %s\n", clip.output.c_str());
    if (renderProject(a, withClip(project, clip.path), clip.output, stop) != Done) ++failed;
  }
  if (failed > 0) std::fprintf(stderr, "molten-render: %zu of %zu clips were not rendered.\n", failed, clips->size());
  return failed > 0 || stop.stop_requested() ? Failed : Done;
}

int keepOrClear(const Arguments& a, const std::stop_source& stop) {
  if (!namesProject(a.input)) return say(WordsOff, {"Results are kept of projects: name a .molten file."});
  const auto done = a.clearKept ? clearKept(a.input)
                                : keepResult(a.input, {a.memoryBytes, a.threads}, [&](const RenderProgress& progress) { printProgress(a.progress, progress); },
                                             stop.get_token());
  return done ? Done : say(Failed, done.error());
}

int run(const Arguments& a) {
  if (a.listStages) return listStages(a);
  if (a.schema) {
    std::fputs(projectSchema().c_str(), stdout);
    return Done;
  }
  std::stop_source stop;
  const Interrupts interrupts(stop);
  if (a.keep || a.clearKept) return keepOrClear(a, stop);
  if (!a.join.empty()) return joinThePieces(a, stop.get_token());
  if (a.piece && a.input.empty()) return makePieces(a, stop.get_token());
  if (a.queue && a.input.empty()) return runQueue(a, stop.get_token());
  const auto project = projectOfInput(a);
  if (!project) return say(Failed, project.error());
  if (const auto right = checkWords(a, *project); !right) return say(WordsOff, right.error());
  return a.each.empty() ? renderProject(a, *project, a.output, stop) : renderEach(a, *project, stop);
}

/// What was printed may not have come through: a full disk behind it, or a reader that has gone.
int printed(int code) {
  std::cout.flush();
  if (std::fflush(stdout) == 0 && !std::ferror(stdout) && std::cout) return code;
  return say(Failed, {"What was to be printed could not be written: " + std::string(std::strerror(errno)) + "."});
}

}  // namespace

int main(int argc, char** argv) {
  beginProgram();
  const ParsedCall call = parseCall(argc, argv);
  if (!call.arguments) return printed(call.exitCode);
  try {
    return printed(run(*call.arguments));
  } catch (const std::exception& trouble) {
    return say(Failed, errorOf(trouble));
  }
}

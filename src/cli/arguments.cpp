#include "cli/arguments.h"

#include <unistd.h>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <cmath>
#include <thread>

#include "core/engine/render_job.h"
#include "core/number_text.h"
#include "core/time/pace_text.h"

namespace molten {
namespace {

constexpr int mostShares = 100'000;

std::optional<std::int64_t> wholeNumber(std::string_view text) {
  const auto value = readWhole(text);
  return value && *value >= 0 ? value : std::nullopt;
}

std::optional<Span> parseFrames(std::string_view text) {
  const auto dash = text.find('-');
  const auto first = wholeNumber(text.substr(0, dash));
  const auto last = dash == std::string_view::npos ? first : wholeNumber(text.substr(dash + 1));
  return first && last && *first <= *last ? std::optional(Span{*first, *last}) : std::nullopt;
}

std::optional<Size> parseSize(std::string_view text) {
  const auto cross = text.find('x');
  if (cross == std::string_view::npos) return std::nullopt;
  const auto width = wholeNumber(text.substr(0, cross)), height = wholeNumber(text.substr(cross + 1));
  if (!width || !height || *width < 1 || *height < 1 || *width > 32768 || *height > 16384) return std::nullopt;
  return Size{static_cast<int>(*width), static_cast<int>(*height)};
}

std::optional<Share> parseShare(std::string_view text) {
  const auto slash = text.find('/');
  if (slash == std::string_view::npos) return std::nullopt;
  const auto number = wholeNumber(text.substr(0, slash)), of = wholeNumber(text.substr(slash + 1));
  return number && of && *number >= 1 && *number <= *of && *of <= mostShares ? std::optional(Share{*number, *of}) : std::nullopt;
}

}  // namespace

std::optional<std::size_t> parseBytes(const std::string& text) {
  const std::size_t digits = std::min(text.find_first_not_of("0123456789.,"), text.size());
  const auto number = readNumber(std::string_view(text).substr(0, digits));
  const std::string unit = text.substr(digits);
  double scale = 1;
  if (!unit.empty()) {
    const auto power =
        std::string_view("KMGT").find(static_cast<char>(std::toupper(static_cast<unsigned char>(unit[0]))));
    const std::string rest = unit.substr(1);
    if (power == std::string_view::npos || (rest != "" && rest != "B" && rest != "iB")) return std::nullopt;
    scale = std::pow(rest == "B" ? 1000.0 : 1024.0, static_cast<double>(power + 1));
  }
  const double bytes = number.value_or(0) * scale;
  if (!(bytes >= 1e6) || bytes > 1e15) return std::nullopt;
  return static_cast<std::size_t>(bytes);
}

ParsedCall parseCall(int argc, char** argv) {
  Arguments a;
  CLI::App app{"Renders footage through a chain of Molten Clock stages.", "molten-render"};
  std::string frames, size, rate, length, footageRate, between, memory, timeMap, piece, progress = "auto", sound = "mix";
  int threads = static_cast<int>(std::max(1u, std::thread::hardware_concurrency()));
  std::vector<std::string> listed;
  app.add_option("input", a.input, "a clip, numbered stills (name-%05d.png or their folder), a .molten project, a list of shots (.otio .edl .csv), or blank:1920x1080@25:10s");
  app.add_option("--stage", a.stages, "a stage for the chain, as ID:param=value,param=value; insert/ID stands in the chain of an "
                 "insert's own source; see --stages")
      ->expected(1)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
  app.add_option("--set", a.assignments, "a value of a project's stage, as STAGE.param=value")
      ->expected(1)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
  app.add_option("--shot", a.shot, "of a reel, whose --stage and --set are: a shot's number (1), or all: what comes after the last cut");
  app.add_option("--add-sound", a.sounds, "a sound on the result's time, as FILE@2.5s,gain=-3dB,fade-in=0.2s")
      ->expected(1)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
  app.add_option("--sound", sound, "mix: the footage's sound, along with its time, and what is laid; copy: the footage's as it is; or none")
      ->check(CLI::IsMember({"copy", "mix", "none"}));
  app.add_option("-o,--output", a.output,
                 "the result; its ending decides the kind: .mp4 .mov .mkv .webm .gif .webp -%05d.png -%05d.tif -%05d.exr; .wav and .flac hold "
                 "the sound alone, .otio .edl .csv the shots and what they read");
  app.add_option("--each", a.each, "a folder: each clip in it in place of the project's footage; %s in the result's name is the clip's");
  app.add_option("--frames", frames, "only these frames of the result, as A-B, counted from 0");
  app.add_option("--size", size, "the result's size, as WIDTHxHEIGHT");
  app.add_option("--rate", rate, "the result's picture rate: 25, 29.97, 30000/1001");
  app.add_option("--length", length, "the result's length, as 7s or 168f; otherwise it follows the chain");
  app.add_option("--footage-rate", footageRate,
                 "the picture rate of numbered stills (24), or the one that footage with a varying rate is counted in");
  app.add_option("--between", between, "what is seen between two frames of the footage: whole, mixed or flow")
      ->check(CLI::IsMember({"whole", "mixed", "flow"}));
  std::string codecIds;
  for (const auto& codec : codecs()) codecIds += (codecIds.empty() ? "" : " ") + codec.id;
  app.add_option("--codec", a.codec, "how to write it: " + codecIds);
  app.add_option("--quality", a.quality,
                 "the codec's own measure: h264 0-51 (18), h265 0-51 (22), av1 1-63 (28), vp9 0-63 (24), prores profile 0-5 (3), webp 0-100 (80)")
      ->check(CLI::Range(0, 100));
  app.add_option("--memory", memory,
                 "budget for frames and all that is made of them: 512MB, 2GiB (a quarter of the memory, at most 4 GiB)");
  app.add_option("--threads", threads, "threads to work with")->check(CLI::Range(1, 256));
  app.add_option("--progress", progress, "bar, json (a line each) or none")
      ->check(CLI::IsMember({"auto", "bar", "json", "none"}));
  app.add_option("--time-map", timeMap,
                 "writes how far from now each pixel reads, in seconds or frames: 16-bit PNG or TIFF, or EXR")
      ->check(CLI::IsMember({"seconds", "frames"}));
  app.add_flag("--without-missing", a.withoutMissing, "leaves out stages and sounds whose files are missing; otherwise nothing is written");
  app.add_flag("--no-overwrite", a.noOverwrite, "refuses where the result is there already; otherwise it is replaced, and the last line says so");
  app.add_flag("--strict", a.strict, "exits with 1 where footage was damaged, missing or changed while it was read");
  app.set_version_flag("--version", "molten-render " MOLTEN_VERSION);
  app.add_option("--pieces", a.pieces, "a folder for the pieces of the render: writes there which there are to be, and what of");
  app.add_option("--piece", piece, "K/N, with --pieces: makes the K-th of N shares of them, on any machine that sees the folder");
  app.add_option("--join", a.join, "a folder of pieces: puts them together, without encoding again, and writes the sound");
  app.add_flag("--clear-pieces", a.clearPieces, "with --join: the pieces go, once the result stands");
  app.add_flag("--queue", a.queue, "alone: renders what waits in the list of renders; with an input and -o: puts that into it");
  app.add_flag("--slurm", a.slurm, "renders on many machines: hands the pieces, and the job that joins them, to Slurm");
  app.add_option("--shares", a.shares, "with --slurm: in so many shares, each a task of the array (at most 16)")->check(CLI::Range(1, mostShares));
  app.add_option("--slurm-option", a.slurmOptions, "with --slurm: an option for sbatch, like --slurm-option=--partition=long")
      ->expected(1)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
  app.add_flag("--wait", a.wait, "with --slurm: comes back when the result stands, or cannot");
  app.add_flag("--keep", a.keep, "renders a project once to a lossless file beside it, which is read in its place where it is a source");
  app.add_flag("--clear-kept", a.clearKept, "removes what is kept of a project");
  app.add_flag("--describe", a.describe, "says what the input is, how long, and which moments it reads (JSON)");
  auto* list = app.add_option("--stages", listed, "every stage and parameter, or one stage: unit, range, default, help")
                   ->expected(0, 1);
  app.add_flag("--json", a.json, "with --stages: as JSON");
  app.add_flag("--schema", a.schema, "the JSON Schema of .molten files");
  app.footer("Example: molten-render clip.mp4 --stage time-field:back=0.5s -o twisted.mp4");
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& error) {
    const int code = app.exit(error);
    return {std::nullopt, code == 0 ? 0 : 2};
  }
  const auto off = [](const std::string& sentence) {
    std::fprintf(stderr, "molten-render: %s\n", sentence.c_str());
    return ParsedCall{std::nullopt, 2};
  };
  a.listStages = list->count() > 0;
  if (!listed.empty()) a.stageToList = listed[0];
  if (!frames.empty() && !(a.frames = parseFrames(frames)))
    return off("--frames takes first-last, like 0-99, not \"" + frames + "\".");
  if (!size.empty() && !(a.size = parseSize(size)))
    return off("--size takes WIDTHxHEIGHT, like 1280x720, not \"" + size + "\".");
  if (!rate.empty() && !(a.rate = parseRate(rate)))
    return off("--rate takes fps, like 25 or 30000/1001, not \"" + rate + "\".");
  if (!length.empty()) {
    const auto seconds = parseSeconds(length, 25);
    if (!seconds || *seconds <= Rational(0) || *seconds > Rational(longestPace))
      return off("--length takes a time up to 24 hours, like 7s or 168f, not \"" + length + "\".");
    a.length = length;
  }
  if (!footageRate.empty() && !(a.footageRate = parseRate(footageRate)))
    return off("--footage-rate takes fps, like 24, not \"" + footageRate + "\".");
  if (!between.empty()) a.between = inBetweenOf(between);
  a.sound = sound == "none" ? SoundWish::None : sound == "copy" ? SoundWish::Copy : SoundWish::Mix;
  if (!timeMap.empty()) a.timeMap = timeMap == "seconds" ? TimeMapUnit::Seconds : TimeMapUnit::Frames;
  a.memoryBytes = usualBudget();
  if (!memory.empty()) {
    const auto bytes = parseBytes(memory);
    if (!bytes) return off("--memory takes a size of at least 1MB, like 512MB or 2GiB, not \"" + memory + "\".");
    a.memoryBytes = *bytes;
    a.memoryNamed = true;
  }
  a.threads = threads;
  a.progress = progress == "json"                                                   ? ProgressKind::Json
               : progress == "bar" || (progress == "auto" && isatty(STDERR_FILENO)) ? ProgressKind::Bar
                                                                                    : ProgressKind::None;
  if (!piece.empty() && !(a.piece = parseShare(piece))) return off("--piece takes K/N, like 3/8: the third of eight shares; not \"" + piece + "\".");
  if (a.piece && a.pieces.empty()) return off("Name the folder of the pieces with --pieces.");
  if (a.clearPieces && a.join.empty()) return off("--clear-pieces goes with --join.");
  if (!a.slurm && (a.wait || a.shares > 0 || !a.slurmOptions.empty())) return off("--wait, --shares and --slurm-option go with --slurm.");
  const bool pieceWork = !a.join.empty() || (a.piece && a.input.empty()), queueWork = a.queue && a.input.empty();
  if (!a.listStages && !a.schema && !pieceWork && !queueWork) {
    if (a.input.empty()) return off("Name a clip or a project to render; --help shows how.");
    if (a.keep && a.clearKept) return off("Either keep a project's result or clear it.");
    if (a.slurm && !a.pieces.empty() && a.piece) return off("Slurm makes all pieces; leave --piece out.");
    if (a.output.empty() && !a.describe && !a.keep && !a.clearKept) return off("Name the result with -o; its ending decides the kind.");
  }
  return {std::move(a), 0};
}

namespace {

Status assignIn(Chain& chain, const std::string& text, Rational rate) {
  const auto equals = text.find('='), dot = text.find('.');
  if (equals == std::string::npos || dot == std::string::npos || dot > equals)
    return Error{"--set takes STAGE.param=value, not \"" + text + "\"."};
  const auto slash = text.substr(0, dot).find('/');
  std::string id = text.substr(0, std::min(slash, dot));
  std::int64_t wanted = 0;
  if (const auto hash = id.find('#'); hash != std::string::npos) {
    const auto number = wholeNumber(std::string_view(id).substr(hash + 1));
    if (!number) return Error{"\"" + id + "\" has no number after #."};
    wanted = *number;
    id.resize(hash);
  }
  for (Stage& stage : chain) {
    const StageDescription& described = stage.kind->description();
    if (described.id != id || wanted-- > 0) continue;
    if (slash != std::string::npos) return assignIn(stage.branch, text.substr(slash + 1), rate);
    return readValues(stage, text.substr(dot + 1), rate);
  }
  return Error{"The project has no stage \"" + text.substr(0, dot) + "\" to set."};
}

}  // namespace

Status assign(Project& project, const std::string& text, Rational rate) {
  const std::string id = text.substr(0, text.find_first_of(".#/="));
  const auto isOf = [&](const Stage& sound) { return sound.kind->description().id == id; };
  if (isOf(project.ownSound)) {
    Chain own{project.ownSound};
    const Status done = assignIn(own, text, rate);
    project.ownSound = own.front();
    return done;
  }
  const bool laid = !project.sounds.empty() && isOf(project.sounds.front());
  return assignIn(laid ? project.sounds : project.chain, text, rate);
}

}  // namespace molten

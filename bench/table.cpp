// The engine's speed in one table: what is to be reached, what was measured, beside what, and the ratio.
// molten-bench-table [FOOTAGE]: without footage on a clip that it makes, 1920 × 1080 at 60 a second. Takes some
// minutes. Every pair is run in turn, three times; medians are told.
#include <fcntl.h>
#include <spawn.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "core/media/footage.h"

extern "C" {
#include <libavutil/log.h>
}

namespace {

using namespace molten;
using Words = std::vector<std::string>;

struct Run {
  double seconds = 0;
  double megabytes = 0;
};

/// Ends the program if the call fails. What it writes goes to `output`.
Run run(const Words& words, const std::string& output = "/dev/null") {
  std::vector<char*> arguments;
  for (const auto& word : words) arguments.push_back(const_cast<char*>(word.c_str()));
  arguments.push_back(nullptr);
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_addopen(&actions, 0, "/dev/null", O_RDONLY, 0);
  posix_spawn_file_actions_addopen(&actions, 1, output.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0644);
  posix_spawn_file_actions_adddup2(&actions, 1, 2);
  const auto begun = std::chrono::steady_clock::now();
  pid_t child = 0;
  int status = -1;
  rusage usage{};
  if (posix_spawnp(&child, arguments[0], &actions, nullptr, arguments.data(), environ) == 0)
    wait4(child, &status, 0, &usage);
  posix_spawn_file_actions_destroy(&actions);
  if (status != 0) {
    std::string call;
    for (const auto& word : words) call += word + " ";
    std::printf("failed: %s\n", call.c_str());
    std::exit(1);
  }
  return {std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count(),
          static_cast<double>(usage.ru_maxrss) / 1024};
}

double median(std::vector<double> values) {
  std::sort(values.begin(), values.end());
  return values[values.size() / 2];
}

/// Seconds of two calls, run in turn.
std::pair<double, double> inTurn(const Words& a, const Words& b, int times = 3) {
  std::vector<double> ofA, ofB;
  for (int i = 0; i < times; ++i) {
    ofA.push_back(run(a).seconds);
    ofB.push_back(run(b).seconds);
  }
  return {median(ofA), median(ofB)};
}

void row(const std::string& what, const std::string& reach, const std::string& measured, const std::string& peer,
         const std::string& ratio) {
  std::printf("| %-46s | %-16s | %-12s | %-28s | %-7s |\n", what.c_str(), reach.c_str(), measured.c_str(), peer.c_str(),
              ratio.c_str());
  std::fflush(stdout);
}

std::string text(const char* format, double value) {
  char out[64];
  std::snprintf(out, sizeof out, format, value);
  return out;
}

void assembling(const std::string& here) {
  const std::string file = here + "/kernels.json";
  run({MOLTEN_BENCH, "--benchmark_out=" + file, "--benchmark_out_format=json", "--benchmark_repetitions=5",
       "--benchmark_min_time=0.2", "--benchmark_filter=copyWhole|assemble"});
  std::ifstream in(file);
  std::map<std::string, double> times;
  const auto report = nlohmann::json::parse(in);
  for (const auto& entry : report["benchmarks"])
    if (entry.value("aggregate_name", std::string()) == "median") times[entry["run_name"]] = entry["real_time"];
  const double copy = times["copyWholeFrames"];
  const auto say = [&](const char* what, const char* name, const char* reach) {
    row(std::string("assembling 1080p, ") + what, reach, text("%.2f ms", times[name]),
        text("copying whole: %.2f ms", copy), text("%.1f", times[name] / copy));
  };
  say("vertical field", "assembleStage/vertical", "1.5");
  say("horizontal field", "assembleStage/horizontal", "6");
  say("slanted field", "assembleStage/slanted", "6");
  say("round field", "assembleRound", "6");
  say("noise", "assembleNoise", "10");
}

void rendering(const std::string& here, const std::string& clip) {
  const std::string frames = "150", out = here + "/ours.mp4", plain = here + "/plain.mp4";
  const auto [ours, theirs] = inTurn(
      {MOLTEN_RENDER, clip, "--stage", "time-field:back=1s", "--frames", "0-149", "--progress", "none", "-o", out},
      {"ffmpeg", "-v", "error", "-y", "-i", clip, "-an", "-frames:v", frames, "-c:v", "libx264", "-preset", "medium",
       "-crf", "18", "-pix_fmt", "yuv420p", plain});
  row("rendering a Time Field, H.264", "1.25", text("%.1f s", ours), text("plain transcode: %.1f s", theirs),
      text("%.2f", ours / theirs));
}

/// Eight moments behind, each weaker than the last, beside the same mix by libavfilter, with the same encoder.
void mixing(const std::string& here, const std::string& clip) {
  const std::string frames = "150", out = here + "/ours.mp4", other = here + "/other.mp4";
  const auto encoded = [&](const std::string& filter) -> Words {
    return {"ffmpeg", "-v",   "error",   "-y",      "-i",     clip,   "-an", "-vf",      filter,    "-frames:v",
            frames,   "-c:v", "libx264", "-preset", "medium", "-crf", "18",  "-pix_fmt", "yuv420p", other};
  };
  const auto [ours, theirs] =
      inTurn({MOLTEN_RENDER, clip, "--stage",
              "echoes:repeats=8,spacing=1f,nearest=90%,farthest=43%,mix=mean,where-moments-are-missing=stand-still",
              "--frames", "0-149", "--progress", "none", "-o", out},
             encoded("tmix=frames=9:weights=0.43 0.478 0.53 0.59 0.656 0.729 0.81 0.9 1"));
  row("rendering Echoes, 8 repeats, H.264", "0.5", text("%.1f s", ours), text("tmix: %.1f s", theirs),
      text("%.2f", ours / theirs));
  // What is left without decoding and encoding.
  const auto [passed, copied] =
      inTurn({MOLTEN_RENDER, clip, "--frames", "0-149", "--progress", "none", "-o", out}, encoded("null"));
  row("  the mix alone", "0.5", text("%.1f s", ours - passed), text("tmix: %.1f s", theirs - copied),
      text("%.2f", (ours - passed) / (theirs - copied)));
}

void memory(const std::string& here, const std::string& clip, const Footage& footage) {
  const double frame = static_cast<double>(footage.shape().bytes()) / 1e6;
  const double rate = footage.clock().rate().toDouble();
  const std::int64_t length = footage.clock().length();
  const std::string out = here + "/small.mkv";
  const auto render = [&](const std::string& back, const std::string& bytes) {
    return run({MOLTEN_RENDER, clip, "--stage", "time-field:back=" + back, "--size", "96x54", "--memory", bytes,
                "--progress", "none", "-o", out});
  };
  const double waits = frame * rate / 2;
  const Run second = render("1s", "4G");
  row("memory, field of 1 s back", text("%.0f MB", 1.3 * waits + 200), text("%.0f MB", second.megabytes),
      text("pixels' waits: %.0f MB", waits), text("%.2f", (second.megabytes - 200) / waits));
  if (length < static_cast<std::int64_t>(10 * rate)) return;
  const Run wide = render("10s", "4G"), narrow = render("10s", "512MB");
  row("memory, reach of 10 s in 512 MB", "563 MB", text("%.0f MB", narrow.megabytes),
      text("with 4 GB: %.0f MB", wide.megabytes), text("%.2f", narrow.megabytes / 512));
  row("  the time that it takes", "", text("%.1f s", narrow.seconds), text("with 4 GB: %.1f s", wide.seconds),
      text("%.1f", narrow.seconds / wide.seconds));
}

/// Mean PSNR of the frames that were left out, of two clips of the same length.
double likeness(const std::string& here, const std::string& made, const std::string& real) {
  const std::string log = here + "/psnr.txt";
  run({"ffmpeg", "-v", "info", "-i", made, "-i", real, "-lavfi",
       "[0:v]format=gray,select='mod(n,2)',setpts=N/TB[a];[1:v]format=gray,select='mod(n,2)',setpts=N/TB[b];[a][b]psnr",
       "-f", "null", "-"},
      log);
  std::ifstream in(log);
  const std::string said((std::istreambuf_iterator<char>(in)), {});
  const auto at = said.rfind("average:");
  return at == std::string::npos ? 0 : std::strtod(said.c_str() + at + 8, nullptr);
}

/// Every second frame is taken out and made again.
void betweenFrames(const std::string& here, const std::string& clip) {
  const std::string whole = here + "/whole.mkv", half = here + "/half.mkv", ours = here + "/flow.mkv",
                    blend = here + "/blend.mkv", theirs = here + "/peer.mkv";
  // Few frames of large pictures: the peer takes seconds for each of them.
  const Words lossless{"-an", "-c:v", "ffv1"};
  const auto make = [&](const std::string& filter, const std::string& rate, const std::string& to) {
    run({"ffmpeg", "-v", "error", "-y", "-vsync", "0", "-i", clip, "-an", "-vf", "select='lt(n,61)'," + filter, "-r",
         rate, "-pix_fmt", "yuv420p", "-c:v", "ffv1", to});
  };
  make("setpts=N/30/TB", "30", whole);
  make("select='not(mod(n,2))',setpts=N/15/TB", "15", half);
  const auto ourWay = [&](const std::string& way, const std::string& to) -> Words {
    return {MOLTEN_RENDER, half, "--rate", "30", "--between", way, "--progress", "none", "-o", to};
  };
  const auto [mine, peer] = inTurn(ourWay("flow", ours),
                                   {"ffmpeg", "-v", "error", "-y", "-i", half, "-vf",
                                    "minterpolate=fps=30:mi_mode=mci:mc_mode=aobmc:vsbmc=1", "-c:v", "ffv1", theirs},
                                   1);
  run(ourWay("mixed", blend));
  row("Flow, twice the frames", "0.2", text("%.1f s", mine), text("minterpolate: %.1f s", peer),
      text("%.2f", mine / peer));
  row("  likeness to the left-out frames (PSNR)", "above the peer", text("%.2f dB", likeness(here, ours, whole)),
      text("minterpolate: %.2f dB", likeness(here, theirs, whole)), text("Blend %.1f", likeness(here, blend, whole)));
}

void window(const std::string& here, const std::string& clip) {
  const std::string log = here + "/window.txt";
  setenv("QT_QPA_PLATFORM", "offscreen", 1);
  run({MOLTEN_BENCH_WINDOW, clip}, log);
  std::ifstream in(log);
  std::printf("\nThe window, 1280 x 800:\n");
  for (std::string line; std::getline(in, line);)
    if (line.find("QStandardPaths") == std::string::npos) std::printf("%s\n", line.c_str());
}

}  // namespace

int main(int argc, char** argv) {
  av_log_set_level(AV_LOG_QUIET);
  std::string folder = (std::filesystem::temp_directory_path() / "molten-bench-XXXXXX").string();
  if (!mkdtemp(folder.data())) return 1;
  std::string clip = argc > 1 ? argv[1] : folder + "/clip.mp4";
  if (argc == 1)
    run({"ffmpeg",
         "-v",
         "error",
         "-y",
         "-stream_loop",
         "1",
         "-i",
         MOLTEN_SOURCE "/demo/gather.mp4",
         "-an",
         "-vf",
         "scale=1920:1080:flags=bicubic",
         "-c:v",
         "libx264",
         "-preset",
         "veryfast",
         "-crf",
         "16",
         "-g",
         "60",
         clip});
  const auto footage = Footage::open(clip, {}, {}, {});
  if (!footage) {
    std::printf("%s\n", footage.error().message.c_str());
    return 1;
  }
  std::printf("%s: %d x %d, %s a second, %lld frames\n\n", (*footage)->name().c_str(), (*footage)->shape().size.width,
              (*footage)->shape().size.height, rateText((*footage)->clock().rate()).c_str(),
              static_cast<long long>((*footage)->clock().length()));
  row("what", "reach", "measured", "beside", "ratio");
  row("---", "---", "---", "---", "---");
  assembling(folder);
  rendering(folder, clip);
  mixing(folder, clip);
  memory(folder, clip, **footage);
  betweenFrames(folder, clip);
  window(folder, clip);
  std::error_code error;
  std::filesystem::remove_all(folder, error);
  return 0;
}

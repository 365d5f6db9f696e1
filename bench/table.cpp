// The whole of docs/performance.md: every figure that there is a reach for, measured, and what misses it.
//   molten-bench-table [--before RENDERER] [--quick] [FOOTAGE] > docs/performance.md
// RENDERER: molten-render of another version, measured in turn with this one. Without footage on a clip that it makes,
// 1920 × 1080 at 30 a second. Takes about half an hour; --quick: one pair of each.
#include <unistd.h>

#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/media/footage.h"
#include "trial.h"

extern "C" {
#include <libavutil/log.h>
}

namespace {

using namespace molten;
using namespace molten::bench;

struct Settings {
  std::string here, clip, before;
  int times = 3;
};

std::string text(const char* format, double value) {
  char out[64];
  std::snprintf(out, sizeof out, format, value);
  return out;
}
std::string text(const Spread& spread, const char* format = "%.2f") {
  return text(format, spread.least) + " · " + text(format, spread.middle) + " · " + text(format, spread.most);
}

void head(const std::string& title, const std::vector<std::string>& columns) {
  std::printf("\n## %s\n\n|", title.c_str());
  for (const auto& column : columns) std::printf(" %s |", column.c_str());
  std::printf("\n|");
  for (std::size_t i = 0; i < columns.size(); ++i) std::printf(" --- |");
  std::printf("\n");
}
void row(const std::vector<std::string>& cells) {
  std::printf("|");
  for (const auto& cell : cells) std::printf(" %s |", cell.c_str());
  std::printf("\n");
  std::fflush(stdout);
}
std::string verdict(double measured, double reach) {
  return measured <= reach ? "" : "**missed**";
}

Words rendered(const std::string& renderer, const std::string& clip, const Words& stages, const std::string& frames,
               const std::string& to, const Words& more = {}) {
  Words words{renderer, clip};
  for (const auto& stage : stages) words.insert(words.end(), {"--stage", stage});
  if (!frames.empty()) words.insert(words.end(), {"--frames", frames});
  words.insert(words.end(), {"--progress", "none", "-o", to});
  words.insert(words.end(), more.begin(), more.end());
  return words;
}
Words transcoded(const std::string& clip, const std::string& filter, int frames, const Words& codec, const std::string& to) {
  Words words{"ffmpeg", "-v", "error", "-y", "-i", clip, "-an", "-frames:v", std::to_string(frames)};
  if (!filter.empty()) words.insert(words.end(), {"-vf", filter});
  words.insert(words.end(), codec.begin(), codec.end());
  words.insert(words.end(), {"-pix_fmt", "yuv420p", to});
  return words;
}
const Words lossless{"-c:v", "ffv1"}, h264{"-c:v", "libx264", "-preset", "medium", "-crf", "18"};

void assembling(const Settings& settings) {
  head("Assembling one picture of 1080p from 121 that are in memory, one thread",
       {"field", "ms", "times a copy of whole frames", "reach", ""});
  const std::string file = settings.here + "/kernels.json";
  run({MOLTEN_BENCH, "--benchmark_out=" + file, "--benchmark_out_format=json", "--benchmark_repetitions=5",
       "--benchmark_min_time=0.2", "--benchmark_filter=copyWhole|assembleStage"});
  std::ifstream in(file);
  std::map<std::string, double> times;
  const auto report = nlohmann::json::parse(in);
  for (const auto& entry : report["benchmarks"])
    if (entry.value("aggregate_name", std::string()) == "median") times[entry["run_name"]] = entry["real_time"];
  const double copy = times.at("copyWholeFrames");
  row({"(whole frames)", text("%.2f", copy), "", "", ""});
  struct Field {
    const char* name;
    double reach;
  };
  for (const auto& [name, reach] : {Field{"vertical", 1.5}, {"horizontal", 6}, {"slanted", 6}, {"radial", 5}, {"sweep", 6},
                                    {"noise", 6}, {"dithered", 10}}) {
    const double time = times.at(std::string("assembleStage/") + name);
    row({name, text("%.2f", time), text("%.1f", time / copy), text("%.1f", reach), verdict(time / copy, reach)});
  }
}

/// Each stage beside the same footage encoded without any.
void stages(const Settings& settings) {
  const int frames = 120;
  std::vector<std::string> columns{"stage", "processor time: least · middle · most", "reach", ""};
  if (!settings.before.empty()) columns.insert(columns.begin() + 2, "before");
  head("Rendering 1080p to FFV1: whole processes, times a plain encoding of the same frames", columns);
  struct Case {
    const char* name;
    Words stages;
    double reach;
    bool flow = false;
  };
  const std::vector<Case> cases{
      {"(none)", {}, 1.1},
      {"Time Field, 1 s back", {"time-field:back=1s"}, 1.25},
      {"the same with keys", {"time-field:back=1s,end=0.5x1@0s+1x0.5@4s"}, 1.3},
      {"Slit Scan", {"slit-scan"}, 1.3},
      {"Strips, 20, feathered", {"strips:count=20,feather=50%,stagger=2f"}, 1.5},
      {"Echoes, mean, 8 repeats", {"echoes:repeats=8,mix=mean"}, 1.2},
      {"Echoes, wins, 8 repeats", {"echoes:repeats=8,mix=wins"}, 1.3},
      {"Echoes, light in linear light, 8 repeats", {"echoes:repeats=8,mix=light,reckoned-in=linear"}, 2},
      {"Pace of 35 %, Flow", {"pace:spans=100s@35%"}, 2, true},
      {"Finish", {"finish:exposure=0.5"}, 1.2},
      {"Framing that zooms", {"framing:zoom=120%"}, 1.5},
      {"Framing that turns", {"framing:zoom=130%,turn=4"}, 2},
  };
  const std::string out = settings.here + "/ours.mkv", other = settings.here + "/plain.mkv";
  const Words plain = transcoded(settings.clip, "", frames, lossless, other);
  for (const Case& one : cases) {
    const Words more = one.flow ? Words{"--between", "flow"} : Words{};
    const auto ours = [&](const std::string& renderer) {
      return rendered(renderer, settings.clip, one.stages, "0-" + std::to_string(frames - 1), out, more);
    };
    const Spread now = Pairs(ours(MOLTEN_RENDER), plain, settings.times).processor();
    std::vector<std::string> cells{one.name, text(now)};
    if (!settings.before.empty())
      cells.push_back(text("%.2f", Pairs(ours(settings.before), plain, 1).processor().middle));
    cells.push_back(text("%.2f", one.reach));
    cells.push_back(verdict(now.middle, one.reach));
    row(cells);
  }
}

/// Of which seconds of the processor a picture, or the ratio of two runs of this program, is asked.
void workAlone(const Settings& settings) {
  head("Work without a peer", {"what", "measured", "reach", ""});
  const std::string out = settings.here + "/ours.mkv", other = settings.here + "/none.mkv";
  const auto shutter = rendered(MOLTEN_RENDER, settings.clip, {"shutter:open=100%,built-from=motion,moments=16"}, "0-11", out);
  const auto none = rendered(MOLTEN_RENDER, settings.clip, {}, "0-11", other);
  const Pairs blurred(shutter, none, settings.times);
  const double each = (blurred.processorOf(true) - blurred.processorOf(false)) / 12;
  row({"Shutter along the motion, 16 moments: processor seconds a picture", text("%.2f", each), "0.50", verdict(each, 0.5)});
  const Words flow{"--between", "flow"};
  const auto threads = [&](const char* count) {
    Words more = flow;
    more.insert(more.end(), {"--threads", count});
    return rendered(MOLTEN_RENDER, settings.clip, {"pace:spans=100s@35%"}, "0-59", out, more);
  };
  const Spread two = Pairs(threads("1"), threads("2"), settings.times).seconds();
  row({"Flow, one thread over two", text(two), "1.70", two.middle >= 1.7 ? "" : "**missed**"});
}

/// Beside libavfilter, with the same encoder; without what decoding and encoding take.
void peers(const Settings& settings) {
  head("Beside libavfilter, H.264 to FFV1: what is left of the processor's time without the decoder and the encoder",
       {"mix", "ours", "libavfilter", "ratio", "reach", ""});
  const int frames = 120;
  const std::string out = settings.here + "/ours.mkv", other = settings.here + "/other.mkv", range = "0-119";
  const Pairs bare(rendered(MOLTEN_RENDER, settings.clip, {}, range, out),
                   transcoded(settings.clip, "null", frames, lossless, other), settings.times);
  struct Case {
    const char *name, *stage, *filter;
  };
  std::string lighten;
  for (int i = 0; i < 8; ++i) lighten += (i > 0 ? ",tblend=all_mode=lighten" : "tblend=all_mode=lighten");
  for (const auto& [name, stage, filter] :
       {Case{"mean of 9 (tmix)",
             "echoes:repeats=8,spacing=1f,nearest=90%,farthest=43%,mix=mean,where-moments-are-missing=stand-still",
             "tmix=frames=9:weights=0.43 0.478 0.53 0.59 0.656 0.729 0.81 0.9 1"},
        Case{"brightest of 9 (8 × tblend)",
             "echoes:repeats=8,spacing=1f,nearest=100%,farthest=100%,mix=wins,where-moments-are-missing=stand-still",
             lighten.c_str()}}) {
    const Pairs mixed(rendered(MOLTEN_RENDER, settings.clip, {stage}, range, out),
                      transcoded(settings.clip, filter, frames, lossless, other), settings.times);
    const double ours = mixed.processorOf(true) - bare.processorOf(true),
                 theirs = mixed.processorOf(false) - bare.processorOf(false), ratio = ours / theirs;
    row({name, text("%.1f s", ours), text("%.1f s", theirs), text("%.2f", ratio), "0.25", verdict(ratio, 0.25)});
  }
}

void encoding(const Settings& settings) {
  head("Rendering a Time Field, H.264 to H.264 (preset medium, CRF 18)", {"", "seconds: least · middle · most", "reach", ""});
  const Spread ratio = Pairs(rendered(MOLTEN_RENDER, settings.clip, {"time-field:back=1s"}, "0-119", settings.here + "/ours.mp4"),
                             transcoded(settings.clip, "", 120, h264, settings.here + "/plain.mp4"), settings.times)
                           .seconds();
  row({"times a plain transcoding", text(ratio), "1.00", verdict(ratio.middle, 1)});
}

void memory(const Settings& settings) {
  head("Memory of the whole process, 1080p to FFV1", {"what", "MB", "reach", ""});
  struct Case {
    const char* name;
    Words stages;
    const char* budget;
    double reach;
  };
  const std::string out = settings.here + "/small.mkv";
  for (const auto& [name, stages, budget, reach] :
       {Case{"Echoes, 256 MB", {"echoes:repeats=8"}, "256MB", 256 * 1.1 + 150},
        Case{"Strips, feathered, 256 MB", {"strips:count=20,feather=50%,stagger=2f"}, "256MB", 256 * 1.1 + 150},
        Case{"backwards, 512 MB", {"pace:spans=100s@-100%"}, "512MB", 512 * 1.1 + 150},
        Case{"reach of 4 s, 256 MB", {"time-field:back=4s"}, "256MB", 256 * 1.1 + 150},
        Case{"Echoes, as it comes", {"echoes:repeats=8"}, "", 800},
        Case{"Strips, feathered, as it comes", {"strips:count=20,feather=50%,stagger=2f"}, "", 800}}) {
    const Words more = *budget ? Words{"--memory", budget} : Words{};
    const double used = run(rendered(MOLTEN_RENDER, settings.clip, stages, "0-89", out, more)).megabytes;
    row({name, text("%.0f", used), text("%.0f", reach), verdict(used, reach)});
  }
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
void betweenFrames(const Settings& settings) {
  head("Flow: every second of 61 frames left out and made again", {"", "Flow", "minterpolate", "mixed", "ratio", "reach", ""});
  const std::string &here = settings.here, whole = here + "/whole.mkv", half = here + "/half.mkv", ours = here + "/flow.mkv",
                    blend = here + "/blend.mkv", theirs = here + "/peer.mkv";
  const auto make = [&](const std::string& filter, const std::string& rate, const std::string& to) {
    run({"ffmpeg", "-v", "error", "-y", "-vsync", "0", "-i", settings.clip, "-an", "-vf", "select='lt(n,61)'," + filter, "-r",
         rate, "-pix_fmt", "yuv420p", "-c:v", "ffv1", to});
  };
  make("setpts=N/30/TB", "30", whole);
  make("select='not(mod(n,2))',setpts=N/15/TB", "15", half);
  const auto ourWay = [&](const std::string& way, const std::string& to) -> Words {
    return {MOLTEN_RENDER, half, "--rate", "30", "--between", way, "--progress", "none", "-o", to};
  };
  const Pairs pairs(ourWay("flow", ours),
                    {"ffmpeg", "-v", "error", "-y", "-i", half, "-vf", "minterpolate=fps=30:mi_mode=mci:mc_mode=aobmc:vsbmc=1",
                     "-c:v", "ffv1", theirs},
                    1);
  run(ourWay("mixed", blend));
  row({"seconds", text("%.1f", pairs.secondsOf(true)), text("%.1f", pairs.secondsOf(false)), "",
       text("%.2f", pairs.seconds().middle), "0.15", verdict(pairs.seconds().middle, 0.15)});
  const double mine = likeness(here, ours, whole), peer = likeness(here, theirs, whole);
  row({"likeness to the frames left out (PSNR, dB)", text("%.1f", mine), text("%.1f", peer),
       text("%.1f", likeness(here, blend, whole)), "", "above", mine > peer ? "" : "**missed**"});
}

void window(const Settings& settings) {
  setenv("QT_QPA_PLATFORM", "offscreen", 1);
  for (const std::string& clip : {settings.clip, std::string(MOLTEN_SOURCE "/demo/gather.mp4")}) {
    const std::string log = settings.here + "/window.txt";
    run({MOLTEN_BENCH_WINDOW, clip}, log);
    std::ifstream in(log);
    std::printf("\n## The window, 1280 × 800: %s\n\n```\n", std::filesystem::path(clip).filename().c_str());
    for (std::string line; std::getline(in, line);)
      if (line.find("QStandardPaths") == std::string::npos) std::printf("%s\n", line.c_str());
    std::printf("```\n");
    std::fflush(stdout);
  }
}

}  // namespace

int main(int argc, char** argv) {
  av_log_set_level(AV_LOG_QUIET);
  Settings settings;
  for (int i = 1; i < argc; ++i) {
    const std::string word = argv[i];
    if (word == "--before" && i + 1 < argc)
      settings.before = argv[++i];
    else if (word == "--quick")
      settings.times = 1;
    else
      settings.clip = word;
  }
  settings.here = (std::filesystem::temp_directory_path() / "molten-bench-XXXXXX").string();
  if (!mkdtemp(settings.here.data())) return 1;
  if (settings.clip.empty()) {
    settings.clip = settings.here + "/clip.mp4";
    run({"ffmpeg", "-v", "error", "-y", "-i", MOLTEN_SOURCE "/demo/gather.mp4", "-an", "-vf",
         "scale=1920:1080:flags=bicubic,fps=30", "-c:v", "libx264", "-preset", "veryfast", "-crf", "16", "-g", "60",
         settings.clip});
  }
  const auto footage = Footage::open(settings.clip, {}, {}, {});
  if (!footage) {
    std::printf("%s\n", footage.error().message.c_str());
    return 1;
  }
  std::printf(
      "# What was measured\n\n"
      "The output of `molten-bench-table`, unaltered. On a virtual machine with two cores of a 2.5 GHz x86-64 server processor, no\n"
      "graphics card, Debian 12. The machine is shared: single figures differ by half between runs; ratios are of things run in\n"
      "turn, and told as least · middle · most. To repeat it:\n\n"
      "```\n"
      "cmake --preset release && cmake --build --preset release\n"
      "build/release/molten-bench-table > docs/performance.md    # all of it, in about half an hour\n"
      "build/release/molten-bench-table --before OTHER           # another version's molten-render beside this one's\n"
      "build/release/molten-bench                                # the kernels alone\n"
      "QT_QPA_PLATFORM=offscreen build/release/molten-bench-window [FOOTAGE]\n"
      "QT_QPA_PLATFORM=offscreen build/release/molten-bench-hours MINUTES [FOOTAGE...]\n"
      "```\n\n"
      "Its clip: %d × %d, %s a second, %lld frames, H.264. Pairs of each: %d.\n",
      (*footage)->shape().size.width, (*footage)->shape().size.height, rateText((*footage)->clock().rate()).c_str(),
      static_cast<long long>((*footage)->clock().length()), settings.times);
  assembling(settings);
  stages(settings);
  workAlone(settings);
  peers(settings);
  encoding(settings);
  memory(settings);
  betweenFrames(settings);
  window(settings);
  std::error_code error;
  std::filesystem::remove_all(settings.here, error);
  return 0;
}

// How quickly pictures of a camera come: from their arrival to when they are made and ready for a screen, for chains that are
// used live. molten-bench-live [SECONDS [CHAIN...]]
#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <mutex>
#include <string>
#include <vector>

#include "core/engine/live_run.h"
#include "core/engine/render_job.h"
#include "core/machine.h"

using namespace molten;

namespace {

struct Case {
  const char* what;
  Size size;
  std::vector<std::string> stages;
};

const std::vector<Case>& cases() {
  static const std::vector<Case> all = {
      {"720p30, nothing", {1280, 720}, {}},
      {"720p30, travelling slit", {1280, 720}, {"slit-scan:sweep=4s,before-the-slit=last-sweep"}},
      {"720p30, field of 2 s", {1280, 720}, {"time-field:back=2s"}},
      {"720p30, four taps", {1280, 720}, {"strips:shape=tiles,count=2,rows=2,delays=typed,taps=4,tap-1=0s,tap-2=2s,tap-3=5s,tap-4=10s"}},
      {"720p30, all three",
       {1280, 720},
       {"slit-scan:sweep=4s,before-the-slit=last-sweep", "time-field:back=2s",
        "strips:shape=tiles,count=2,rows=2,delays=typed,taps=4,tap-1=0s,tap-2=2s,tap-3=5s,tap-4=10s"}},
      {"720p30, melting mirror", {1280, 720}, {"time-field:shape=noise,cloud-size=45%,finer-layers=1.5,change=0.12,back=1.6s", "framing:mirror=across"}},
      {"720p30, slow ghosts", {1280, 720}, {"echoes:repeats=4,spacing=0.8s,nearest=75%,farthest=25%,mix=mean"}},
      {"1080p30, field of 4 s", {1920, 1080}, {"time-field:back=4s"}},
  };
  return all;
}

double part(std::vector<double> all, double share) {
  if (all.empty()) return 0;
  std::sort(all.begin(), all.end());
  return all[std::min(all.size() - 1, static_cast<std::size_t>(share * static_cast<double>(all.size())))];
}

void measure(const Case& one, double seconds) {
  LiveOptions options;
  options.budget = std::make_shared<MemoryBudget>(usualBudget());
  CameraChoice camera;
  camera.size = one.size;
  Chain chain;
  for (const std::string& stage : one.stages)
    if (auto added = appendStage(chain, stage, 30); !added) std::printf("%s\n", added.error().message.c_str());
  RingSettings ring;
  ring.seconds = 22;
  ring.bytes = usualBudget() / 2;
  std::mutex mutex;
  std::vector<double> took;
  Converter converter;
  LiveRun run(camera, ring, LiveChain{chain}, options, [&](const LivePicture& picture) {
    const auto image = toScreen(converter, picture.picture, one.size, Scaling::Screen);
    const std::scoped_lock lock(mutex);
    took.push_back(options.clock->now() - picture.arrived);
  });
  const double full = 11;  // then every tap has its moment
  options.clock->waitUntil(full, {});
  {
    const std::scoped_lock lock(mutex);
    took.clear();
  }
  const LiveState before = run.state();
  options.clock->waitUntil(full + seconds, {});
  const LiveState after = run.state();
  std::vector<double> all;
  {
    const std::scoped_lock lock(mutex);
    all = took;
  }
  std::printf("| %s | %.1f | %.1f | %.1f | %.1f | %lld of %lld |\n", one.what, part(all, 0.5) * 1000, part(all, 0.95) * 1000, part(all, 1) * 1000,
              static_cast<double>(all.size()) / seconds, static_cast<long long>(after.passedOver - before.passedOver),
              static_cast<long long>(after.arrived() - before.arrived()));
  std::fflush(stdout);
}

}  // namespace

int main(int argc, char** argv) {
  returnMemoryAtOnce();
  const double seconds = argc > 1 ? std::atof(argv[1]) : 10;
  std::printf("| on the simulated camera | ms from arrival to a picture for the screen: middle | p95 | most | pictures a second | passed over |\n| --- | --- | --- | --- | --- | --- |\n");
  if (argc > 2) {
    Case own{"its own chain, 720p30", {1280, 720}, {}};
    for (int i = 2; i < argc; ++i) own.stages.emplace_back(argv[i]);
    measure(own, seconds);
    return 0;
  }
  for (const Case& one : cases()) measure(one, seconds);
}

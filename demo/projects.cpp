// The demonstration's projects, each on one of its clips.
#include <cstdio>
#include <string>
#include <vector>

#include "core/project/project_file.h"
#include "core/project/reel.h"
#include "core/project/starter.h"
#include "scene.h"

namespace demo {
namespace {

using namespace molten;

struct Written {
  const char* name;
  const char* footage;
  std::vector<std::string> stages;
  Rational rate = 0;  // of the output; 0: the footage's
  InBetween between = InBetween::Whole;
  std::vector<std::string> sounds = {};
};

const std::vector<Written>& projects() {
  static const std::vector<Written> all = {
      {"gather",
       "gather.mp4",
       {"time-field:start=0.45x0.79,end=0.45x0.24,back=1.5s,past-the-ends=go-round"},
       0,
       InBetween::Mixed},
      // Slow on the gauge, the plate and the valve, and a race from each to the next.
      {"racing",
       "tour.mp4",
       {"pace:spans=2s@60%~0.5s+1.1s@380%~0.5s+3s@30%~0.5s+1.15s@380%~0.6s+2.5s@45%"},
       30,
       InBetween::Flow},
      {"there-and-back",
       "tour.mp4",
       {"pace:from=4s,spans=0.6s@0%~1.2s+2.4s@120%~1.2s+0.6s@0%", "loop"},
       30,
       InBetween::Flow},
      {"stopped", "gather.mp4", {"pace:spans=2.3s@100%~0.1s+1.5s@0%~0.3s+3.5s@100%"}},
      {"replay",
       "gather.mp4",
       {"pace:spans=1.6s@100%~0.2s+0.6s@-200%~0.2s+0.8s@150%~0.2s+0.6s@-200%~0.2s+1.2s@100%~0.4s+2s@250%"}},
      // Up with the one whirr, down with the other.
      {"ramp-on-whirrs",
       "ladle.mp4",
       {"pace:spans=1.9s@30%~2.4s+3s@160%~2.4s+1.6s@30%"},
       30,
       InBetween::Flow,
       {"rising-whirr.flac@0.7s,gain=-8dB", "falling-whirr.flac@3.7s,gain=-8dB", "furnace-hum.flac@0s,loop,gain=-20dB,fade-in=0.5s,fade-out=0.8s"}},
      // Back and again on four hits.
      {"scratch",
       "gather.mp4",
       {"pace:from=1.5s,spans=0.9s@120%~0.08s+0.5s@-120%~0.08s+0.75s@120%~0.08s+0.5s@-120%~0.08s+1.5s@120%"},
       0,
       InBetween::Whole,
       {"four-hits.flac@0.5s"}},
      // The words stand anew with every hit.
      {"hammered-title",
       "yard.mp4",
       {"pace:spans=4s@200%",
        "insert:shows=title,text=FERROWICK,letters=20%,colour=f3efe6,shade=50%,opacity=0%@0s+100%@0.9s~hold,"
        "at=0.5x0.2@0.9s+0.5x0.5@1.4s~hold+0.3x0.5@2.15s~hold+0.5x0.75@2.65s~hold",
        "finish:exposure=0.8_follow_loudness_0_50%_95%_1_0_0_0.01s_0.5s"},
       30,
       InBetween::Mixed,
       {"four-hits.flac@0.5s"}},
      // Four windows that show now, two, five and ten seconds ago.
      {"four-clocks", "yard.mp4", {"strips:shape=tiles,count=2,rows=2,delays=typed,taps=4,tap-1=0s,tap-2=2s,tap-3=5s,tap-4=10s,divider-line=4px"}},
      // As a camera that was left standing has it.
      {"night",
       "yard.mp4",
       {"pace:spans=9s@222%", "shutter:open=100%,fps=10", "step-rate:rate=10",
        "finish:contrast=112%,flicker=0.18,grain=6%,grain-size=1.8px"},
       30},
      {"drained", "gather.mp4", {"pace:spans=2.3s@100%~0.4s+1.8s@0%~0.6s+3.5s@100%", "finish:saturation=110%_follow_speed_0%"}},
      // The inspector has all the time in the world.
      {"inspection",
       "gather.mp4",
       {"pace:spans=2.2s@100%~0.6s+6.2s@0%~0.6s+1.6s@100%", "finish:saturation=105%_follow_speed_0%",
        "insert:source=inspector.mp4,starts-at=2s,at=0.56x0.47,scale=118%,key=colour,key-colour=3d9650,near=14%,soft=74%",
        "insert/pace:spans=1s@125%~0.4s+5.6s@100%"}},
      // Cut up together with the yard that it is laid over.
      {"cut-figure",
       "yard.mp4",
       {"insert:source=inspector.mp4,starts-at=1s,scale=135%,at=0.5x0.4,key=colour,key-colour=3d9650",
        "strips:count=16,stagger=4f,now-stands-at=middle,past-the-ends=turn-back"}},
      // One title after another, melting as they come and go.
      {"night-shift",
       "yard.mp4",
       {"pace:spans=10s@200%",
        "insert:shows=title,text=FERROWICK,letters=22%,starts-at=0.5s,to=4.6s,colour=f3efe6,shade=50%,"
        "at=0.5x-0.2@0.5s+0.5x0.36@2s~ease+0.5x0.36@4s+0.5x0.62@5.1s~ease,opacity=100%@4.2s+0%@5.1s",
        "insert:shows=title,text=night shift,letters=22%,starts-at=5s,colour=9ad8ac,shade=50%,at=0.5x1.2@5s+0.5x0.36@6.5s~ease",
        "time-field:shape=noise,cloud-size=16%,finer-layers=1.6,seed=4,change=0.3,back=0.6s,past-the-ends=turn-back"},
       30,
       InBetween::Mixed},
      // A title that grows from its left side, bent in panes.
      {"bent-title",
       "trolley.mp4",
       {"insert:shows=title,text=OVENS 3 TO 9,letters=19%,weight=900,colour=f3efe6,outline=2%,"
        "width=0%@0.4s+100%@1.8s~ease+100%@5s+0%@6.6s~ease,grows-from=left,at=0.07x0.36",
        "time-field:start=0.05x0.1,end=0.95x0.9,panes=14,back=1.2s,past-the-ends=turn-back"},
       24},
      // The bottles in the middle of the frame, which goes the other way than they do at last.
      {"tall", "trolley.mp4", {"framing:shape=tall,place=0.45x0.5@0s+0.6x0.5@4s~ease+0.3x0.5@8s~ease"}},
      // Nearer to the pour as it slows, and away again.
      {"pour",
       "ladle.mp4",
       {"pace:spans=0.8s@210%~0.7s+6.5s@40%~0.8s+0.8s@210%",
        "framing:zoom=100%@0.4s+280%@2s~ease+280%@6.4s+100%@8s~ease,place=0.68x0.61,blur=50%"},
       30,
       InBetween::Flow},
      // Where it turns the vessel is wrung; the furnace and the lamp stay on their moments.
      {"twist",
       "gather.mp4",
       {"time-field:start=0.45x0.79,end=0.45x0.24,back=1.2s,ahead=0.3s,response=0x0+0.25x0.06+0.75x0.94+1x1,"
        "combine=only-where,second-shape=radial,second-centre=0.45x0.52,second-inner=55%,second-outer=22%,"
        "past-the-ends=go-round"},
       0,
       InBetween::Flow},
      {"melt",
       "gather.mp4",
       {"time-field:shape=noise,cloud-size=26%,finer-layers=1.6,seed=4,combine=product,second-shape=linear,"
        "second-start=0.5x0.2,second-end=0.5x0.75,flip,back=2.6s,past-the-ends=turn-back"},
       0,
       InBetween::Mixed},
      {"glass-steps",
       "trolley.mp4",
       {"time-field:start=0.08x0.2,end=0.92x0.8,panes=9,back=1.5s,ahead=0.5s,past-the-ends=turn-back"}},
      {"rings",
       "gather.mp4",
       {"time-field:shape=radial,centre=0.45x0.55,inner=6%,outer=78%,repeat=4,mirror,back=0.9s,past-the-ends=turn-"
        "back"},
       0,
       InBetween::Flow},
      // The bottles in the middle are held; what is beside them is drawn out to where it is now.
      {"accordion",
       "trolley.mp4",
       {"time-field:shape=linear,start=0.67x0.5,end=1x0.5,combine=larger,second-shape=linear,second-start=0.3x0.5,"
        "second-end=0x0.5,start-holds=pinned,pinned-moment=2s,let-go=6s,let-go-over=1.5s"},
       0,
       InBetween::Flow},
      {"clouds",
       "trolley.mp4",
       {"time-field:shape=noise,cloud-size=55%,finer-layers=3,change=0.35,seed=11,back=1.2s,ahead=0.4s,dither=1f,"
        "past-the-ends=turn-back"},
       0,
       InBetween::Mixed},
      // The line turns as it grows.
      {"growing",
       "gather.mp4",
       {"time-field:start=0.1x0.5@0s+0.5x0@3s~ease+0.9x0.5@6.5s~ease,end=0.9x0.5@0s+0.5x1@3s~ease+0.1x0.5@6.5s~ease,"
        "back=0s@0s+0.4s@2s~ease+1.6s@6s~ease,past-the-ends=go-round"},
       0,
       InBetween::Flow},
      {"tongs", "poses/poses-%05d.png", {"frame-order:order=0:4+1:3+2:2+3:6+2:2+1:2+0:3+3:2+0:6"}},
  };
  return all;
}

/// The starters that make something new of the demo, each on the clip that suits it.
struct Started {
  const char *name, *starter, *footage;
  Rational rate;
  std::int64_t length;
};
constexpr Size size{1280, 720};

const std::vector<Started>& started() {
  static const std::vector<Started> all = {
      {"day-fan", "Day fan", "yard.mp4", 30, 600},
      {"travelling-strips", "Travelling strips", "yard.mp4", 30, 600},
      {"mosaic", "Mosaic", "yard.mp4", 30, 600},
      {"rings-of-time", "Rings of time", "gather.mp4", 60, 480},
      {"ghosts", "Ghosts", "sparks.mp4", 30, 240},
      {"light-trails", "Light trails", "sparks.mp4", 30, 240},
      {"slow-shutter", "Slow shutter", "sparks.mp4", 30, 240},
      {"stop-motion-ghost", "Stop-motion ghost", "sparks.mp4", 30, 240},
      {"ghost-in-steps", "Ghost in steps", "gather.mp4", 60, 480},
      {"crossing-slit", "Crossing slit", "yard.mp4", 30, 600},
      {"wall-of-moments", "Wall of moments", "yard.mp4", 30, 600},
      {"sharp-ghosts", "Sharp ghosts", "gather.mp4", 60, 480},
      {"strip-photograph", "Strip photograph", "trolley.mp4", 24, 192},
      {"race-and-rest", "Race and rest", "tour.mp4", 60, 720},
      {"shaken-shutter", "Shaken shutter", "sparks.mp4", 30, 240},
  };
  return all;
}

bool writeProject(const Project& project, const std::string& path) {
  const auto saved = saveProject(project, path);
  if (!saved) std::fprintf(stderr, "draw-demo: %s\n", saved.error().message.c_str());
  return static_cast<bool>(saved);
}

/// A round of the works: from the gauges to the ladle and on, through two cuts that are raced through and one that dissolves.
struct ReelShot {
  const char* footage;
  std::vector<std::string> stages;
  InBetween between;
  Rational from, to;  // of what leaves the chain, in seconds
  Cut cut;
};

bool writeReel(const std::string& folder) {
  const std::vector<ReelShot> reel = {
      {"tour.mp4", {"pace:spans=2s@60%~0.5s+1.1s@380%~0.5s+2s@40%~0.5s+1.9s@120%"}, InBetween::Flow, 0, Rational(7), {0, false, {4, Rational(3, 4)}}},
      {"ladle.mp4", {}, InBetween::Flow, Rational(1, 2), 6, {1, true, {}}},
      {"sparks.mp4", {"echoes:repeats=5,spacing=3f,mix=wins"}, InBetween::Whole, 1, 6, {0, false, {3, Rational(1, 2)}}},
      {"gather.mp4", {"time-field:start=0.45x0.79,end=0.45x0.24,back=1s,past-the-ends=go-round"}, InBetween::Mixed, 1, Rational(15, 2), {}},
      {"yard.mp4", {"strips:count=7,stagger=12f"}, InBetween::Whole, 4, Rational(39, 4), {}},
  };
  std::vector<Shot> shots;
  for (const ReelShot& one : reel) {
    Shot shot;
    shot.source = {folder + "/" + one.footage, {}, one.between};
    for (const std::string& text : one.stages)
      if (const auto added = appendStage(shot.chain, text, 60); !added) {
        std::fprintf(stderr, "draw-demo: %s\n", added.error().message.c_str());
        return false;
      }
    shot.place = {"", true, one.from, one.to, false, one.cut};
    shots.push_back(std::move(shot));
  }
  Project project = withShots({}, std::move(shots));
  project.output.rate = 30;
  for (const char* const text : {"/rising-whirr.flac@3.9s,gain=-8dB", "/falling-whirr.flac@5.9s,gain=-10dB", "/furnace-hum.flac@0s,loop,gain=-18dB,fade-in=0.5s,fade-out=1s"}) {
    const auto laid = parseLaidSound(folder + text, 60);
    if (!laid) {
      std::fprintf(stderr, "draw-demo: %s\n", laid.error().message.c_str());
      return false;
    }
    project.sounds.push_back(*laid);
  }
  return writeProject(project, folder + "/round-of-the-works.molten");
}

}  // namespace

bool writeProjects(const std::string& folder) {
  if (!writeReel(folder)) return false;
  for (const Written& written : projects()) {
    Project project;
    project.source.path = folder + "/" + written.footage;
    project.source.between = written.between;
    if (written.footage[0] == 'p') project.source.rate = 12;
    for (const std::string& text : written.stages)
      if (const auto added = appendStage(project.chain, text, 60); !added) {
        std::fprintf(stderr, "draw-demo: %s\n", added.error().message.c_str());
        return false;
      }
    for (Stage& stage : project.chain)
      if (auto own = stage.kind->ownSource(stage.values)) {
        own->use.path = folder + "/" + own->use.path;
        stage.values = stage.kind->withOwnSource(stage.values, *own);
      }
    for (const std::string& text : written.sounds) {
      const auto laid = parseLaidSound(folder + "/" + text, 60);
      if (!laid) {
        std::fprintf(stderr, "draw-demo: %s\n", laid.error().message.c_str());
        return false;
      }
      project.sounds.push_back(*laid);
    }
    if (written.rate > Rational(0)) project.output.rate = written.rate;
    if (!writeProject(project, folder + "/" + written.name + ".molten")) return false;
  }
  for (const Started& one : started())
    for (const Starter& starter : builtInStarters()) {
      if (starter.name != one.starter) continue;
      Project project;
      project.source.path = folder + "/" + one.footage;
      project.chain = fitted(starter, {size, 1, one.rate, one.length});
      if (!writeProject(project, folder + "/" + one.name + ".molten")) return false;
    }
  return true;
}

}  // namespace demo

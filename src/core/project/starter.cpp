#include "core/project/starter.h"

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <vector>

#include "core/project/json_text.h"
#include "core/project/paintings.h"
#include "core/project/project_file.h"
#include "core/files/read_file.h"
#include "core/files/safe_file.h"

namespace molten {
namespace {

using Json = nlohmann::ordered_json;
namespace fs = std::filesystem;

constexpr int starterFormat = 2;
constexpr std::size_t mostBytes = std::size_t(16) << 20;

struct BuiltIn {
  const char *name, *help;
  std::vector<const char*> stages;
};

/// Written for eight seconds of 1280 × 720 at 30 frames a second.
const std::vector<BuiltIn>& builtIns() {
  static const std::vector<BuiltIn> all = {
      {"Twist", "The top is behind the bottom: what turns is wrung.", {"time-field:back=1.2s"}},
      {"Melt",
       "Drips of time from the bottom up.",
       {"time-field:shape=noise,cloud-size=26%,finer-layers=1.6,seed=4,combine=product,second-shape=linear,"
        "second-start=0.5x0.1,second-end=0.5x0.8,flip,back=2s,past-the-ends=turn-back"}},
      {"Glass steps",
       "Panes of glass, each a step further back.",
       {"time-field:start=0.1x0.2,end=0.9x0.8,panes=8,back=1.4s,past-the-ends=turn-back"}},
      {"Day fan",
       "Strips of the whole clip side by side, as a loop without a seam.",
       {"loop", "strips:count=20,gap=over-the-clip,divider-line=1px,line-colour=131416"}},
      {"Ghosts",
       "Bright repeats that follow what moves.",
       {"echoes:repeats=6,spacing=0.12s,nearest=72%,farthest=14%,mix=wins"}},
      {"Light trails",
       "What shines draws lines that fade.",
       {"echoes:repeats=40,spacing=0.033333333333s,nearest=95%,farthest=13%,mix=wins"}},
      {"Slow shutter",
       "A long exposure that keeps its brightness.",
       {"echoes:repeats=24,spacing=0.033333333333s,nearest=100%,farthest=100%,mix=mean,reckoned-in=linear,"
        "keep-brightness=on,where-moments-are-missing=leave-out"}},
      {"Sharp ghosts",
       "Six ghosts of what moves before a background that stays sharp.",
       {"echoes:repeats=6,spacing=0.2s,nearest=80%,farthest=40%,mix=layers,only-what-moves"}},
      {"Strip photograph",
       "One slit of the whole clip unrolled into a long still.",
       {"slit-scan:slit=stands,result=one-picture,picture-length=3840px,slit-width=16px"}},
      {"Crossing slit", "A slit crosses the frame and leaves its moments behind.", {"slit-scan:slit-width=1px"}},
      {"There and back", "To the end and back to the beginning, slow at both.", {"loop:ease=0.6s"}},
      {"Stop-motion ghost",
       "Few fps, each with the last ones behind it.",
       {"step-rate:rate=8", "echoes:repeats=3,spacing=0.125s,present=120%,nearest=55%,farthest=17%,mix=mean"}},
      {"Ghost in steps",
       "The present runs smoothly, its repeats in steps.",
       {"echoes:repeats=5,spacing=0.2s,copies-fps=6,nearest=70%,farthest=17%,mix=wins"}},
      {"Rings of time",
       "Rings about the middle, each further back.",
       {"strips:shape=rings,count=12,stagger=3f,past-the-ends=turn-back"}},
      {"Travelling strips",
       "Strips of other moments pass through the frame.",
       {"loop", "strips:count=12,stagger=6f,delays=by-lot,offset=0%@0s+100%@16s,feather=30%"}},
      {"Mosaic",
       "Squares by lot, each at its own moment.",
       {"loop", "strips:shape=grid,count=16,rows=9,stagger=2f,delays=by-lot,seed=7"}},
      {"Wall of moments",
       "The whole picture sixteen times, each a little later.",
       {"loop", "strips:shape=tiles,count=4,rows=4,gap=over-the-clip,divider-line=2px"}},
      {"Race and rest",
       "Slow, a race, and slow again, filmed with an open shutter.",
       {"pace:spans=3s@50%~0.6s+1s@400%~0.6s+5s@50%", "shutter:open=50%,falls=around"}},
      {"Closer as it slows",
       "A ramp into slow motion, the frame drawing nearer meanwhile, its own move blurred.",
       {"pace:spans=2.5s@150%~1.2s+7s@45%", "framing:zoom=100%@1s+180%@5s~ease,place=0.5x0.4,blur=50%"}},
      {"Shaken shutter",
       "A hand's shake, a long exposure, and the light brought back last.",
       {"framing:shake=2%,shakes=2.5,shake-turn=0.6deg",
        "echoes:repeats=15,spacing=0.033333333333s,nearest=100%,farthest=100%,mix=light,below-white=off,"
        "reckoned-in=linear,where-moments-are-missing=leave-out",
        "finish:exposure=-3.5"}},
      {"Standing camera",
       "Ten pictures a second, the shutter open for each, with flicker and grain.",
       {"shutter:open=100%,fps=10", "step-rate:rate=10", "finish:saturation=75%,flicker=0.2,grain=7%"}},
      {"Drained",
       "The colour goes as the world stops, and comes back with it.",
       {"pace:spans=3s@100%~0.6s+2s@0%~0.6s+4s@100%", "finish:saturation=100%_follow_speed_0%"}},
      {"Walk on",
       "The world stops and drains; whoever is laid in goes on. Choose who in the Insert's Dials.",
       {"pace:spans=2s@100%~0.6s+4s@0%~0.6s+2s@100%", "finish:saturation=100%_follow_speed_0%",
        "insert:starts-at=2s"}},
      {"Melting title",
       "A title comes in and melts; what it says is in the Insert's Dials.",
       {"insert:shows=title,letters=22%,shade=50%,at=0.5x-0.2@0s+0.5x0.4@1.5s~ease+0.5x0.4@5s+0.5x1.2@6.5s~ease",
        "time-field:shape=noise,cloud-size=16%,finer-layers=1.6,seed=4,back=0.6s,past-the-ends=turn-back"}},
      {"Bent title",
       "A title grows from its left side, bent by panes of time.",
       {"insert:shows=title,letters=24%,weight=900,width=0%@0s+100%@1.5s~ease,grows-from=left,at=0.1x0.4",
        "time-field:start=0.05x0.1,end=0.95x0.9,panes=14,back=1.2s,past-the-ends=turn-back"}},
      {"Tall cut",
       "A tall piece, going from one side of a wide clip to the other.",
       {"framing:shape=tall,place=0.15x0.5@0s+0.85x0.5@8s~ease"}},
      {"Unrolled passers-by",
       "Whoever walks by is unrolled by a slit that stands still; for a camera, or a camera left standing.",
       {"slit-scan:slit=stands,position=0.5x0.5,angle=180,slit-width=4px,sweep=8s,before-the-slit=last-sweep"}},
      {"Four clocks",
       "Four windows: now, and two, five and ten seconds ago. Each is typed in the Dials; for a camera.",
       {"strips:shape=tiles,count=2,rows=2,delays=typed,taps=4,tap-1=0s,tap-2=2s,tap-3=5s,tap-4=10s,divider-line=4px"}},
      {"Melting mirror",
       "A mirror that runs down like glass; for a camera.",
       {"time-field:shape=noise,cloud-size=45%,finer-layers=1.5,change=0.12,back=1.6s", "framing:mirror=across"}},
      {"Slow ghosts",
       "Whoever moves is followed by slow ghosts; for a camera.",
       {"echoes:repeats=4,spacing=0.8s,nearest=75%,farthest=25%,mix=mean"}},
  };
  return all;
}

/// As far as a Pace may be stretched.
PaceSpans stretched(PaceSpans spans, Rational by) {
  Rational total = 0;
  for (const PaceSpan& span : spans) total = total + span.length;
  if (total * by > Rational(longestPace)) by = Rational(longestPace) / total;
  for (PaceSpan& span : spans) span.length = span.length * by, span.glide = span.glide * by;
  return spans;
}

}  // namespace

std::span<const Starter> builtInStarters() {
  static const std::vector<Starter> starters = [] {
    std::vector<Starter> made;
    for (const BuiltIn& one : builtIns()) {
      Starter starter{one.name, one.help, {{1280, 720}, 1, 30, 240}, {}};
      for (const char* const text : one.stages)
        (void)appendStage(starter.chain, text, 30);
      made.push_back(std::move(starter));
    }
    return made;
  }();
  return starters;
}

Chain fitted(const Starter& starter, const VideoDescription& footage) {
  const Rational longer = Rational::near((footage.seconds() / starter.madeFor.seconds()).toDouble());
  const double shorter = std::min(1.0, longer.toDouble());
  const double faster = (footage.rate / starter.madeFor.rate).toDouble();
  const double wider = static_cast<double>(footage.size.width) / std::max(1, starter.madeFor.size.width);
  Chain chain = starter.chain;
  for (Stage& stage : chain) {
    const auto& parameters = stage.kind->description().parameters;
    for (std::size_t i = 0; i < parameters.size(); ++i) {
      if (!isInUse(stage.kind->description(), stage.values, i)) continue;
      const auto* const number = std::get_if<NumberDescription>(&parameters[i].kind);
      const double by = !number                         ? 1
                        : number->unit == Unit::Seconds ? shorter
                        : number->unit == Unit::Frames  ? shorter * faster
                        : number->unit == Unit::Pixels  ? wider
                                                        : 1;
      const auto scaled = [&](double value) {
        double result = value * by;
        // A line of one pixel is meant to be thin, not to vanish.
        if (number->unit == Unit::Pixels && value >= 1) result = std::max(1.0, std::round(result));
        return std::get<double>(withinRange(parameters[i], result));
      };
      if (number) stage.values[i] = scaled(std::get<double>(stage.values[i]));
      if (auto* const spans = std::get_if<PaceSpans>(&stage.values[i])) *spans = stretched(*spans, longer);
      Movement movement = movementOf(stage, i);
      for (Key& key : movement.keys) {
        key.at = key.at * longer;
        if (number) key.value[0] = scaled(key.value[0]);
      }
      for (Drive& drive : movement.drives) {
        if (auto* const jitter = std::get_if<Jitter>(&drive)) jitter->amount[0] *= by;
        if (auto* const wave = std::get_if<Wave>(&drive)) wave->amount[0] *= by;
        if (auto* const follow = std::get_if<Follow>(&drive); follow && number) follow->at[0] = scaled(follow->at[0]);
      }
      setMovement(stage, i, movement);
    }
  }
  return chain;
}

Status saveStarter(const Starter& starter, const std::string& path) {
  const VideoDescription& made = starter.madeFor;
  Json json{{"format", starterFormat},
            {"starter", starter.name},
            {"help", starter.help},
            {"made-for",
             {{"size", {made.size.width, made.size.height}},
              {"rate", std::to_string(made.rate.num()) + "/" + std::to_string(made.rate.den())},
              {"pictures", made.length}}}};
  const fs::path whole = placeOfBytes(path);
  Chain chain = starter.chain;
  auto files = writePaintings({&chain}, whole.string());
  if (!files) return files.error();
  json["chain"] = Json::parse(chainText(chain, whole.parent_path().string()), nullptr, false);
  auto file = SafeFile::of(whole.string(), json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n");
  if (!file) return file.error();
  files->push_back(std::move(*file));
  return commitTogether(std::move(*files));
}

Result<Starter> loadStarter(const std::string& path) {
  const std::string name = fs::path(path).filename().string();
  const auto text = readWhole(path, mostBytes);
  if (!text) return text.error();
  const auto parsed = parseJson(*text);
  const Error wrong{name + " is not a starter of Molten Clock, or it is damaged."};
  if (!parsed || !parsed->is_object()) return wrong;
  const Json& json = *parsed;
  if (!json.contains("format") || !json["format"].is_number_integer() || !json.contains("starter") ||
      !json["starter"].is_string() || !json.contains("chain") || !json["chain"].is_array())
    return wrong;
  const auto format = wholeNumber(json["format"], 1, starterFormat);
  if (!format && json["format"] > starterFormat)
    return Error{name + " was saved by a later version of Molten Clock; open it with that one."};
  if (!format) return wrong;
  Starter starter;
  starter.name = json["starter"].get<std::string>();
  if (json.contains("help") && json["help"].is_string()) starter.help = json["help"].get<std::string>();
  starter.madeFor = {{1280, 720}, 1, 30, 240};
  if (const auto made = json.find("made-for"); made != json.end() && made->is_object()) {
    constexpr int widest = 1 << 16;
    if (const auto size = made->find("size"); size != made->end() && size->is_array() && size->size() == 2)
      starter.madeFor.size = {static_cast<int>(wholeNumber((*size)[0], 1, widest).value_or(1280)),
                              static_cast<int>(wholeNumber((*size)[1], 1, widest).value_or(720))};
    if (const auto rate = made->find("rate"); rate != made->end() && rate->is_string())
      starter.madeFor.rate = parseRate(rate->get<std::string>()).value_or(Rational(30));
    if (const auto length = made->find("pictures"); length != made->end())
      starter.madeFor.length = wholeNumber(*length, 1, 1 << 29).value_or(240);
  }
  auto chain = parseChain(json["chain"].dump(), starter.madeFor.rate, placeOfBytes(path).parent_path().string(),
                          static_cast<int>(*format));
  if (!chain) return Error{name + " cannot be used: " + chain.error().message};
  starter.chain = std::move(*chain);
  (void)readPaintings(starter.chain);
  return starter;
}

}  // namespace molten

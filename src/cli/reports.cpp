#include "cli/reports.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <nlohmann/json.hpp>

#include "core/engine/source_material.h"
#include "core/number_text.h"
#include "core/project/piece.h"

namespace molten {
namespace {

using Json = nlohmann::ordered_json;

struct UnitNames {
  const char *after, *name;  ///< after a range; in JSON
};
UnitNames namesOf(Unit unit) {
  switch (unit) {
    case Unit::Seconds:
      return {" s", "seconds"};
    case Unit::PerSecond:
      return {" fps", "fps"};
    case Unit::Times:
      return {" times a second", "times a second"};
    case Unit::Frames:
      return {" frames", "frames"};
    case Unit::Percent:
      return {" %", "fraction"};
    case Unit::Degrees:
      return {" degrees", "degrees"};
    case Unit::Stops:
      return {" stops", "stops"};
    case Unit::Decibels:
      return {" dB", "decibels"};
    case Unit::Hertz:
      return {" Hz", "hertz"};
    case Unit::Pixels:
      return {" pixels", "pixels"};
    case Unit::None:
      break;
  }
  return {"", ""};
}

std::string rangeText(const ParameterDescription& p) {
  if (const auto* number = std::get_if<NumberDescription>(&p.kind)) {
    const double times = number->unit == Unit::Percent ? 100 : 1;
    constexpr int digits = 6;
    return shortText(number->least * times, digits) + " to " + shortText(number->most * times, digits) + namesOf(number->unit).after;
  }
  if (std::holds_alternative<PlaceDescription>(p.kind)) return "across x down, fractions of the picture";
  if (std::holds_alternative<ToggleDescription>(p.kind)) return "on, off";
  if (std::holds_alternative<SpansDescription>(p.kind)) return "length@speed~glide~bend:side, joined by +; or whole";
  if (std::holds_alternative<OrderDescription>(p.kind)) return "frame or first-last, : hold, joined by +; or whole";
  if (std::holds_alternative<CurveDescription>(p.kind)) return "points 0x0+0.3x0.7+1x1, or straight";
  if (std::holds_alternative<FileDescription>(p.kind)) return "a path";
  if (const auto* text = std::get_if<TextDescription>(&p.kind)) return text->typeface ? "a typeface" : "words; \\n is a new line";
  if (std::holds_alternative<PaintingDescription>(p.kind)) return "the path of a PNG";
  if (std::holds_alternative<ColourDescription>(p.kind)) return "six digits: red, green, blue, like ffd24a";
  std::string all;
  for (const auto& choice : std::get<ChoicesDescription>(p.kind).choices) all += (all.empty() ? "" : ", ") + choice.id;
  return all;
}

std::string kindName(const ParameterDescription& p) {
  static constexpr const char* names[] = {"number", "position", "toggle", "choice",   "spans",
                                          "frames", "curve",    "file",   "words",    "painting", "colour"};
  return names[p.kind.index()];
}

std::string fractionText(Rational r) {
  return std::to_string(r.num()) + "/" + std::to_string(r.den());
}

Json stageJson(const StageKind& kind) {
  const StageDescription& described = kind.description();
  Json json{{"id", described.id}, {"label", described.label}, {"help", described.help}, {"parameters", Json::array()}};
  for (const auto& p : described.parameters) {
    Json parameter{{"id", p.id},     {"label", p.label},           {"kind", kindName(p)},
                   {"help", p.help}, {"animatable", p.animatable}, {"default", valueText(p, initialValue(p))}};
    if (const auto* number = std::get_if<NumberDescription>(&p.kind)) {
      parameter["unit"] = namesOf(number->unit).name;
      parameter["least"] = number->least;
      parameter["most"] = number->most;
    }
    if (const auto* choices = std::get_if<ChoicesDescription>(&p.kind))
      for (const auto& choice : choices->choices)
        parameter["choices"].push_back({{"id", choice.id}, {"label", choice.label}, {"help", choice.help}});
    json["parameters"].push_back(std::move(parameter));
  }
  return json;
}

/// Stages and, of those that read a source of their own, that one's chain. `material`: none: other sources are not opened.
Json chainJson(const Chain& chain, const VideoDescription& video, Material* material) {
  Json all = Json::array();
  for (std::size_t k = 0; k < chain.size(); ++k) {
    const Stage& stage = chain[k];
    all.push_back({{"stage", stageText(stage)},
                   {"on", stage.on},
                   {"summary", stage.kind->summary(stage.widestValues(), videoAt(chain, k, video))}});
    const auto own = stage.kind->ownSource(stage.values);
    if (!own) continue;
    const auto source = material ? material->source(own->use, own->between, SourceStays::Open) : nullptr;
    Json& described = all.back()["source"] = {{"path", own->use.path}, {"found", source != nullptr}};
    if (source) {
      const VideoDescription& made = source->made;
      described["size"] = {made.size.width, made.size.height};
      described["rate"] = fractionText(made.rate);
      described["seconds"] = made.seconds().toDouble();
    }
    const auto within = source ? material->over(source, std::nullopt) : nullptr;
    described["chain"] = chainJson(stage.branch, source ? source->made : video, within.get());
  }
  return all;
}

/// Of a reel: where each shot lies, and all of what comes out.
void describeShots(Json& json, const Project& project, const VideoDescription& first, SourceMaterial& material) {
  std::optional<Error> trouble;
  const auto played = playedOf(project, first, describedBy(material), &trouble);
  if (!played) return;
  const Piece& piece = played->piece;
  const Span span = spanOf(project, piece.length);
  json["result"] = {{"in", span.first},
                    {"out", span.last},
                    {"frames", span.count()},
                    {"rate", fractionText(piece.rate)},
                    {"seconds", (Rational(span.count()) / piece.rate).toDouble()},
                    {"length", piece.fixed ? "fixed" : "follows the chain"},
                    {"loop", piece.endless},
                    {"faster", piece.faster()}};
  for (std::size_t i = 0; i < shotCount(project); ++i) {
    const Shot shot = shotOf(project, i);
    Json one{{"name", shotTitle(project, i)}, {"path", shot.source.path}, {"on", shot.place.on}};
    const auto time = std::find_if(played->times.begin(), played->times.end(), [&](const ShotTime& t) { return t.shot == i; });
    if (time != played->times.end()) {
      one["begins-at-frame"] = (time->begin * piece.rate).floor();
      one["frames"] = (time->length * piece.rate).floor();
      one["from"] = time->from.toDouble();
      one["dissolve"] = time->goes.toDouble();
    }
    Json stages = Json::array();
    for (const Stage& stage : shot.chain) stages.push_back({{"stage", stageText(stage)}, {"on", stage.on}});
    one["chain"] = std::move(stages);
    json["shots"].push_back(std::move(one));
  }
  if (trouble) json["trouble"] = trouble->message;
}

}  // namespace

std::string stagesText(std::span<const StageKind* const> kinds) {
  std::string text;
  for (const StageKind* kind : kinds) {
    const StageDescription& described = kind->description();
    text += described.id + "  " + described.help + "\n";
    for (const auto& p : described.parameters) {
      char line[256];
      std::snprintf(line, sizeof line, "  %-14s %-42s default %s\n", p.id.c_str(), rangeText(p).c_str(),
                    valueText(p, initialValue(p)).c_str());
      text += line;
      text += std::string(17, ' ') + p.help + "\n";
    }
  }
  return text;
}

std::string stagesJson(std::span<const StageKind* const> kinds) {
  Json json = Json::array();
  for (const StageKind* kind : kinds) json.push_back(stageJson(*kind));
  return json.dump(2) + "\n";
}

std::string describeJson(const std::shared_ptr<const Footage>& opened, const Project& project) {
  const Footage& footage = *opened;
  const PictureShape& shape = footage.shape();
  const FrameClock& clock = footage.clock();
  const VideoDescription video = footage.video(project.source.between);
  const ChainReading reading(project.chain, video, nullptr, {}, clock);
  const Piece piece = pieceOf(reading.outgoing(), project.output);
  const Span span = spanOf(project, piece.length);
  double back = 0, ahead = 0, first = 1e300, last = -1e300;
  const std::int64_t step = std::max<std::int64_t>(1, span.count() / 20'000);
  for (std::int64_t n = span.first; n <= span.last; n += step) {
    const MomentReads at = reading.at(piece.moment(n).pictures());
    back = std::max(back, at.now - at.least), ahead = std::max(ahead, at.most - at.now);
    first = std::min(first, at.least), last = std::max(last, at.most);
  }
  const auto within = [&](double frame) {
    return std::clamp<std::int64_t>(static_cast<std::int64_t>(std::floor(frame + 0.5)), 0, video.length - 1);
  };
  std::int64_t before = 0, after = 0;
  for (const OutsideRun& run : outsideRuns(reading, piece, span)) {
    if (run.beforeFirst) before += run.count();
    if (run.pastLast) after += run.count();
  }
  const double frameSeconds = 1 / clock.rate().toDouble();
  Json json{{"footage",
             {{"path", footage.path()},
              {"codec", footage.codec()},
              {"size", {shape.size.width, shape.size.height}},
              {"pixel-aspect", fractionText(shape.pixelAspect)},
              {"format", formatText(shape.format)},
              {"range", shape.fullRange() ? "full" : "limited"},
              {"rate", fractionText(clock.rate())},
              {"rate-varies", clock.varying()},
              {"in-between", inBetweenChoices()[static_cast<std::size_t>(project.source.between)].id},
              {"frames", clock.frameCount()},
              {"seconds", video.seconds().toDouble()},
              {"notes", footage.warnings()}}},
            {"chain", Json::array()},
            {"result",
             {{"in", span.first},
              {"out", span.last},
              {"frames", span.count()},
              {"rate", fractionText(piece.rate)},
              {"seconds", (Rational(span.count()) / piece.rate).toDouble()},
              {"length", piece.fixed ? "fixed" : "follows the chain"},
              {"loop", piece.endless},
              {"faster", piece.faster()}}},
            {"reads",
             {{"seconds-back", back * frameSeconds},
              {"seconds-ahead", ahead * frameSeconds},
              {"first-frame", within(first)},
              {"last-frame", within(last)},
              {"frames-that-read-before-the-clip", before},
              {"frames-that-read-past-the-clip", after}}}};
  constexpr std::size_t budget = std::size_t(256) << 20;
  const auto sources = std::make_shared<Sources>(opened, std::make_shared<MemoryBudget>(budget), 1);
  const auto known = std::make_shared<SourceMaterial>(sources, 1);
  MaterialAt material(known, {});
  json["chain"] = chainJson(project.chain, video, &material);
  if (isReel(project)) describeShots(json, project, video, *known);
  return json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

int say(int code, const Error& error) {
  std::fprintf(stderr, "molten-render: %s\n", error.cancelled ? "Stopped; nothing was written." : error.message.c_str());
  return code;
}

void sayOutline(const RenderOutline& outline) {
  for (const auto* const sentences : {&outline.plan.notes, &outline.findings})
    for (const auto& sentence : *sentences) std::fprintf(stderr, "molten-render: %s\n", sentence.c_str());
}

void sayReplaced(const RenderOutline& outline) {
  if (outline.replaced == 1) return sayReplaced(outline.firstReplaced);
  if (outline.replaced > 1)
    std::fprintf(stderr, "molten-render: %lld files, %s to %s, were there and have been replaced.\n", static_cast<long long>(outline.replaced),
                 outline.firstReplaced.c_str(), outline.lastReplaced.c_str());
}

void sayReplaced(const std::string& path) {
  std::fprintf(stderr, "molten-render: %s was there and has been replaced.\n", std::filesystem::path(path).filename().c_str());
}

void printProgress(ProgressKind kind, const RenderProgress& p) {
  // Ten times a second is enough for anyone who reads along.
  using Clock = std::chrono::steady_clock;
  static Clock::time_point last;
  if (!p.over() && Clock::now() - last < std::chrono::milliseconds(100)) return;
  last = Clock::now();
  const double part = p.finishing.value_or(static_cast<double>(p.done) / static_cast<double>(p.total));
  if (kind == ProgressKind::Json) {
    Json line{{"done", p.done}, {"total", p.total}, {"seconds-left", nullptr}};
    if (p.secondsLeft) line["seconds-left"] = std::round(*p.secondsLeft * 100) / 100;
    if (p.finishing) line["finishing"] = *p.finishing;
    std::printf("%s\n", line.dump().c_str());
    std::fflush(stdout);
  }
  if (kind == ProgressKind::Bar) {
    constexpr int width = 32;
    const int full = static_cast<int>(part * width);
    const std::string left = p.secondsLeft ? std::to_string(std::lround(*p.secondsLeft)) + " s left" : "";
    const std::string done = p.finishing ? "finishing the file, " + std::to_string(std::lround(100 * part)) + " %"
                                         : std::to_string(p.done) + " of " + std::to_string(p.total);
    std::fprintf(stderr, "\r[%s%s] %s  %-12s ",
                 std::string(static_cast<std::size_t>(full), '#').c_str(),
                 std::string(static_cast<std::size_t>(width - full), ' ').c_str(), done.c_str(), left.c_str());
    if (p.over()) std::fputc('\n', stderr);
  }
}

}  // namespace molten

#include "core/project/frame_list.h"

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "core/number_text.h"

namespace molten {
namespace {

constexpr std::string_view head = "frame,seconds,shot,name,file,file fps,source frame,fraction,share";
constexpr std::size_t columns = 9, mostLines = 3'000'000;

std::string quoted(const std::string& text) {
  if (text.find_first_of(",\"\r\n") == std::string::npos) return text;
  std::string out = "\"";
  for (const char c : text) {
    if (c == '"') out += '"';
    out += c;
  }
  return out + '"';
}

/// The fields of the line that begins at `at`, which goes on behind it.
std::vector<std::string> nextLine(const std::string& text, std::size_t& at) {
  std::vector<std::string> fields(1);
  bool within = false;
  for (; at < text.size(); ++at) {
    const char c = text[at];
    if (within) {
      if (c != '"')
        fields.back() += c;
      else if (at + 1 < text.size() && text[at + 1] == '"')
        fields.back() += text[++at];
      else
        within = false;
    } else if (c == '"') {
      within = true;
    } else if (c == ',') {
      fields.emplace_back();
    } else if (c == '\n') {
      ++at;
      break;
    } else if (c != '\r') {
      fields.back() += c;
    }
  }
  return fields;
}

struct Line {
  std::int64_t frame = 0;
  double seconds = 0;
  std::string shot, name, file;
  Rational fps = 25;
  double source = 0;  ///< seconds
  double share = 1;
};

}  // namespace

std::string frameListText(const Project& project, const Played& played, const std::vector<std::shared_ptr<const ChainReading>>& readings) {
  std::string text(head);
  text += "\n";
  const Piece& piece = played.piece;
  const Span span = spanOf(project, piece.length);
  const auto put = [&](std::int64_t frame, std::size_t shot, double position, double share) {
    const Source& source = sourceOf(project, shot);
    const auto& reading = readings[shot];
    text += std::to_string(frame - span.first) + "," + fixedText((Rational(frame - span.first) / piece.rate).toDouble(), 6) + "," +
            std::to_string(shot + 1) + "," + quoted(shotTitle(project, shot)) + "," + quoted(source.path) + ",";
    if (reading) {
      const double whole = std::floor(position + samePosition), part = std::max(0.0, position - whole);
      text += rateText(reading->source().rate) + "," + fixedText(whole, 0) + "," + fixedText(part < samePosition ? 0.0 : part, 6) + "," + fixedText(share, 4) + "\n";
    } else {
      text += ",,,\n";
    }
  };
  for (std::int64_t n = span.first; n <= span.last; ++n) {
    const Moment moment = piece.moment(n);
    if (!played.row) {
      put(n, 0, readings[0] ? readings[0]->sourceOf(readings[0]->size(), moment.pictures()) : 0, 1);
      continue;
    }
    const Rational at = moment.exact() / piece.chainRate;
    const RowMoment seen = rowMoment(*played.row, at);
    const auto of = [&](std::size_t k, double share) {
      const ShotTime& time = played.times[k];
      const auto& reading = readings[time.shot];
      double position = 0;
      if (reading) {
        const VideoDescription& leaving = reading->outgoing();
        const double local = ((time.course ? Rational(0) : time.from) + at - time.begin).toDouble() * leaving.rate.toDouble();
        position = reading->sourceOf(reading->size(), leaving.endless ? std::fmod(local, leaving.pictures().toDouble()) : local);
      }
      put(n, time.shot, position, share);
    };
    of(seen.shot, seen.next ? 1 - seen.share : 1);
    if (seen.next) of(*seen.next, seen.share);
  }
  return text;
}

Result<CutList> parseFrameList(const std::string& text, const std::string& folder) {
  std::size_t at = 0, number = 1;
  std::string first;
  for (const std::string& field : nextLine(text, at)) first += (first.empty() ? "" : ",") + field;
  if (first != head) return Error{"This is no list of frames: its first line should be " + std::string(head) + "."};
  std::vector<Line> lines;
  while (at < text.size()) {
    ++number;
    const auto fields = nextLine(text, at);
    if (fields.size() == 1 && fields[0].empty()) continue;
    const auto wrong = [&](const std::string& why) { return Error{"Line " + std::to_string(number) + " of the list cannot be read: " + why + "."}; };
    if (fields.size() != columns) return wrong("it has not " + std::to_string(columns) + " fields");
    if (lines.size() == mostLines) return wrong("it has too many lines");
    const auto frame = readNumber(fields[0]), seconds = readNumber(fields[1]), source = readNumber(fields[6]), part = readNumber(fields[7]), share = readNumber(fields[8]);
    const auto fps = parseRate(fields[5]);
    if (!frame || *frame < 0 || *frame > 1e12 || !seconds || !source || !part || !share || !fps || std::abs(*source) > 1e12) return wrong("a number is missing, or none");
    std::string file = fields[4];
    if (!folder.empty() && !file.empty() && !std::filesystem::path(file).is_absolute()) file = (std::filesystem::path(folder) / file).lexically_normal().string();
    lines.push_back({static_cast<std::int64_t>(*frame), *seconds, fields[2], fields[3], file, *fps, (*source + *part) / fps->toDouble(), *share});
  }
  if (lines.empty()) return Error{"There is no frame in this list."};
  CutList list;
  const Line& last = lines.back();
  list.rate = last.frame > 0 && last.seconds > 0 ? usualRate(Rational::near(static_cast<double>(last.frame) / last.seconds)) : Rational(25);
  const Rational picture = Rational(1) / list.rate;
  /// Lines of one shot, one after another, and those of the next one that it dissolves into.
  struct Run {
    Line begin;
    std::int64_t until = 0;
    std::vector<double> course;
  };
  std::vector<Run> runs;
  for (const Line& line : lines) {
    const auto goesOn = [&](const Run& run) { return run.until == line.frame && run.begin.shot == line.shot && run.begin.file == line.file; };
    const auto run = std::find_if(runs.rbegin(), runs.rend(), goesOn);
    Run& into = run == runs.rend() ? runs.emplace_back(Run{line, line.frame, {}}) : *run;
    into.course.push_back(line.source);
    into.until = line.frame + 1;
  }
  std::stable_sort(runs.begin(), runs.end(), [](const Run& a, const Run& b) { return a.begin.frame < b.begin.frame; });
  for (std::size_t i = 0; i < runs.size(); ++i) {
    const Run& run = runs[i];
    const auto both = [&](const Run& one, const Run& other) { return std::max<std::int64_t>(0, one.until - other.begin.frame); };
    const std::int64_t comes = i > 0 ? both(runs[i - 1], run) : 0, goes = i + 1 < runs.size() ? both(run, runs[i + 1]) : 0;
    const std::int64_t before = comes / 2, after = goes - goes / 2;
    const auto count = static_cast<std::int64_t>(run.course.size());
    if (count - before - after < 1) return Error{"A shot is shorter than the dissolves at its ends."};
    ListedClip clip{run.begin.name, run.begin.file, run.begin.fps, 0, Rational(count - before - after) * picture, 1, Rational(before) * picture, Rational(after) * picture, {}};
    setCourse(clip, run.course, picture);
    list.clips.push_back(std::move(clip));
  }
  return list;
}

}  // namespace molten

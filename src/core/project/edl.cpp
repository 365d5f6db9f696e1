#include "core/project/edl.h"

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <map>
#include <sstream>

#include "core/number_text.h"

namespace molten {
namespace {

constexpr std::size_t mostEvents = 2000, reelLetters = 8;
constexpr std::int64_t recordFrom = 3600;  ///< seconds: lists begin at one hour

std::int64_t framesIn(Rational rate) {
  return rate.part() == Rational(0) ? rate.floor() : rate.floor() + 1;
}

std::string stamp(std::int64_t frames, std::int64_t rate) {
  const std::int64_t seconds = frames / rate;
  return paddedText(seconds / 3600, 2) + ":" + paddedText(seconds / 60 % 60, 2) + ":" + paddedText(seconds % 60, 2) + ":" + paddedText(frames % rate, 2);
}

/// `drops`: numbers are left out, two of thirty at the beginning of each minute but every tenth, so that a timecode of 29.97 or 59.94
/// frames a second shows the time of day.
std::optional<std::int64_t> framesOf(const std::string& text, std::int64_t rate, bool drops) {
  int hours = 0, minutes = 0, seconds = 0, frames = 0;
  char a = 0, b = 0, c = 0, end = 0;
  if (std::sscanf(text.c_str(), "%3d%c%2d%c%2d%c%3d%c", &hours, &a, &minutes, &b, &seconds, &c, &frames, &end) != 7) return std::nullopt;
  if (a != ':' || b != ':' || (c != ':' && c != ';') || hours < 0 || minutes < 0 || seconds < 0 || frames < 0) return std::nullopt;
  if (minutes > 59 || seconds > 59 || frames >= rate || hours > 99) return std::nullopt;
  const std::int64_t wholeMinutes = hours * 60 + minutes, dropped = drops ? rate / 15 * (wholeMinutes - wholeMinutes / 10) : 0;
  return (wholeMinutes * 60 + seconds) * rate + frames - dropped;
}

/// Eight letters or digits that tell files apart.
std::string reelOf(const std::string& path, std::map<std::string, std::string>& known) {
  if (const auto at = known.find(path); at != known.end()) return at->second;
  std::string name;
  for (const char c : std::filesystem::path(path).stem().string())
    if (std::isalnum(static_cast<unsigned char>(c)) && name.size() < reelLetters) name += static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
  if (name.empty()) name = "AX";
  const auto taken = [&](const std::string& reel) { return std::any_of(known.begin(), known.end(), [&](const auto& one) { return one.second == reel; }); };
  std::string reel = name;
  for (int i = 2; taken(reel); ++i) {
    const std::string number = std::to_string(i);
    reel = name.substr(0, reelLetters - number.size()) + number;
  }
  return known[path] = reel;
}

/// With blanks after it, up to a width.
std::string filled(std::string text, std::size_t width) {
  if (text.size() < width) text.resize(width, ' ');
  return text;
}

std::vector<std::string> wordsOf(const std::string& line) {
  std::istringstream in(line);
  std::vector<std::string> words;
  for (std::string word; in >> word;) words.push_back(word);
  return words;
}

std::string after(const std::string& line, std::string_view head) {
  const std::size_t at = line.find(head);
  if (at == std::string::npos) return {};
  std::string rest = line.substr(at + head.size());
  const std::size_t begin = rest.find_first_not_of(" \t"), end = rest.find_last_not_of(" \t\r");
  return begin == std::string::npos ? std::string() : rest.substr(begin, end - begin + 1);
}

/// An event of the list, or one of the two lines of a dissolve.
struct Event {
  std::string number, reel, name, path;
  std::int64_t dissolve = 0;
  std::int64_t from = 0, to = 0, at = 0, until = 0;
  std::optional<double> fps;
};

}  // namespace

std::string edlText(const CutList& list, std::vector<std::string>& lost) {
  const std::int64_t rate = framesIn(list.rate);
  const auto frames = [&](Rational seconds) { return (seconds * list.rate + Rational(1, 2)).floor(); };
  std::string title;
  for (const char c : list.name) title += c >= ' ' && c < 127 ? c : '_';
  std::string text = "TITLE: " + title + "\nFCM: NON-DROP FRAME\n";
  std::map<std::string, std::string> reels;
  std::int64_t at = recordFrom * rate;
  for (std::size_t i = 0; i < list.clips.size(); ++i) {
    const ListedClip& clip = list.clips[i];
    const ListedClip* const next = i + 1 < list.clips.size() ? &list.clips[i + 1] : nullptr;
    if (!clip.keys.empty()) lost.push_back(clip.name + ": its course is listed as one speed.");
    // A clip's line lasts until the dissolve into the next one begins, and begins with the one that leads to it.
    const std::int64_t own = frames(clip.length) + frames(clip.before) - (next ? frames(next->before) : 0);
    const std::int64_t dissolve = frames(clip.before) + (i > 0 ? frames(list.clips[i - 1].after) : 0);
    const double from = clip.from.toDouble() - (clip.before * clip.speed).toDouble();
    const std::int64_t first = std::max<std::int64_t>(0, std::llround(from * list.rate.toDouble()));
    // The source's out is counted as if it ran at its own speed; the speed stands in a line of its own.
    const std::string number = paddedText(static_cast<std::int64_t>(i + 1), 3), reel = reelOf(clip.path, reels);
    const auto event = [&](const std::string& source, const std::string& how, std::int64_t begin, std::int64_t lasts) {
      text += number + "  " + filled(source, reelLetters) + " V     " + how + " " + stamp(begin, rate) + " " + stamp(begin + lasts, rate) + " " +
              stamp(at, rate) + " " + stamp(at + lasts, rate) + "\n";
    };
    if (dissolve > 0) {
      const ListedClip& was = list.clips[i - 1];
      const std::int64_t left = std::max<std::int64_t>(0, std::llround((was.from + was.length * was.speed).toDouble() * list.rate.toDouble()) - frames(clip.before));
      event(reelOf(was.path, reels), "C       ", left, 0);
      event(reel, "D    " + paddedText(dissolve, 3), first, own);
    } else {
      event(reel, "C       ", first, own);
    }
    if (!(clip.speed == Rational(1))) {
      std::string fps = fixedText(clip.speed.toDouble() * list.rate.toDouble(), 1);
      constexpr std::size_t fpsDigits = 5;
      if (fps.size() < fpsDigits) fps.insert(fps[0] == '-' ? 1 : 0, fpsDigits - fps.size(), '0');
      text += "M2   " + filled(reel, reelLetters) + " " + fps + "                " + stamp(first, rate) + "\n";
      if (std::abs(std::round(clip.speed.toDouble() * list.rate.toDouble() * 10) / 10 - clip.speed.toDouble() * list.rate.toDouble()) > 1e-9)
        lost.push_back(clip.name + ": its speed is rounded to a tenth of a frame a second.");
    }
    text += (dissolve > 0 ? "* TO CLIP NAME: " : "* FROM CLIP NAME: ") + clip.name + "\n";
    if (!clip.path.empty()) text += "* SOURCE FILE: " + clip.path + "\n";
    at += own;
  }
  return text;
}

Result<CutList> parseEdl(const std::string& text, Rational rate, const std::string& folder, std::vector<std::string>& lost) {
  CutList list;
  list.rate = rate;
  const std::int64_t whole = framesIn(rate);
  const bool mayDrop = rate.den() == 1001 && whole % 30 == 0;
  bool drops = false;
  std::vector<Event> events;
  std::istringstream lines(text);
  int number = 0;
  for (std::string line; std::getline(lines, line);) {
    ++number;
    const auto wrong = [&](const std::string& why) { return Error{"Line " + std::to_string(number) + " of the list cannot be read: " + why + "."}; };
    const auto words = wordsOf(line);
    if (words.empty()) continue;
    if (words[0] == "FCM:") {
      drops = mayDrop && words.size() > 1 && words[1] == "DROP";
      continue;
    }
    if (words[0] == "TITLE:") {
      list.name = after(line, "TITLE:");
    } else if (words[0] == "M2") {
      if (words.size() < 3 || events.empty()) return wrong("a speed belongs to an event before it");
      const auto fps = readNumber(words[2]);
      if (!fps || std::abs(*fps) > fastestSpeed * rate.toDouble()) return wrong("its speed is no number of frames a second");
      events.back().fps = fps;
    } else if (words[0][0] == '*') {
      if (events.empty()) continue;
      for (const char* head : {"FROM CLIP NAME:", "TO CLIP NAME:"})
        if (const std::string name = after(line, head); !name.empty()) events.back().name = name;
      if (const std::string path = after(line, "SOURCE FILE:"); !path.empty())
        events.back().path = folder.empty() || std::filesystem::path(path).is_absolute() ? path : (std::filesystem::path(folder) / path).lexically_normal().string();
    } else if (std::isdigit(static_cast<unsigned char>(words[0][0])) && words.size() >= 8) {
      if (events.size() == mostEvents) return wrong("it has too many events");
      Event event{words[0], words[1], {}, {}, 0, 0, 0, 0, 0, std::nullopt};
      const std::string& track = words[2];
      if (track.find('V') == std::string::npos && track != "B") {
        lost.push_back("Event " + words[0] + " is of sound, and not taken.");
        continue;
      }
      std::size_t stamps = 4;
      const std::string& how = words[3];
      if (how != "C") {
        stamps = 5;
        const long lasts = std::strtol(words[4].c_str(), nullptr, 10);
        if (lasts < 0 || lasts > 100000) return wrong("its transition lasts no number of frames");
        event.dissolve = lasts;
        if (how != "D") lost.push_back("Event " + words[0] + ": the transition " + how + " is taken as a dissolve.");
      }
      if (words.size() < stamps + 4) return wrong("four timecodes are missing");
      std::int64_t* const into[] = {&event.from, &event.to, &event.at, &event.until};
      for (std::size_t i = 0; i < 4; ++i) {
        const auto frames = framesOf(words[stamps + i], whole, drops || (mayDrop && words[stamps + i].find(';') != std::string::npos));
        if (!frames) return wrong("\"" + words[stamps + i] + "\" is no timecode at " + rateText(rate) + " fps");
        *into[i] = *frames;
      }
      if (event.until < event.at) return wrong("it ends before it begins");
      events.push_back(std::move(event));
    }
  }
  // The first line of a dissolve lasts no time: it tells what is left.
  std::erase_if(events, [&](const Event& event) { return event.until == event.at; });
  if (events.empty()) return Error{"There is no event of pictures in this list."};
  const auto seconds = [&](std::int64_t frames) { return Rational(frames) / rate; };
  for (std::size_t i = 0; i < events.size(); ++i) {
    const Event& event = events[i];
    ListedClip clip;
    clip.path = event.path;
    clip.name = !event.name.empty() ? event.name : event.reel;
    clip.sourceRate = rate;
    if (clip.path.empty()) lost.push_back(clip.name + " names no file: choose its footage.");
    clip.speed = event.fps ? Rational::near(*event.fps / rate.toDouble()) : Rational(1);
    const std::int64_t comes = i > 0 ? event.dissolve : 0, next = i + 1 < events.size() ? events[i + 1].dissolve : 0;
    if (i > 0 && event.at != events[i - 1].until) lost.push_back("Before event " + event.number + " there is a gap, which is not taken.");
    // Of two that dissolve, one ends and the other begins in its middle.
    const std::int64_t before = comes / 2;
    clip.before = seconds(before);
    clip.after = seconds(next - next / 2);
    clip.from = seconds(event.from) + clip.before * clip.speed;
    clip.length = seconds(event.until - event.at - before + next / 2);
    if (!(clip.length > Rational(0))) return Error{"Event " + event.number + " is shorter than its dissolves."};
    list.clips.push_back(std::move(clip));
  }
  return list;
}

}  // namespace molten

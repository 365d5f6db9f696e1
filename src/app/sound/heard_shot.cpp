#include "app/sound/heard_shot.h"

#include <algorithm>

#include "app/playback/player.h"
#include "core/sound/onsets.h"
#include "core/stages/laid_sound.h"

namespace molten {
namespace {

/// Onsets are looked for in so many seconds of a file.
constexpr std::int64_t lookedThrough = 600;
/// Milliseconds from one look at what has been read to the next.
constexpr int outlineEach = 150;

}  // namespace

HeardShot::HeardShot(Session& session, const Player& player, QObject* parent)
    : QObject(parent),
      session_(session),
      player_(player),
      made_(
          [](const Question& question, const std::stop_token& stop) {
            return std::make_shared<const Heard>(heardOf(question, stop));
          },
          [this](const std::shared_ptr<const Heard>& heard) { took(heard); }),
      found_(
          [](const OnsetQuestion& question, std::stop_token stop) {
            Onsets onsets;
            for (const auto& [name, feed] : question) {
              const std::int64_t last = std::min(feed->length(), lookedThrough * soundRate);
              if (auto some = onsetsIn(*feed, 0, last, name.second, stop)) onsets[name] = std::move(*some);
            }
            return onsets;
          },
          [this](const Onsets& found) {
            // Of what is not laid any more nothing is kept.
            std::erase_if(onsets_, [&](const auto& known) { return !isLaid(known.first); });
            for (const auto& [name, some] : found) onsets_[name] = some;
            emit onsetsChanged();
          }) {
  reading_.setInterval(outlineEach);
  reading_.callOnTimeout([this] { tell(); });
  connect(&session_, &Session::footageLeaves, this, [this] {
    if (session_.changesShot()) return;
    made_.forget();
    files_.reset();
    heard_.reset();
    found_.forget();
    onsets_.clear(), lookedFor_.clear();
    emit changed();
  });
  connect(&session_, &Session::changed, this, &HeardShot::ask);
}

HeardShot::~HeardShot() = default;

void HeardShot::ask() {
  const auto sources = player_.sources();
  if (!session_.footage() || !sources) return;
  if (!files_) files_ = std::make_shared<SoundFiles>(sources->budget());
  const bool reel = session_.playsReel();
  made_.ask({reel ? session_.whole() : session_.project(), session_.reading(), session_.piece(), files_,
             reel ? session_.reel().played() : std::nullopt, session_.reel().describer()});
}

Heard HeardShot::heardOf(const Question& question, const std::stop_token& stop) {
  if (!question.played) return molten::heardOf(question.project, question.reading, question.piece, *question.files, stop);
  const auto readings = readingsOf(question.project, *question.played, std::nullopt, question.describe);
  return molten::heardOf(question.project, *question.played, readings, *question.files, stop);
}

HeardShot::OnsetName HeardShot::nameOf(const Stage& sound) {
  return {laidSound(sound).file, onsetSensitivity(sound)};
}

bool HeardShot::isLaid(const OnsetName& name) const {
  return heard_ && std::any_of(heard_->laid.begin(), heard_->laid.end(), [&](const Heard::Laid& laid) { return nameOf(laid.stage) == name; });
}

void HeardShot::took(const std::shared_ptr<const Heard>& heard) {
  heard_ = heard;
  look();
  tell();
  reading_.start();
  emit changed();
}

/// Looks for onsets that are not known, unless just those are being looked for.
void HeardShot::look() {
  OnsetQuestion question;
  std::vector<OnsetName> names;
  for (const Heard::Laid& laid : heard_->laid) {
    const OnsetName name = nameOf(laid.stage);
    if (!laid.feed || onsets_.contains(name)) continue;
    if (question.emplace(name, laid.feed).second) names.push_back(name);
  }
  if (names.empty() || names == lookedFor_) return;
  lookedFor_ = names;
  found_.ask(question);
}

/// What is amiss shows as files are read.
void HeardShot::tell() {
  if (!heard_) return reading_.stop();
  QStringList told;
  for (const std::string& finding : findingsOf(*heard_)) told.push_back(QString::fromStdString(finding));
  for (const QString& one : told)
    if (!told_.contains(one)) emit said(one);
  told_ = told;
  emit outlined();
  const auto whole = [](const std::shared_ptr<SoundFeed>& feed) { return !feed || feed->peaks()->complete(); };
  if (std::all_of(heard_->own.begin(), heard_->own.end(), [&](const Heard::Own& own) { return whole(own.feed); }) && std::all_of(heard_->laid.begin(), heard_->laid.end(), [&](const Heard::Laid& laid) { return whole(laid.feed); }))
    reading_.stop();
}

const std::vector<std::int64_t>& HeardShot::onsetsOf(const Stage& sound) const {
  static const std::vector<std::int64_t> none;
  const OnsetName name = nameOf(sound);
  if (const auto known = onsets_.find(name); known != onsets_.end()) return known->second;
  const auto other = std::find_if(onsets_.begin(), onsets_.end(), [&](const auto& one) { return one.first.first == name.first; });
  return other == onsets_.end() ? none : other->second;
}

}  // namespace molten

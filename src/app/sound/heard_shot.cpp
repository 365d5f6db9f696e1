#include "app/sound/heard_shot.h"

#include "app/playback/player.h"
#include "core/sound/onsets.h"

namespace molten {
namespace {

/// Onsets are looked for in so many seconds of a file.
constexpr std::int64_t lookedThrough = 600;

}  // namespace

HeardShot::HeardShot(Session& session, const Player& player, QObject* parent)
    : QObject(parent),
      session_(session),
      player_(player),
      made_(
          [](const Question& question, std::stop_token) {
            return std::make_shared<const Heard>(heardOf(question.project, question.reading, question.piece, *question.files));
          },
          [this](const std::shared_ptr<const Heard>& heard) { took(heard); }),
      found_(
          [](const OnsetQuestion& question, std::stop_token stop) {
            Onsets onsets;
            for (const auto& feed : question.feeds) {
              const std::int64_t last = std::min(feed->length(), lookedThrough * soundRate);
              if (auto some = onsetsIn(*feed, 0, last, question.sensitivity, stop)) onsets[feed->path()] = std::move(*some);
            }
            return onsets;
          },
          [this](const Onsets& onsets) {
            onsets_ = onsets;
            emit onsetsChanged();
          }) {
  connect(&session_, &Session::footageLeaves, this, [this] {
    made_.forget();
    files_.reset();
    heard_.reset();
    emit changed();
  });
  connect(&session_, &Session::changed, this, &HeardShot::ask);
}

HeardShot::~HeardShot() = default;

void HeardShot::ask() {
  const auto sources = player_.sources();
  if (!session_.footage() || !sources) return;
  if (!files_) files_ = std::make_shared<SoundFiles>(sources->budget());
  made_.ask({session_.project(), session_.reading(), session_.piece(), files_});
}

void HeardShot::took(const std::shared_ptr<const Heard>& heard) {
  heard_ = heard;
  OnsetQuestion question;
  question.sensitivity = sensitivity_;
  bool lacking = false;
  for (const Heard::Laid& laid : heard->laid) {
    if (!laid.feed) continue;
    question.feeds.push_back(laid.feed);
    lacking |= !onsets_.contains(laid.feed->path());
  }
  if (lacking) found_.ask(question);
  QStringList told;
  for (const std::string& finding : heard->findings) told.push_back(QString::fromStdString(finding));
  for (const QString& one : told)
    if (!told_.contains(one)) emit said(one);
  told_ = told;
  emit changed();
}

const std::vector<std::int64_t>& HeardShot::onsetsOf(const std::string& path) const {
  static const std::vector<std::int64_t> none;
  const auto known = onsets_.find(path);
  return known == onsets_.end() ? none : known->second;
}

void HeardShot::setSensitivity(double sensitivity) {
  if (sensitivity == sensitivity_) return;
  sensitivity_ = sensitivity;
  onsets_.clear();
  if (heard_) took(heard_);
}

}  // namespace molten

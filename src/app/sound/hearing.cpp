#include "app/sound/hearing.h"

#include <QSettings>
#include <cmath>

#include "app/playback/player.h"

namespace molten {
namespace {

/// Milliseconds after the last grain.
constexpr int restsAfter = 600;

}  // namespace

Hearing::Hearing(Session& session, Player& player, HeardShot& heard, std::unique_ptr<SoundDevice> device, QObject* parent)
    : QObject(parent), session_(session), player_(player), heard_(heard) {
  if (device)
    sounding_ = std::make_shared<Sounding>(std::move(device), [this](const Error& error) {
      inbox_.post([this, sentence = QString::fromStdString(error.message)] { failed(sentence); });
    });
  scrubSounds_ = QSettings().value("scrub-sounds", true).toBool();
  player_.setLeader([this](const Span& span, double speed) -> Viewer::Seconds {
    begin(span, speed);
    if (!sounding_ || !sounding_->sounds()) return nullptr;
    return [sounding = sounding_] { return sounding->seconds(); };
  });
  connect(&player_, &Player::stopped, this, &Hearing::end);
  connect(&heard_, &HeardShot::changed, this, &Hearing::follow);
  connect(&session_, &Session::playheadTaken, this, [this] { pulled_ = true; });
  connect(&session_, &Session::frameChanged, this, &Hearing::grain);
  silence_.setSingleShot(true);
  silence_.setInterval(restsAfter);
  silence_.callOnTimeout([this] {
    if (sounding_ && !player_.playing()) sounding_->stop();
  });
}

SoundRun Hearing::runOf(const Span& span, double speed, double begin) const {
  const double rate = session_.shownPiece().rate.toDouble();
  return {heard_.heard(), begin, speed, static_cast<double>(span.first) / rate, static_cast<double>(span.last + 1) / rate,
          player_.loop()};
}

void Hearing::begin(const Span& span, double speed) {
  if (!heard_.hearsSomething()) return;
  if (!sounding_) {
    if (!std::exchange(toldOfNone_, true))
      emit said(tr("It plays on without sound, by the clock."));
    return;
  }
  // Backwards a picture is heard from its end.
  const double rate = session_.shownPiece().rate.toDouble();
  const double at = static_cast<double>(player_.view().frame + (speed < 0 ? 1 : 0)) / rate;
  run_ = runOf(span, speed, at);
  sounding_->play(run_);
}

/// What plays goes on by what is left of it: the clock. From the next time on there is none.
void Hearing::failed(const QString& sentence) {
  sounding_.reset();
  toldOfNone_ = true;
  emit said(sentence);
}

/// Other sound for what plays on, from where it is: in and out may be others as well.
void Hearing::follow() {
  if (!sounding_ || !player_.playing() || !sounding_->sounds() || !heard_.heard()) return;
  const double passed = run_.speed * sounding_->seconds();
  const double at = run_.at(run_.begin + passed), where = std::isnan(at) ? run_.begin + passed : at;
  run_ = runOf(session_.shownSpan(), run_.speed, where - passed);
  sounding_->change(run_);
}

void Hearing::end() {
  if (sounding_) sounding_->stop();
}

void Hearing::grain() {
  if (!std::exchange(pulled_, false) || !sounding_ || !scrubSounds_ || player_.playing() || !heard_.heard()) return;
  const double rate = session_.shownPiece().rate.toDouble();
  sounding_->grain(heard_.heard(), static_cast<double>(session_.shownFrame()) / rate);
  silence_.start();
}

void Hearing::setScrubSounds(bool on) {
  scrubSounds_ = on;
  QSettings().setValue("scrub-sounds", on);
}

std::optional<Hearing::Now> Hearing::now() const {
  if (!sounding_ || !sounding_->sounds()) return std::nullopt;
  const double seconds = sounding_->seconds();
  if (seconds < 0) return std::nullopt;
  return Now{run_.at(run_.begin + run_.speed * seconds), sounding_->gaps()};
}

std::optional<SoundLevels> Hearing::levels() const {
  if (!sounding_ || !sounding_->sounds()) return std::nullopt;
  return sounding_->levels();
}

}  // namespace molten

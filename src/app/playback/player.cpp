#include "app/playback/player.h"

#include <algorithm>
#include <thread>

#include "app/session/footage_loader.h"

namespace molten {

Player::Player(QObject* parent) : QObject(parent) {
  timer_.setTimerType(Qt::PreciseTimer);
  timer_.setInterval(4);
  connect(&timer_, &QTimer::timeout, this, &Player::poll);
}

Player::~Player() = default;

void Player::setFootage(const std::shared_ptr<const Footage>& footage, std::size_t budgetBytes) {
  stop();
  shot_.reset();
  const int threads = static_cast<int>(std::max(1u, std::thread::hardware_concurrency()));
  const std::uint64_t number = ++footageNumber_;
  auto feed = std::make_shared<FrameFeed>(footage, budgetBytes, threads);
  viewer_ = std::make_unique<Viewer>(std::make_shared<Sources>(std::move(feed), threads), threads, [this, number](Result<Shown> result) {
    // From the viewer's thread; the picture travels to the interface's. Those of footage that is gone are dropped.
    auto held = std::make_shared<Result<Shown>>(std::move(result));
    inbox_.post([this, number, held] {
      if (number != footageNumber_) return;
      if (*held)
        took(std::move(**held));
      else
        emit failed(QString::fromStdString(held->error().message));
    });
  });
  view_ = {};
}

void Player::lookFrom(const std::shared_ptr<const Footage>& footage) {
  if (!viewer_) return;
  shot_ = footage == viewer_->sources()->footage() ? nullptr : std::make_shared<Sources>(viewer_->sources(), footage);
}

void Player::clear() {
  stop();
  shot_.reset();
  ++footageNumber_;
  viewer_.reset();
}

void Player::setView(const View& view) {
  if (!viewer_ || view == view_) return;
  view_ = view;
  playing() ? viewer_->change(view_, span_) : viewer_->show(view_);
}

void Player::setSpan(const Span& span) {
  if (span.first == span_.first && span.last == span_.last) return;
  span_ = span;
  if (playing()) viewer_->change(view_, span_);
}

void Player::setLoop(bool loop) {
  loop_ = loop;
  if (playing()) play(span_, speed_);
}

void Player::play(const Span& span, double speed) {
  if (!viewer_) return;
  span_ = span;
  if (!std::exchange(speed_, speed)) emit begins();
  // From the end a run begins anew.
  if (!loop_ && speed > 0 && view_.frame >= span.last) view_.frame = span.first;
  if (!loop_ && speed < 0 && view_.frame <= span.first) view_.frame = span.last;
  shownAt_.clear();
  viewer_->play(view_, span, loop_, speed, leader_ ? leader_(span, speed) : nullptr);
  timer_.start();
}

void Player::rest(bool on) {
  if (on) stop();
  if (const auto all = sources()) all->feed()->rest(on);
}

void Player::stop() {
  if (!playing()) return;
  speed_ = 0;
  timer_.stop();
  viewer_->halt();
  viewer_->show(view_);
  emit stopped();
}

void Player::poll() {
  if (auto due = viewer_->takeDue()) {
    view_.frame = due->view.frame;
    emit frameReached(view_.frame);
    took(std::move(*due));
    const auto now = Viewer::Clock::now();
    shownAt_.push_back(now);
    while (now - shownAt_.front() > std::chrono::seconds(1)) shownAt_.pop_front();
  }
  if (!viewer_->playing()) {
    view_.frame = speed_ > 0 ? span_.last : span_.first;
    emit frameReached(view_.frame);
    stop();
  }
}

void Player::took(Shown shown) {
  if (!shown.forSpeed) shownScale_ = shown.scale;
  const QImage image = asImage(std::move(shown.image));
  const QImage other = shown.other.pixels.empty() ? QImage() : asImage(std::move(shown.other));
  emit pictureReady(image, other, shown);
}

double Player::shownASecond() const {
  if (shownAt_.size() < 2) return 0;
  const double seconds = std::chrono::duration<double>(shownAt_.back() - shownAt_.front()).count();
  return seconds > 0 ? static_cast<double>(shownAt_.size() - 1) / seconds : 0;
}

void Player::setBudget(std::size_t bytes) {
  if (viewer_) viewer_->feed().setBudget(bytes);
}

std::size_t Player::memoryUsed() const {
  return viewer_ ? viewer_->feed().budget()->used() : 0;
}
double Player::filled() const {
  return viewer_ ? viewer_->feed().filled() : 0;
}
std::size_t Player::memoryBudget() const {
  return viewer_ ? viewer_->feed().budget()->limit() : 0;
}

}  // namespace molten

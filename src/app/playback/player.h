#pragma once
// Pictures for the window, one at a time or running: the engine's viewer on Qt's event loop.

#include <QImage>
#include <QObject>
#include <QTimer>
#include <deque>
#include <memory>

#include "app/mailbox/mailbox.h"
#include "core/engine/viewer.h"

namespace molten {

class Player : public QObject {
  Q_OBJECT

 public:
  explicit Player(QObject* parent = nullptr);
  ~Player() override;

  void setFootage(const std::shared_ptr<const Footage>& footage, std::size_t budgetBytes);
  /// Another shot of the same reel is in hand, whose footage is this: sources() are looked at from there.
  void lookFrom(const std::shared_ptr<const Footage>& footage);
  void clear();
  /// What is shown at the playhead. Asks for a new picture only if something differs.
  void setView(const View& view);
  const View& view() const { return view_; }
  /// In and out: while playing, what it goes round in.
  void setSpan(const Span& span);
  /// Called as a run begins: gives what leads it, or nothing. See Viewer::play().
  using Leader = std::function<Viewer::Seconds(const Span& span, double speed)>;
  void setLeader(Leader leader) { leader_ = std::move(leader); }
  void setLoop(bool loop);
  bool loop() const { return loop_; }

  /// Runs over a span at `speed` times the chain's rate; negative runs backwards.
  void play(const Span& span, double speed);
  void stop();
  /// Nothing is played, and nothing decoded ahead, until that is over: others need the machine.
  void rest(bool on);
  bool playing() const { return speed_ != 0; }
  double speed() const { return speed_; }

  /// What the pictures are made of; none without footage.
  std::shared_ptr<Sources> sources() const { return shot_ ? shot_ : viewer_ ? viewer_->sources() : nullptr; }
  /// How many times smaller the last sharp picture was made.
  int shownScale() const { return shownScale_; }
  /// Pictures shown in the last second.
  double shownASecond() const;
  void setBudget(std::size_t bytes);
  std::size_t memoryUsed() const;
  std::size_t memoryBudget() const;
  /// How much of the clip has been gone through in the background, to be scrubbed at once: 0…1.
  double filled() const;

 signals:
  /// `other`: to be compared, if it was asked for. `about` without its images.
  void pictureReady(const QImage& image, const QImage& other, const Shown& about);
  void begins();  ///< to play: what is shown may be another view from here on
  void frameReached(std::int64_t frame);  ///< while playing
  void stopped();
  void failed(const QString& sentence);

 private:
  void poll();
  void took(Shown shown);

  Mailbox inbox_;
  std::unique_ptr<Viewer> viewer_;
  std::shared_ptr<Sources> shot_;  ///< of another shot than the viewer's own footage is of
  View view_;
  Span span_;
  QTimer timer_;
  Leader leader_;
  bool loop_ = true;
  double speed_ = 0;
  int shownScale_ = 1;
  std::uint64_t footageNumber_ = 0;
  std::deque<Viewer::Clock::time_point> shownAt_;
};

}  // namespace molten

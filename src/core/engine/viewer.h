#pragma once
// Pictures for a screen: the newest one asked for, or one after another as a clock runs.

#include <chrono>
#include <condition_variable>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "core/engine/stage_sides.h"
#include "core/project/piece.h"

namespace molten {

/// What is to be seen.
struct View {
  Chain chain;
  std::int64_t frame = 0;                ///< of the piece
  Size screen{1, 1};                     ///< in the screen's own pixels: what the whole picture is delivered at
  Piece piece;                           ///< which moment of the chain a picture shows
  InBetween between = InBetween::Whole;  ///< of the footage
  /// Another chain whose picture at the same place of its piece comes along, to be compared.
  std::optional<Chain> other = std::nullopt;
  Piece otherPiece = {};
  std::optional<SidesOf> sides = std::nullopt;  ///< of a stage, while the picture stands still
  std::uint64_t files = 0;  ///< another number: files that stages read may be other ones now
  FollowedSounds sounds = {};  ///< that values of the chain, or of the other, go by
  std::optional<SourceUse> source = std::nullopt;  ///< that the chain is over; none: the footage

  friend bool operator==(const View&, const View&) = default;
};

struct Shown {
  View view;
  ScreenImage image;
  ScreenImage other;       ///< empty if none was asked for
  std::optional<StageSides> sides;  ///< if they were asked for, and there was time
  int scale = 1;           ///< the picture was assembled this many times smaller each way
  bool forMemory = false;  ///< smaller than the screen could show, since the reach does not fit the budget
  bool roughly = false;    ///< of frames near the ones that are read, which are being decoded; the right one follows
  bool forSpeed = false;   ///< smaller than the screen could show, to be there in time; a sharp one follows when still
  double milliseconds = 0;
};

/// Thread-safe. Works on a thread of its own, which single pictures and a run share with their plans: hence its
/// thirty-three methods.
class Viewer {
 public:
  using Clock = std::chrono::steady_clock;

  /// `arrived` is called from the viewer's thread when a picture that was asked for by show() is ready, or with the
  /// sentence why it cannot be.
  Viewer(std::shared_ptr<Sources> sources, int threads, std::function<void(Result<Shown>)> arrived);
  ~Viewer();

  /// Asks for one picture. A newer request replaces one that has not begun, and one that takes long. What cannot be
  /// there in time in full is delivered smaller first, and sharp as soon as nothing newer is asked for; what has to be decoded
  /// first, roughly.
  void show(const View& view);

  /// Begins to run from view.frame at `speed` times the piece's rate (negative: backwards) over a span, round and
  /// round or once. Pictures are prepared ahead; frames that come too late are passed over evenly.
  /// `clock`: seconds since the run began, by what leads it: a sound device; evenly growing, from several threads. None: the
  /// machine's own.
  using Seconds = std::function<double()>;
  void play(const View& view, const Span& span, bool loop, double speed, Seconds clock = nullptr);
  /// The newest picture that is due, if one has become due since the last call.
  std::optional<Shown> takeDue();
  /// While playing: goes on with another chain, size or piece, over another span; from the frame that it is at, or the
  /// nearest one of the span.
  void change(const View& view, const Span& span);
  /// False once a run over a span without loop has come to its end.
  bool playing() const;
  void halt();

  /// Of the footage.
  FrameFeed& feed() { return *feed_; }
  const std::shared_ptr<Sources>& sources() const { return sources_; }

 private:
  struct Run {
    View view;
    Span span;
    bool loop;
    double speed;
    Seconds clock;
    double begun;           ///< by the clock
    std::int64_t offset;    ///< of the first frame within the span
    std::int64_t next = 0;  ///< steps from the beginning to the picture to be prepared next
    double cost = 0;        ///< seconds a picture takes, lately
    int smaller = 1;        ///< pictures are made this many times smaller than will do, to be there in time
    bool ended = false;     ///< everything is prepared
  };
  struct Prepared {
    std::int64_t step;
    Shown shown;
    MemoryBudget::Lease lease;
  };
  /// A picture that is shown small, to be made sharp if nothing newer is asked for until then.
  struct Owed {
    View view;
    Clock::time_point due;
  };

  /// A plan, with what it was made for.
  struct Planned {
    std::optional<PicturePlan> plan;
    Chain chain;
    PlanSettings settings;
    std::uint64_t files = 0;
    std::shared_ptr<const SourceVideo> source;
  };
  /// A chain of a view, and what it is over.
  struct Wanted {
    const Chain& chain;
    PlanSettings settings;
    std::uint64_t files;
    std::optional<SourceUse> source;
  };
  static Wanted wantedOf(const View& view, const PlanSettings& settings) { return {view.chain, settings, view.files, view.source}; }
  /// Frames that a picture is made of, where they come from.
  struct Needed {
    std::shared_ptr<FrameFeed> feed;
    std::vector<std::int32_t> frames;
    int scale;
    Layout layout;
  };
  std::vector<Needed> neededFor(const PicturePlan& plan, const Moment& moment, std::stop_token stop);
  static bool areThere(const std::vector<Needed>& needed);

  void work(std::stop_token stop);
  void answerAll(const std::stop_token& stop);
  /// `smaller`: times smaller than the screen could show. `mayBeLeft`: for a newer request, when it takes long.
  /// `sides`: those of a stage.
  enum class Sides { None, AtHand, All };
  Result<Shown> make(const View& view, int smaller, std::stop_token stop, bool mayBeLeft, Sides sides);
  int screenScale(const View& view, double enough) const;
  /// How many times smaller than sharp will do while a hand moves or it plays.
  int smallerInMotion(const View& view) const;
  PlanSettings settingsFor(const View& view, int smaller) const;
  Planned& plannedFor(int smaller) { return smaller > 1 ? small_ : sharp_; }
  const PicturePlan& planFor(Planned& planned, const Wanted& wanted);
  const PicturePlan& planFor(const View& view, int smaller) { return planFor(plannedFor(smaller), wantedOf(view, settingsFor(view, smaller))); }
  const PicturePlan* planBefore(const Evaluator& evaluator, const Planned& planned, const Chain& chain,
                                const std::shared_ptr<const SourceVideo>& source) const;
  const PicturePlan& planMade(Evaluator& evaluator, Planned& planned, const Wanted& wanted);
  void answer(const View& view, std::stop_token stop);
  bool takesLong(const View& view, int smaller);
  Result<Shown> roughlyMade(const View& view, std::stop_token stop);
  void showRoughly(const View& view, std::stop_token stop);
  bool framesInTime(const View& view, int smaller, Clock::time_point due, std::stop_token stop);
  bool makeSharp(const View& view, std::stop_token stop, Sides sides);
  int smallerInHaste(const View& view) const;
  int smallerAtHand(const View& view, int smaller);
  void prepareNext(std::unique_lock<std::mutex>& lock, std::stop_token stop);
  std::int64_t frameAt(const Run& run, std::int64_t step) const;
  bool pastEnd(const Run& run, std::int64_t step) const;
  double stepsNow(const Run& run) const;
  void prefetchAround(const View& view);
  void prefetchAhead(const Run& run);

  std::shared_ptr<Sources> sources_;
  std::shared_ptr<FrameFeed> feed_;
  Evaluator evaluator_, rough_;
  std::function<void(Result<Shown>)> arrived_;
  mutable std::mutex mutex_;
  std::condition_variable_any changed_;
  std::optional<View> wanted_;
  std::optional<Run> run_;
  std::uint64_t runNumber_ = 0;
  std::deque<Prepared> prepared_;
  std::stop_source current_;
  bool replaceable_ = false;  ///< a newer request calls off what is being made, since something is seen of it already
  // Of the viewer's thread alone:
  /// As large as the screen shows; smaller, in haste; out of frames near those that are read; what is compared with.
  Planned sharp_, small_, near_, other_;
  std::optional<Owed> owed_;
  Clock::time_point answeredAt_{};
  double sharpCost_ = 0;  ///< seconds that a sharp picture takes, lately, with its frames in memory
  double workCost_ = 0;   ///< of the last picture made
  double roughCost_ = 0.03;  ///< of one out of frames that are near, lately, at the most
  int slowPictures_ = 0;  ///< in a row, while playing
  bool filling_ = false;
  SidesMaker sides_{evaluator_};
  std::optional<std::pair<View, Picture>> made_;  ///< the last sharp one beside which something is told
  Converter converter_;
  std::jthread thread_;  // last: it stops before the rest goes
};

}  // namespace molten

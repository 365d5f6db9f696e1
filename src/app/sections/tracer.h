#pragma once
// What the pixels in sight read, found out on a thread of its own; the newest question wins.

#include <QImage>
#include <QObject>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "app/mailbox/mailbox.h"
#include "app/sections/field_picture.h"
#include "core/engine/step_widths.h"
#include "core/media/footage.h"
#include "core/engine/sources.h"
#include "core/stages/chain_reading.h"

namespace molten {

/// What is asked about one picture.
struct TraceQuestion {
  Chain chain;
  InBetween between = InBetween::Whole;  ///< of the footage
  FollowedSounds sounds;                 ///< that values go by
  Moment moment;                         ///< of the chain
  double row = 0.5;                      ///< marked, as a part of the picture's height
  double column = 0.5;                   ///< likewise of its width
  std::optional<Place> hovered;
  std::optional<Size> steps;         ///< the size of a picture of the borders between frames
  std::optional<Size> field;         ///< likewise of the field itself
  int coarse = 1;                    ///< so many pixels of it are looked at as one
  std::optional<std::size_t> stage;  ///< whose steps are measured: of the stages that are on
  friend bool operator==(const TraceQuestion&, const TraceQuestion&) = default;
};

struct TraceAnswer {
  TraceQuestion question;
  double now = 0;              ///< what a pixel that is not displaced reads, in frames of the footage
  std::vector<double> across;  ///< positions along the marked row, in frames of the footage, evenly over the width
  std::vector<double> down;    ///< likewise along the column
  std::optional<PlaceReads> hovered;
  QImage steps;  ///< the borders, on clear ground
  FieldPicture field;
  std::optional<StepWidths> widths;
};

class Tracer : public QObject {
  Q_OBJECT

 public:
  static constexpr int places = 240;  ///< along a row or a column

  explicit Tracer(QObject* parent = nullptr);
  ~Tracer() override;

  void setFootage(const std::shared_ptr<Sources>& sources);
  void ask(const TraceQuestion& question);

 signals:
  void answered(const TraceAnswer& answer);

 private:
  void work(std::stop_token stop);

  TraceQuestion last_;
  bool asked_ = false;
  std::uint64_t number_ = 0;  ///< of the footage
  std::mutex mutex_;
  std::condition_variable_any changed_;
  std::shared_ptr<Sources> sources_;
  std::optional<TraceQuestion> wanted_;
  std::uint64_t wantedNumber_ = 0;
  Mailbox inbox_;
  std::jthread thread_;
};

}  // namespace molten

#pragma once
// What each stage costs: measured in the background, while nothing else is asked for.

#include <QObject>
#include <QTimer>
#include <memory>
#include <thread>
#include <vector>

#include "app/mailbox/mailbox.h"
#include "core/engine/frame_feed.h"
#include "core/stages/stage.h"

namespace molten {

class StageCosts : public QObject {
  Q_OBJECT

 public:
  explicit StageCosts(QObject* parent = nullptr);
  ~StageCosts() override;

  /// Measures soon. The same chain at the same scale is measured once.
  void measure(const std::shared_ptr<FrameFeed>& feed, const Chain& stages, int scale);
  void cancel();
  /// In milliseconds a picture, one a stage: of the last chain that was measured; empty while it is not that one.
  const std::vector<double>& costs() const { return costs_; }

 signals:
  void measured();

 private:
  void begin();

  Mailbox inbox_;
  QTimer soon_;
  std::uint64_t call_ = 0;
  std::shared_ptr<FrameFeed> feed_;
  Chain stages_;
  int scale_ = 0;
  std::vector<double> costs_;
  std::jthread thread_;
};

}  // namespace molten

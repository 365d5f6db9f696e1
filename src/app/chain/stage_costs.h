#pragma once
// What each stage costs: measured in the background, while nothing else is asked for.

#include <QObject>
#include <QTimer>
#include <memory>
#include <thread>
#include <vector>

#include "app/mailbox/mailbox.h"
#include "core/engine/sources.h"
#include "core/engine/picture_plan.h"
#include "core/stages/stage.h"

namespace molten {

class StageCosts : public QObject {
  Q_OBJECT

 public:
  explicit StageCosts(QObject* parent = nullptr);
  ~StageCosts() override;

  /// Measures soon. The same chain at the same scale is measured once.
  void measure(const std::shared_ptr<Sources>& sources, const Chain& stages, const PlanSettings& settings);
  void cancel();
  /// In milliseconds a picture, one a stage; empty if these are not the stages that were measured last.
  std::vector<double> costs(const Chain& stages) const { return stages == stages_ ? costs_ : std::vector<double>{}; }

 signals:
  void measured();

 private:
  void begin();

  Mailbox inbox_;
  QTimer soon_;
  std::uint64_t call_ = 0;
  std::shared_ptr<Sources> sources_;
  Chain stages_;
  PlanSettings settings_;
  std::vector<double> costs_;
  std::jthread thread_;
};

}  // namespace molten

#pragma once
// Looking at loops on a thread of its own: how well one closes, and where it would close better.

#include <QObject>
#include <QTimer>
#include <functional>
#include <thread>

#include "app/mailbox/mailbox.h"
#include "core/engine/seam.h"

namespace molten {

class LoopFinder : public QObject {
  Q_OBJECT

 public:
  explicit LoopFinder(QObject* parent = nullptr);
  ~LoopFinder() override;

  struct Measures {
    std::optional<Result<Seam>> seam;        ///< of a chain that goes round
    std::optional<Result<double>> contrast;  ///< of the borders that its last stage makes
  };
  /// Measures soon, when nothing newer is asked for. Measuring what was measured last gives what is known at once.
  /// `closes`: the chain goes round.
  void measure(const MeasuredFootage& from, const Chain& chain, bool closes);
  void find(const MeasuredFootage& from, const Chain& chain, std::size_t stage);
  /// Calls off what goes on, and forgets what was measured.
  void cancel();

 signals:
  void measured(const LoopFinder::Measures& measures);
  void found(const Result<FoundLoop>& loop);

 private:
  void begin(std::function<void(std::stop_token, std::uint64_t)> work);
  void stopWork();

  Mailbox inbox_;
  std::uint64_t call_ = 0;
  QTimer soon_;
  MeasuredFootage from_;
  Chain chain_;
  bool closes_ = false;
  std::optional<Measures> known_;
  std::jthread thread_;
};

}  // namespace molten

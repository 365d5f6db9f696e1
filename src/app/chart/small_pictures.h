#pragma once
// Small pictures of footage, made in the background.

#include <QObject>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "app/chart/chart_state.h"
#include "app/mailbox/mailbox.h"
#include "core/engine/frame_feed.h"

namespace molten {

class SmallPictureMaker : public QObject {
  Q_OBJECT

 public:
  explicit SmallPictureMaker(QObject* parent = nullptr);
  ~SmallPictureMaker() override;

  /// Forgets what there was. None: nothing is made.
  void setFrames(const std::shared_ptr<FrameFeed>& feed);
  /// What is in sight at one place; `place` tells the places that ask apart. Newer wishes of a place replace older
  /// ones.
  void want(int place, const std::vector<std::int32_t>& frames);
  const SmallPictures& pictures() const { return pictures_; }

 signals:
  void arrived(std::int32_t frame);

 private:
  void work(std::stop_token stop);
  void take(std::uint64_t number, std::int32_t frame, QImage image);

  SmallPictures pictures_;
  std::uint64_t number_ = 0;  ///< of the footage; letters about another one are dropped
  std::mutex mutex_;
  std::condition_variable_any changed_;
  std::shared_ptr<FrameFeed> feed_;
  std::stop_source called_;  ///< off with what is under way for frames that are gone
  std::uint64_t wantedNumber_ = 0;
  std::map<int, std::vector<std::int32_t>> wanted_;  ///< by place
  Mailbox inbox_;
  std::jthread thread_;
};

}  // namespace molten

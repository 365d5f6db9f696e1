#pragma once
// Small pictures of the whole clip, evenly over its time: what slices along rows and columns are cut from.

#include <QImage>
#include <QObject>
#include <memory>
#include <mutex>
#include <thread>
#include <vector>

#include "app/mailbox/mailbox.h"
#include "core/field/field_shape.h"
#include "core/engine/frame_feed.h"

namespace molten {

/// Made in the background, from the first frame to the last, of frames that are decoded for looking anyway.
class Slices : public QObject {
  Q_OBJECT

 public:
  explicit Slices(QObject* parent = nullptr);
  ~Slices() override;

  void setFrames(const std::shared_ptr<FrameFeed>& feed);
  /// How many frames are looked at, evenly over the clip.
  int count() const { return static_cast<int>(pictures_.size()); }
  /// Likewise, how many are there already.
  int known() const { return known_; }
  /// Of a small picture; empty while there is none.
  QSize size() const;
  /// The clip's history at places of its pictures (fractions; beyond them the edge goes on): time upwards, the first frame
  /// at the bottom. What is not there yet is dark.
  QImage across(const std::vector<Place>& places) const;
  /// The same with time to the right, the first frame at the left.
  QImage down(const std::vector<Place>& places) const;

 signals:
  void grown();

 private:
  template <class Put>
  void overPlaces(const std::vector<Place>& places, Put put) const;
  void work(std::stop_token stop, const std::shared_ptr<FrameFeed>& feed, std::uint64_t number, Size size,
            std::int32_t stride, int count);

  std::vector<QImage> pictures_;
  std::int32_t stride_ = 1;
  int known_ = 0;
  std::uint64_t number_ = 0;
  Mailbox inbox_;
  std::jthread thread_;
};

}  // namespace molten

#pragma once
// Small pictures of the whole clip, evenly over its time: what slices along rows and columns are cut from.

#include <QImage>
#include <QObject>
#include <memory>
#include <mutex>
#include <thread>
#include <vector>

#include "app/mailbox/mailbox.h"
#include "app/mailbox/newest.h"
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
  /// The clip's history at places of its pictures (fractions; beyond them the edge goes on): along a row with time upwards,
  /// the first frame at the bottom, and down a column with time to the right. What is not there yet is dark. Cut in the
  /// background, then cut() brings it; what was asked for before is not answered any more.
  void ask(std::vector<Place> row, std::vector<Place> column);

 signals:
  void grown();
  void cut(const QImage& across, const QImage& down);

 private:
  struct Places {
    std::vector<QImage> pictures;
    std::vector<Place> row, column;
  };
  using Cut = std::pair<QImage, QImage>;
  static Cut cutAt(const Places& places);
  void work(std::stop_token stop, const std::shared_ptr<FrameFeed>& feed, std::uint64_t number, Size size,
            std::int32_t stride, int count);

  std::vector<QImage> pictures_;
  std::int32_t stride_ = 1;
  int known_ = 0;
  std::uint64_t number_ = 0;
  Mailbox inbox_;
  std::jthread thread_;
  Newest<Places, Cut> cutter_;
};

}  // namespace molten

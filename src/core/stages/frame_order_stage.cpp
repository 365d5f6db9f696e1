#include "core/stages/frame_order_stage.h"

#include <algorithm>
#include <cmath>

#include "core/stages/common_parameters.h"

namespace molten {
namespace {

enum Parameter : std::size_t { Order, PastEnds };

FrameOrder orderOf(const StageValues& values, const VideoDescription& in) {
  FrameOrder order = std::get<FrameOrder>(values[Order]);
  if (order.empty()) order = {{0, static_cast<std::int32_t>(in.length - 1), 1}};
  return order;
}

VideoDescription ordered(const VideoDescription& in, const FrameOrder& order) {
  VideoDescription out = in;
  out.length = picturesOf(order);
  out.endless = false;
  return out;
}

class FrameOrderMap : public TimeMap {
 public:
  FrameOrderMap(FrameOrder order, PastTheEnds past, const VideoDescription& in)
      : TimeMap(ordered(in, order)), order_(std::move(order)), past_(past) {
    std::int64_t begin = 0;
    for (const OrderItem& item : order_) {
      begins_.push_back(begin);
      begin += item.pictures();
    }
  }

  bool wholePicture() const override { return true; }
  /// A picture stays until the next one begins.
  MomentRead readAt(const Moment& moment) const override { return {{frameAt(moment.whole), 0}, {}, 0}; }
  double roughly(double position) const override {
    return static_cast<double>(frameAt(static_cast<std::int64_t>(std::floor(position + 1e-9))));
  }
  PastTheEnds pastTheEnds() const override { return past_; }

 private:
  std::int64_t frameAt(std::int64_t picture) const {
    picture = std::clamp<std::int64_t>(picture, 0, outgoing().length - 1);
    const auto after = std::upper_bound(begins_.begin(), begins_.end(), picture);
    const auto i = static_cast<std::size_t>(after - begins_.begin()) - 1;
    const std::int64_t step = (picture - begins_[i]) / order_[i].hold;
    return order_[i].last < order_[i].first ? order_[i].first - step : order_[i].first + step;
  }

  FrameOrder order_;
  std::vector<std::int64_t> begins_;
  PastTheEnds past_;
};

class FrameOrderKind : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "frame-order",
        "Frame Order",
        "Frames in a written order, each held as long as is said.",
        {
            {"order", "Order", "Order",
             "Frames counted from 0 and how many pictures each is held, joined by +: 1x4+3x2+4+2-6x2.", false,
             OrderDescription{}},
            pastTheEndsParameter(),
        },
        {},
    };
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings&) const override {
    return std::make_unique<FrameOrderMap>(orderOf(stage.values, incoming), pastTheEndsOf(stage.values[PastEnds]),
                                           incoming);
  }

  std::string summary(const StageValues& values, const VideoDescription& in) const override {
    const FrameOrder order = orderOf(values, in);
    std::int64_t frames = 0;
    for (const OrderItem& item : order) frames += item.frames();
    return std::to_string(frames) + (frames == 1 ? " frame" : " frames") + " → " + std::to_string(picturesOf(order)) +
           " pictures";
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    std::int32_t most = 0;
    for (const OrderItem& item : orderOf(values, in)) most = std::max({most, item.first, item.last});
    if (most < in.length) return {};
    return {{"Order", "Frame " + std::to_string(most) + " is named; the last one is " + std::to_string(in.length - 1) +
                          ". See past the ends."}};
  }
};

}  // namespace

const StageKind& frameOrder() {
  static const FrameOrderKind kind;
  return kind;
}

}  // namespace molten

#include "core/stages/frame_order_stage.h"

#include <algorithm>
#include <cmath>

#include "core/stages/common_parameters.h"

namespace molten {
namespace {

struct Parameters {
  ParameterList list;
  ParameterHandle<FrameOrder> order =
      list.order({"order", "Order", "Order",
                  "Frames counted from 0, each : its hold in pictures or as a time, joined by +: 1:4+3:0.2s+4+2-6:2."});
  ChoiceHandle<PastTheEnds> pastTheEnds = pastTheEndsIn(list);
};
const Parameters& of() {
  static const Parameters parameters;
  return parameters;
}

FrameOrder orderOf(const StageValues& values, const VideoDescription& in) {
  FrameOrder order = of().order(values);
  if (order.empty()) order = {{0, static_cast<std::int32_t>(in.length - 1), 1}};
  return order;
}

VideoDescription ordered(const VideoDescription& in, const FrameOrder& order) {
  VideoDescription out = in;
  out.setLength(picturesOf(order));
  out.endless = false;
  return out;
}

class FrameOrderMap : public MovingMap {
 public:
  FrameOrderMap(FrameOrder order, PastTheEnds past, const VideoDescription& out)
      : MovingMap(out), order_(std::move(order)), past_(past) {
    std::int64_t begin = 0;
    for (const OrderItem& item : order_) {
      begins_.push_back(begin);
      begin += item.pictures();
    }
  }

  /// A picture stays until the next one begins.
  Moment readAt(const Moment& moment) const override { return {frameAt(moment.whole + wholeBelow(moment.part()))}; }
  double positionAt(double position) const override { return static_cast<double>(frameAt(wholeBelow(position))); }
  /// Runs of frames are heard as they run; one that is held is silent.
  double heardAt(double position) const override {
    const std::size_t i = itemAt(wholeBelow(position));
    const OrderItem& item = order_[i];
    if (item.first == item.last && item.hold > 1) return static_cast<double>(item.first);
    const double on = (position - static_cast<double>(begins_[i])) / item.hold;
    return static_cast<double>(item.first) + (item.last < item.first ? -on : on);
  }
  Reach readsBetween(double from, double to) const override {
    const std::int64_t first = wholeBelow(from), last = wholeBelow(to);
    Reach reads{static_cast<double>(frameAt(first)), static_cast<double>(frameAt(first))};
    const auto take = [&](std::int64_t picture) {
      const auto frame = static_cast<double>(frameAt(std::clamp(picture, first, last)));
      reads = {std::min(reads.least, frame), std::max(reads.most, frame)};
    };
    take(last);
    // Runs of frames rise or fall: their ends are enough.
    for (std::size_t i = itemAt(first); i < order_.size() && begins_[i] <= last; ++i)
      take(begins_[i]), take(begins_[i] + order_[i].pictures() - 1);
    return reads;
  }
  PastTheEnds pastTheEnds() const override { return past_; }

 private:
  std::size_t itemAt(std::int64_t picture) const {
    picture = std::clamp<std::int64_t>(picture, 0, outgoing().length - 1);
    return static_cast<std::size_t>(std::upper_bound(begins_.begin(), begins_.end(), picture) - begins_.begin()) - 1;
  }
  std::int64_t frameAt(std::int64_t picture) const {
    picture = std::clamp<std::int64_t>(picture, 0, outgoing().length - 1);
    const std::size_t i = itemAt(picture);
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
    static const StageDescription described = {"frame-order",
                                               "Frame Order",
                                               "Frames in a written order, each held as long as is said.",
                                               of().list.described(),
                                               {},
                                               {{"Order", false, 2}, {"Past the ends", false, 2}}};
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings&) const override {
    const FrameOrder order = orderOf(stage.values, incoming);
    VideoDescription out = ordered(incoming, order);
    const PastTheEnds past = of().pastTheEnds(stage.values);
    const auto map = std::make_shared<const FrameOrderMap>(order, past, out);
    out.course = courseAfter(incoming.course, {[map](double at) { return map->positionAt(at); }, nullptr, true});
    return std::make_unique<FrameOrderMap>(order, past, out);
  }

  std::optional<std::string> liveTrouble(const Stage&) const override {
    return "A Frame Order counts frames from a beginning; a camera goes on. Use Step Rate, or keep the last seconds as footage.";
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

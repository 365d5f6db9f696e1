#include "app/findings/loop_finder.h"

namespace molten {
namespace {

constexpr int soonMilliseconds = 250;

}  // namespace

LoopFinder::LoopFinder(QObject* parent) : QObject(parent) {
  soon_.setSingleShot(true);
  soon_.setInterval(soonMilliseconds);
  connect(&soon_, &QTimer::timeout, this, [this] {
    begin([this, from = from_, chain = chain_, closes = closes_](std::stop_token stop, std::uint64_t call) {
      Measures measures;
      if (closes) measures.seam = measureSeam(from, chain, stop);
      const auto contrast = measureContrast(from, chain, stop);
      if (!contrast)
        measures.contrast = contrast.error();
      else if (*contrast)
        measures.contrast = **contrast;
      inbox_.post([this, call, measures] {
        if (call != call_) return;
        known_ = measures;
        emit measured(measures);
      });
    });
  });
}

LoopFinder::~LoopFinder() {
  cancel();
}

void LoopFinder::stopWork() {
  ++call_;
  soon_.stop();
  thread_ = {};
}

void LoopFinder::cancel() {
  stopWork();
  from_ = {};
  chain_.clear();
  known_.reset();
}

/// The work before is called off; it looks at small pictures and ends within one of them.
void LoopFinder::begin(std::function<void(std::stop_token, std::uint64_t)> work) {
  stopWork();
  thread_ = guardedThread(inbox_, [work = std::move(work), call = call_](std::stop_token stop) { work(stop, call); });
}

void LoopFinder::measure(const MeasuredFootage& from, const Chain& chain, bool closes) {
  closes_ = closes;
  if (from == from_ && chain == chain_) {
    if (known_) emit measured(*known_);
    return;
  }
  // What is being looked at is of no use any more, and would be in the way of the pictures that are asked for now.
  ++call_;
  thread_.request_stop();
  from_ = from;
  chain_ = chain;
  known_.reset();
  soon_.start();
}

void LoopFinder::find(const MeasuredFootage& from, const Chain& chain, std::size_t stage) {
  // A measurement that this calls off is made anew when it is asked for again.
  cancel();
  begin([this, from, chain, stage](std::stop_token stop, std::uint64_t call) {
    auto closing = findLoop(from, chain, stage, stop);
    inbox_.post([this, call, closing] {
      if (call == call_) emit found(closing);
    });
  });
}

}  // namespace molten

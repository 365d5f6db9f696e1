#include "core/engine/time_left.h"

#include <algorithm>

namespace molten {

void TimeLeft::Cost::add(std::int64_t turn, double itsSeconds, double itsCount) {
  const double weight = static_cast<double>(turn) * static_cast<double>(turn);
  seconds += weight * itsSeconds;
  count += weight * itsCount;
}

void TimeLeft::made(double seconds) {
  const std::scoped_lock lock(mutex_);
  if (made_ == 0) measuredAt_ = seconds;
  making_.add(++made_, seconds, 1);
}

void TimeLeft::encoded(double seconds, std::int64_t out) {
  const std::scoped_lock lock(mutex_);
  ++taken_;
  // As long as nothing comes out, it only fills up.
  if (out > 0) encoding_.add(taken_, seconds, static_cast<double>(out - out_));
  out_ = out;
  // One that begins anew gives the last group back when it is handed the first of the next.
  if (out_ + 1 >= taken_) emptied_ = out_;
}

void TimeLeft::measure(double worked) {
  if (emptied_ == measured_) return;
  all_.add(emptied_, worked - measuredAt_, static_cast<double>(emptied_ - measured_));
  measured_ = emptied_;
  measuredAt_ = worked;
}

std::optional<double> TimeLeft::left(double worked) {
  const std::scoped_lock lock(mutex_);
  if (out_ == 0) return std::nullopt;
  measure(worked);
  const auto rest = [&](std::int64_t done) { return static_cast<double>(pictures_ - done); };
  const double slower = std::max(making_.each() * rest(made_), encoding_.each() * rest(out_));
  return all_.count == 0 ? slower : std::max(slower, all_.each() * rest(measured_) - (worked - measuredAt_));
}

}  // namespace molten

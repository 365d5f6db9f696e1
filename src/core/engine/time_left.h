#pragma once
// How long a render has to go.

#include <cstdint>
#include <mutex>
#include <optional>

namespace molten {

/// Pictures are made and encoded at the same time. An encoder that looks ahead takes pictures in without work, gives them
/// back late, and lets the next ones wait meanwhile: so it is measured from one moment to the next at which nothing is kept
/// back, and until there is one by the slower of making and encoding. Before anything has come out of it nothing is known of
/// what it costs: then nothing is said. Later pictures count more than earlier ones: the first
/// wait for footage to be read, and a chain may change its pace. From any thread.
class TimeLeft {
 public:
  explicit TimeLeft(std::int64_t pictures) : pictures_(pictures) {}

  /// Another picture was made, in so many seconds without waiting for the encoder.
  void made(double seconds);
  /// Another picture was handed to the encoder, which took so many seconds; so many have come out of it by now.
  void encoded(double seconds, std::int64_t out);
  /// In seconds; none while it cannot be known. `worked`: seconds since the beginning, without pauses.
  std::optional<double> left(double worked);

 private:
  /// Seconds for each of something, as weighted sums of both.
  struct Cost {
    double seconds = 0, count = 0;
    void add(std::int64_t turn, double itsSeconds, double itsCount);
    double each() const { return count > 0 ? seconds / count : 0; }
  };
  void measure(double worked);

  std::mutex mutex_;
  std::int64_t pictures_, made_ = 0, taken_ = 0, out_ = 0;
  std::int64_t emptied_ = 0;   ///< pictures at the last moment at which nothing was kept back
  std::int64_t measured_ = 0;  ///< pictures up to the last moment that was measured
  double measuredAt_ = 0;      ///< or when the first one had been made
  Cost making_, encoding_, all_;
};

}  // namespace molten

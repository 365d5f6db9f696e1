#pragma once
// What sound goes out through.

#include <QString>
#include <functional>
#include <memory>
#include <mutex>
#include <span>
#include <string>
#include <vector>

#include "core/sound/sound.h"

namespace molten {

/// The setting that holds the id of the device that is wanted; empty: the machine's own choice.
inline constexpr const char* soundDeviceSetting = "sound device";

/// A sound device of the machine, by its id and by the name that the system gives it.
struct SoundOutput {
  QString id, name;
};
/// All that there are. Asking takes a while: not on the interface's thread.
std::vector<SoundOutput> soundOutputs();

/// Asks for sound as it needs it, on a thread of its own. Its clock is that by which what is heard is told.
class SoundDevice {
 public:
  /// Fills a stretch with what follows, left and right in turn. It waits for nothing and takes no memory.
  using Fill = std::function<void(std::span<float> out)>;
  virtual ~SoundDevice() = default;
  /// From the first sample on. Fails with a sentence. This and stop() may take a while: not on the interface's thread.
  virtual Status start(Fill fill) = 0;
  /// Nothing is asked for after this.
  virtual void stop() = 0;
  /// Seconds since the start of what has left the loudspeaker by now: what waits in the device is not counted. It may be below
  /// 0, and grows evenly from call to call.
  virtual double heard() const = 0;

  /// The machine's own, whether there is one or not, or by MOLTEN_SOUND: `simulated`, `none`. nullptr: none is wanted.
  static std::unique_ptr<SoundDevice> open();
};

/// Takes sound as fast as it would be heard, and keeps it. For machines without a device, and for tests.
class SimulatedSound : public SoundDevice {
 public:
  struct Given {
    double at = 0;  ///< seconds since the start, by its own clock, when it is heard
    Sound sound;
  };
  /// `latency`: seconds from being given to being heard.
  explicit SimulatedSound(double latency = 0.04);
  ~SimulatedSound() override;
  Status start(Fill fill) override;
  void stop() override;
  double heard() const override;

  /// Of all of this process, since the last one was started; the last minute of it.
  static std::vector<Given> given();

 private:
  struct Run;
  double latency_;
  std::unique_ptr<Run> run_;
};

}  // namespace molten

#include "core/media/camera.h"

#include <chrono>
#include <condition_variable>
#include <mutex>

#include "core/media/clip_camera.h"
#include "core/media/device_camera.h"
#include "core/media/simulated_camera.h"

namespace molten {
namespace {

class MachineClock : public LiveClock {
  using Steady = std::chrono::steady_clock;

 public:
  double now() const override { return std::chrono::duration<double>(Steady::now() - begun_).count(); }
  bool waitUntil(double seconds, const std::stop_token& stop) override {
    std::unique_lock lock(mutex_);
    const auto until = begun_ + std::chrono::duration_cast<Steady::duration>(std::chrono::duration<double>(seconds));
    stopped_.wait_until(lock, stop, until, [] { return false; });
    return !stop.stop_requested();
  }

 private:
  const Steady::time_point begun_ = Steady::now();
  std::mutex mutex_;
  std::condition_variable_any stopped_;
};

}  // namespace

std::shared_ptr<LiveClock> machineClock() {
  return std::make_shared<MachineClock>();
}

std::vector<CameraOffer> listCameras() {
  std::vector<CameraOffer> all{{std::string(simulatedCamera), "Simulated camera", {}}};
  for (CameraOffer& device : listDevices()) all.push_back(std::move(device));
  return all;
}

Result<std::unique_ptr<Camera>> openCamera(const CameraChoice& choice, std::shared_ptr<LiveClock> clock, std::stop_token stop) {
  if (choice.id == simulatedCamera) return openSimulatedCamera(choice, std::move(clock));
  if (isDevice(choice.id)) return openDevice({deviceFormat, choice.id}, choice, std::move(clock));
  return openClipCamera(choice, std::move(clock), std::move(stop));
}

}  // namespace molten

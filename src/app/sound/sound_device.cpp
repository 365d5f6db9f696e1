#include "app/sound/sound_device.h"

#include <QAudioDevice>
#include <QAudioFormat>
#include <QAudioSink>
#include <QIODevice>
#include <QMediaDevices>
#include <QSettings>
#include <QThread>
#include <QTimer>
#include <algorithm>
#include <array>
#include <atomic>
#include <chrono>
#include <cstring>

namespace molten {
namespace {

using Clock = std::chrono::steady_clock;

/// Microseconds that the device should hold.
constexpr int bufferMicroseconds = 60'000;

/// What Qt reads from.
class Pulled : public QIODevice {
 public:
  explicit Pulled(SoundDevice::Fill fill) : fill_(std::move(fill)) { open(QIODevice::ReadOnly); }
  qint64 bytesAvailable() const override { return 1 << 20; }
  bool isSequential() const override { return true; }

 protected:
  qint64 readData(char* to, qint64 bytes) override {
    constexpr qint64 sampleBytes = soundChannels * sizeof(float);
    qint64 done = 0;
    while (bytes - done >= sampleBytes) {
      const std::span<float> some = std::span(values_).first(std::min(values_.size(), static_cast<std::size_t>((bytes - done) / sampleBytes) * soundChannels));
      fill_(some);
      std::memcpy(to + done, some.data(), some.size_bytes());
      done += static_cast<qint64>(some.size_bytes());
    }
    return done;
  }
  qint64 writeData(const char*, qint64) override { return -1; }

 private:
  SoundDevice::Fill fill_;
  std::array<float, 4096 * soundChannels> values_{};
};

/// The one of the settings where it is there; the desktop's otherwise.
QAudioDevice chosenOutput() {
  const QString wanted = QSettings().value(soundDeviceSetting).toString();
  for (const QAudioDevice& device : QMediaDevices::audioOutputs())
    if (!wanted.isEmpty() && QString::fromUtf8(device.id()) == wanted) return device;
  return QMediaDevices::defaultAudioOutput();
}

/// The machine's device, on a thread of its own: the interface may be busy.
class MachineSound : public SoundDevice {
 public:
  MachineSound() {
    thread_.start();
    worker_.moveToThread(&thread_);
    // Asking for it takes a while.
    QMetaObject::invokeMethod(&worker_, [this] { device_ = chosenOutput(); }, Qt::QueuedConnection);
  }
  ~MachineSound() override {
    stop();
    thread_.quit();
    thread_.wait();
  }

  Status start(Fill fill) override {
    Status begun;
    onThread([&] {
      if (device_.isNull()) device_ = chosenOutput();
      if (device_.isNull()) {
        begun = Error{"No sound device was found: it plays on without sound, by the clock."};
        return;
      }
      QAudioFormat format;
      format.setSampleRate(soundRate);
      format.setChannelCount(soundChannels);
      format.setSampleFormat(QAudioFormat::Float);
      pulled_ = std::make_unique<Pulled>(std::move(fill));
      sink_ = std::make_unique<QAudioSink>(device_, format);
      sink_->setBufferSize(static_cast<qsizetype>(format.bytesForDuration(bufferMicroseconds)));
      sink_->start(pulled_.get());
      if (sink_->error() != QAudio::NoError)
        begun = Error{"The sound device " + device_.description().toStdString() + " cannot be played to: it plays on without sound, by the clock."};
      timer_ = std::make_unique<QTimer>();
      timer_->callOnTimeout([this] { note(); });
      timer_->start(10);
      note();
    });
    return begun;
  }
  void stop() override {
    onThread([&] {
      timer_.reset();
      if (sink_) sink_->stop();
      sink_.reset();
      pulled_.reset();
      const std::scoped_lock lock(mutex_);
      noted_ = false;
    });
  }
  double heard() const override {
    const std::scoped_lock lock(mutex_);
    return heardThen_ + std::chrono::duration<double>(Clock::now() - then_).count();
  }

 private:
  template <class Work>
  void onThread(Work work) {
    QMetaObject::invokeMethod(&worker_, work, Qt::BlockingQueuedConnection);
  }
  /// What it says of itself goes in steps: between them its clock is followed slowly, so that pictures do not jump.
  void note() {
    // One that has gone away says nothing any more: time goes on without it.
    if (sink_->state() == QAudio::StoppedState) return;
    const auto now = Clock::now();
    const qint64 waits = sink_->bufferSize() - sink_->bytesFree();
    const double said = (static_cast<double>(sink_->processedUSecs()) - static_cast<double>(sink_->format().durationForBytes(static_cast<qint32>(waits)))) / 1e6;
    const std::scoped_lock lock(mutex_);
    const double reckoned = heardThen_ + std::chrono::duration<double>(now - then_).count();
    constexpr double far = 0.05, part = 0.05;
    heardThen_ = !noted_ || std::abs(said - reckoned) > far ? said : reckoned + (said - reckoned) * part;
    then_ = now;
    noted_ = true;
  }

  QAudioDevice device_;
  QThread thread_;
  QObject worker_;
  std::unique_ptr<Pulled> pulled_;
  std::unique_ptr<QAudioSink> sink_;
  std::unique_ptr<QTimer> timer_;
  mutable std::mutex mutex_;
  double heardThen_ = 0;
  Clock::time_point then_ = Clock::now();
  bool noted_ = false;
};

}  // namespace

std::vector<SoundOutput> soundOutputs() {
  std::vector<SoundOutput> all;
  for (const QAudioDevice& device : QMediaDevices::audioOutputs()) all.push_back({QString::fromUtf8(device.id()), device.description()});
  return all;
}

std::unique_ptr<SoundDevice> SoundDevice::open() {
  const QByteArray wanted = qgetenv("MOLTEN_SOUND");
  if (wanted == "simulated") return std::make_unique<SimulatedSound>();
  if (wanted == "none") return nullptr;
  return std::make_unique<MachineSound>();
}

}  // namespace molten

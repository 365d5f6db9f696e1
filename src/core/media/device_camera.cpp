#include "core/media/device_camera.h"

#include <fcntl.h>
#include <linux/videodev2.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <filesystem>

#include "core/media/av_handles.h"
#include "core/media/video_reader.h"

extern "C" {
#include <libavdevice/avdevice.h>
}

namespace molten {
namespace {

/// How often a device that has nothing yet is asked again. In seconds.
constexpr double askAgain = 0.002;
/// A device that gives nothing for so long is gone.
constexpr double patience = 5;

struct CloseInput {
  void operator()(AVFormatContext* p) const { avformat_close_input(&p); }
};
using Input = std::unique_ptr<AVFormatContext, CloseInput>;

class DeviceCamera : public Camera {
 public:
  DeviceCamera(std::string name, Input input, int stream, AvHandle<AVCodecContext> decoder, std::shared_ptr<LiveClock> clock)
      : name_(std::move(name)), input_(std::move(input)), stream_(stream), decoder_(std::move(decoder)), clock_(std::move(clock)) {}
  const PictureShape& shape() const override { return shape_; }
  Rational rate() const override { return rate_; }

  /// The first frame says what all are.
  Status begin() {
    auto first = nextDecoded({});
    if (!first) return first.error();
    const AVRational aspect = (*first)->sample_aspect_ratio;
    importer_.emplace(ImportTarget::of(**first, aspect.num > 0 ? Rational(aspect.num, aspect.den) : Rational(1), 0));
    auto picture = importer_->import(**first);
    if (!picture) return picture.error();
    shape_ = picture->shape();
    const AVRational rate = input_->streams[stream_]->avg_frame_rate;
    if (rate.num > 0 && rate.den > 0) {
      rate_ = usualRate(Rational(rate.num, rate.den));
      return {};
    }
    return measureRate((*first)->best_effort_timestamp);
  }

  Result<CameraFrame> next(std::stop_token stop) override {
    auto decoded = nextDecoded(std::move(stop));
    if (!decoded) return decoded.error();
    auto picture = importer_->import(**decoded);
    if (!picture) return picture.error();
    const double now = clock_->now();
    const std::int64_t stamp = (*decoded)->best_effort_timestamp;
    if (stamp == AV_NOPTS_VALUE) return CameraFrame{std::move(*picture), latest(now)};
    const double own = static_cast<double>(stamp) * av_q2d(input_->streams[stream_]->time_base);
    // Its clock is another one. What lies between the two is least where a frame came soonest.
    ahead_ = std::min(ahead_.value_or(now - own), now - own);
    return CameraFrame{std::move(*picture), latest(own + *ahead_)};
  }

 private:
  double latest(double seconds) { return latest_ = std::max(latest_ + 1e-6, seconds); }

  /// Of a device that does not say: by the first frames' stamps.
  Status measureRate(std::int64_t first) {
    constexpr int frames = 6;
    std::int64_t last = first;
    for (int i = 0; i < frames; ++i) {
      auto next = nextDecoded({});
      if (!next) return next.error();
      last = (*next)->best_effort_timestamp;
    }
    const double seconds = static_cast<double>(last - first) * av_q2d(input_->streams[stream_]->time_base);
    if (first != AV_NOPTS_VALUE && last != AV_NOPTS_VALUE && seconds > 0) rate_ = usualRate(Rational::near(frames / seconds));
    return {};
  }

  Result<AvHandle<AVFrame>> nextDecoded(std::stop_token stop) {
    auto frame = newFrame();
    const double begun = clock_->now();
    for (;;) {
      if (const int got = avcodec_receive_frame(decoder_.get(), frame.get()); got >= 0) return frame;
      const int read = av_read_frame(input_.get(), packet_.get());
      if (read == AVERROR(EAGAIN)) {
        const double now = clock_->now();
        if (now - begun > patience) return Error{name_ + " gives no pictures."};
        if (!clock_->waitUntil(now + askAgain, stop)) return cancelledError();
        continue;
      }
      if (read < 0) return Error{name_ + " has gone (" + avErrorText(read) + ")."};
      // A frame that is damaged on its way is left out: the next one comes at once.
      if (packet_->stream_index == stream_) avcodec_send_packet(decoder_.get(), packet_.get());
      av_packet_unref(packet_.get());
      if (stop.stop_requested()) return cancelledError();
    }
  }

  std::string name_;
  Input input_;
  int stream_;
  AvHandle<AVCodecContext> decoder_;
  AvHandle<AVPacket> packet_ = newPacket();
  std::shared_ptr<LiveClock> clock_;
  std::optional<FrameImporter> importer_;
  PictureShape shape_;
  Rational rate_ = 30;
  std::optional<double> ahead_;
  double latest_ = 0;
};

Error cannotOpen(const std::string& name, int error) {
  if (error == AVERROR(EBUSY)) return {name + " is in use by another program. Close that, or choose another camera."};
  if (error == AVERROR(EACCES) || error == AVERROR(EPERM))
    return {name + " may not be read by this user: ask to be added to the group that may (mostly “video”)."};
  if (error == AVERROR(ENOENT) || error == AVERROR(ENODEV) || error == AVERROR(ENXIO)) return {name + " is not there. Is the camera plugged in?"};
  return {name + " cannot be opened (" + avErrorText(error) + "). Try another size or rate, or another camera."};
}

std::vector<Rational> ratesOf(int device, std::uint32_t format, Size size) {
  std::vector<Rational> rates;
  v4l2_frmivalenum asked{};
  asked.pixel_format = format;
  asked.width = static_cast<std::uint32_t>(size.width);
  asked.height = static_cast<std::uint32_t>(size.height);
  for (; ::ioctl(device, VIDIOC_ENUM_FRAMEINTERVALS, &asked) == 0 && asked.type == V4L2_FRMIVAL_TYPE_DISCRETE; ++asked.index)
    if (asked.discrete.numerator > 0 && asked.discrete.denominator > 0) rates.emplace_back(asked.discrete.denominator, asked.discrete.numerator);
  return rates;
}

/// What a device says that it can do; none: it takes no pictures.
std::optional<std::vector<CameraMode>> modesOf(int device) {
  v4l2_capability can{};
  if (::ioctl(device, VIDIOC_QUERYCAP, &can) != 0) return std::nullopt;
  const std::uint32_t does = can.capabilities & V4L2_CAP_DEVICE_CAPS ? can.device_caps : can.capabilities;
  if (!(does & V4L2_CAP_VIDEO_CAPTURE)) return std::nullopt;
  std::vector<CameraMode> modes;
  v4l2_fmtdesc format{};
  format.type = V4L2_BUF_TYPE_VIDEO_CAPTURE;
  for (; ::ioctl(device, VIDIOC_ENUM_FMT, &format) == 0; ++format.index) {
    v4l2_frmsizeenum size{};
    size.pixel_format = format.pixelformat;
    for (; ::ioctl(device, VIDIOC_ENUM_FRAMESIZES, &size) == 0 && size.type == V4L2_FRMSIZE_TYPE_DISCRETE; ++size.index) {
      const Size its{static_cast<int>(size.discrete.width), static_cast<int>(size.discrete.height)};
      auto at = std::find_if(modes.begin(), modes.end(), [&](const CameraMode& mode) { return mode.size == its; });
      if (at == modes.end()) at = modes.insert(modes.end(), {its, {}});
      for (const Rational rate : ratesOf(device, format.pixelformat, its))
        if (std::find(at->rates.begin(), at->rates.end(), rate) == at->rates.end()) at->rates.push_back(rate);
    }
  }
  for (CameraMode& mode : modes) std::sort(mode.rates.begin(), mode.rates.end(), std::greater());
  std::sort(modes.begin(), modes.end(), [](const auto& a, const auto& b) { return a.size.width * a.size.height > b.size.width * b.size.height; });
  return modes;
}

}  // namespace

bool isDevice(const std::string& id) {
  return id.starts_with("/dev/");
}

std::vector<CameraOffer> listDevices() {
  avdevice_register_all();
  std::vector<CameraOffer> all;
  AVDeviceInfoList* found = nullptr;
  if (avdevice_list_input_sources(av_find_input_format(deviceFormat), nullptr, nullptr, &found) > 0)
    for (int i = 0; i < found->nb_devices; ++i) {
      const std::string name = found->devices[i]->device_name;
      // Some hang until they are read; this one does not wait.
      const int device = ::open(name.c_str(), O_RDWR | O_NONBLOCK | O_CLOEXEC);
      if (device < 0) continue;
      if (auto modes = modesOf(device)) all.push_back({name, found->devices[i]->device_description, std::move(*modes)});
      ::close(device);
    }
  avdevice_free_list_devices(&found);
  return all;
}

Result<std::unique_ptr<Camera>> openDevice(const DeviceName& device, const CameraChoice& choice, std::shared_ptr<LiveClock> clock) {
  avdevice_register_all();
  AVDictionary* options = nullptr;
  if (choice.size) av_dict_set(&options, "video_size", (std::to_string(choice.size->width) + "x" + std::to_string(choice.size->height)).c_str(), 0);
  if (choice.rate) av_dict_set(&options, "framerate", (std::to_string(choice.rate->num()) + "/" + std::to_string(choice.rate->den())).c_str(), 0);
  AVFormatContext* opened = avformat_alloc_context();
  // It does not wait for pictures: whoever reads it may be asked to stop.
  opened->flags |= AVFMT_FLAG_NONBLOCK;
  const int failed = avformat_open_input(&opened, device.name.c_str(), av_find_input_format(device.format.c_str()), &options);
  av_dict_free(&options);
  if (failed < 0) return cannotOpen(device.name, failed);
  Input input(opened);
  const AVCodec* codec = nullptr;
  const int stream = av_find_best_stream(input.get(), AVMEDIA_TYPE_VIDEO, -1, -1, &codec, 0);
  if (stream < 0 || !codec) return Error{device.name + " gives pictures of a kind that cannot be read here. Try another size or camera."};
  AvHandle<AVCodecContext> decoder(avcodec_alloc_context3(codec));
  avcodec_parameters_to_context(decoder.get(), input->streams[stream]->codecpar);
  // Frames that are decoded side by side would come one after another's time.
  decoder->thread_type = FF_THREAD_SLICE;
  if (const int bad = avcodec_open2(decoder.get(), codec, nullptr); bad < 0) return cannotOpen(device.name, bad);
  auto camera = std::make_unique<DeviceCamera>(device.name, std::move(input), stream, std::move(decoder), std::move(clock));
  if (auto begun = camera->begin(); !begun) return begun.error();
  return std::unique_ptr<Camera>(std::move(camera));
}

}  // namespace molten

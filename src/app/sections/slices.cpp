#include "app/sections/slices.h"

#include <sys/resource.h>
#include <unistd.h>

#include <algorithm>
#include <cmath>

#include "app/session/footage_loader.h"
#include "app/theme/theme.h"
#include "core/picture/convert.h"

namespace molten {
namespace {

constexpr std::int32_t mostPictures = 480;
/// All pictures together: their size follows from it.
constexpr double mostPixels = 20e6;
constexpr int mostWidth = 480, pause = 12;

}  // namespace

Slices::Slices(QObject* parent) : QObject(parent) {}

Slices::~Slices() = default;

void Slices::setFootage(const std::shared_ptr<const Footage>& footage) {
  thread_ = {};
  ++number_;
  pictures_.clear();
  known_ = 0;
  emit grown();
  if (!footage) return;
  // Evenly in time, which at a varying rate is not by the number of frames.
  const auto pictures = static_cast<std::int32_t>(std::min<std::int64_t>(footage->clock().length(), 1 << 30));
  stride_ = (pictures + mostPictures - 1) / mostPictures;
  const int count = (pictures + stride_ - 1) / stride_;
  pictures_.resize(static_cast<std::size_t>(count));
  const PictureShape& shape = footage->shape();
  const double aspect = shape.size.width * shape.pixelAspect.toDouble() / shape.size.height;
  const double width = std::clamp(std::sqrt(mostPixels / count * aspect), 16.0,
                                  static_cast<double>(std::min(mostWidth, shape.size.width)));
  const Size size{static_cast<int>(width), std::max(1, static_cast<int>(std::lround(width / aspect)))};
  thread_ = std::jthread([this, footage, number = number_, size, stride = stride_, count](std::stop_token stop) {
    work(stop, footage, number, size, stride, count);
  });
}

void Slices::work(std::stop_token stop, const std::shared_ptr<const Footage>& footage, std::uint64_t number, Size size,
                  std::int32_t stride, int count) {
  // After everything that is waited for. On Linux this is about the thread alone.
  setpriority(PRIO_PROCESS, static_cast<id_t>(gettid()), 10);
  auto reader = footage->newReader(1);
  if (!reader) return;
  Converter converter;
  std::vector<std::pair<int, QImage>> made;
  const auto send = [&] {
    if (made.empty()) return;
    inbox_.post([this, number, some = std::move(made)] {
      if (number != number_) return;
      for (const auto& [at, image] : some) {
        if (pictures_[static_cast<std::size_t>(at)].isNull()) ++known_;
        pictures_[static_cast<std::size_t>(at)] = image;
      }
      emit grown();
    });
    made.clear();
  };
  for (int i = 0; i < count && !stop.stop_requested(); ++i) {
    const auto picture = (*reader)->read(
        footage->clock().frameAt(static_cast<double>(i) * stride), [](std::int32_t, const Picture&) {}, stop);
    if (!picture) continue;
    auto image = toScreen(converter, *picture, size);
    if (!image) continue;
    made.emplace_back(i, asImage(std::move(*image)).convertToFormat(QImage::Format_RGB888));
    if (static_cast<int>(made.size()) >= pause) send();
  }
  send();
}

QImage Slices::alongRow(double y) const {
  const auto first = std::find_if(pictures_.begin(), pictures_.end(), [](const QImage& p) { return !p.isNull(); });
  if (first == pictures_.end()) return {};
  const int width = first->width(), height = first->height();
  const int row = std::clamp(static_cast<int>(y * height), 0, height - 1);
  QImage slice(width, count(), QImage::Format_RGB888);
  slice.fill(theme::panel);
  for (int i = 0; i < count(); ++i) {
    const QImage& picture = pictures_[static_cast<std::size_t>(i)];
    if (!picture.isNull())
      std::copy_n(picture.constScanLine(row), static_cast<std::size_t>(width) * 3, slice.scanLine(count() - 1 - i));
  }
  return slice;
}

QImage Slices::alongColumn(double x) const {
  const auto first = std::find_if(pictures_.begin(), pictures_.end(), [](const QImage& p) { return !p.isNull(); });
  if (first == pictures_.end()) return {};
  const int width = first->width(), height = first->height();
  const int column = std::clamp(static_cast<int>(x * width), 0, width - 1);
  QImage slice(count(), height, QImage::Format_RGB888);
  slice.fill(theme::panel);
  for (int i = 0; i < count(); ++i) {
    const QImage& picture = pictures_[static_cast<std::size_t>(i)];
    if (picture.isNull()) continue;
    for (int y = 0; y < height; ++y) std::copy_n(picture.constScanLine(y) + column * 3, 3, slice.scanLine(y) + i * 3);
  }
  return slice;
}

}  // namespace molten

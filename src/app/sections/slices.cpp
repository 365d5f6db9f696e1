#include "app/sections/slices.h"

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

Slices::Slices(QObject* parent)
    : QObject(parent),
      cutter_([](const Places& places, std::stop_token) { return cutAt(places); },
              [this](const Cut& made) { emit cut(made.first, made.second); }) {}

Slices::~Slices() = default;

void Slices::setFrames(const std::shared_ptr<FrameFeed>& feed) {
  thread_ = {};
  cutter_.forget();
  ++number_;
  pictures_.clear();
  known_ = 0;
  emit grown();
  if (!feed) return;
  // Evenly in time, which at a varying rate is not by the number of frames.
  const auto pictures = static_cast<std::int32_t>(std::min<std::int64_t>(feed->footage().clock().length(), 1 << 30));
  stride_ = (pictures + mostPictures - 1) / mostPictures;
  const int count = (pictures + stride_ - 1) / stride_;
  pictures_.resize(static_cast<std::size_t>(count));
  const PictureShape& shape = feed->footage().shape();
  const double aspect = shape.size.width * shape.pixelAspect.toDouble() / shape.size.height;
  const double width = std::clamp(std::sqrt(mostPixels / count * aspect), 16.0,
                                  static_cast<double>(std::min(mostWidth, shape.size.width)));
  const Size size{static_cast<int>(width), std::max(1, static_cast<int>(std::lround(width / aspect)))};
  thread_ = guardedThread(inbox_, [this, feed, number = number_, size, stride = stride_, count](std::stop_token stop) {
    work(stop, feed, number, size, stride, count);
  });
}

void Slices::work(std::stop_token stop, const std::shared_ptr<FrameFeed>& feed, std::uint64_t number, Size size,
                  std::int32_t stride, int count) {
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
    const auto picture =
        feed->glimpse(feed->footage().clock().frameAt(static_cast<double>(i) * stride), size, stop);
    if (!picture) continue;
    auto image = toScreen(converter, *picture, size);
    if (!image) continue;
    made.emplace_back(i, asImage(std::move(*image)).convertToFormat(QImage::Format_RGB888));
    if (static_cast<int>(made.size()) >= pause) send();
  }
  send();
}

QSize Slices::size() const {
  const auto first = std::find_if(pictures_.begin(), pictures_.end(), [](const QImage& p) { return !p.isNull(); });
  return first == pictures_.end() ? QSize() : first->size();
}

void Slices::ask(std::vector<Place> row, std::vector<Place> column) {
  cutter_.ask({pictures_, std::move(row), std::move(column)});
}

Slices::Cut Slices::cutAt(const Places& places) {
  const int count = static_cast<int>(places.pictures.size());
  QImage across(static_cast<int>(places.row.size()), count, QImage::Format_RGB888),
      down(count, static_cast<int>(places.column.size()), QImage::Format_RGB888);
  across.fill(theme::panel), down.fill(theme::panel);
  uchar *const rows = across.bits(), *const columns = down.bits();
  for (int i = 0; i < count; ++i) {
    const QImage& picture = places.pictures[static_cast<std::size_t>(i)];
    if (picture.isNull()) continue;
    const auto pixelAt = [&](const Place& place) {
      const int x = std::clamp(static_cast<int>(std::floor(place.x * picture.width())), 0, picture.width() - 1),
                y = std::clamp(static_cast<int>(std::floor(place.y * picture.height())), 0, picture.height() - 1);
      return picture.constScanLine(y) + 3 * x;
    };
    uchar* const row = rows + (count - 1 - i) * across.bytesPerLine();
    for (std::size_t k = 0; k < places.row.size(); ++k) std::copy_n(pixelAt(places.row[k]), 3, row + 3 * k);
    for (std::size_t k = 0; k < places.column.size(); ++k)
      std::copy_n(pixelAt(places.column[k]), 3, columns + static_cast<qsizetype>(k) * down.bytesPerLine() + 3 * i);
  }
  return {std::move(across), std::move(down)};
}

}  // namespace molten

#include "app/starters/starter_pictures.h"

#include <algorithm>

#include "core/engine/evaluator.h"
#include "core/picture/convert.h"

namespace molten {
namespace {

int scaleOf(Size size, int width) {
  int scale = 1;
  while (scale < 8 && size.width / (scale * 2) >= width) scale *= 2;
  return scale;
}

/// The largest size of a picture's own aspect within a box.
Size within(const VideoDescription& video, QSize box) {
  const double width = video.size.width * video.pixelAspect.toDouble(), height = video.size.height;
  const double by = std::min(box.width() / width, box.height() / height);
  return {std::max(1, static_cast<int>(width * by)), std::max(1, static_cast<int>(height * by))};
}

}  // namespace

StarterPictures::StarterPictures(QObject* parent) : QObject(parent) {}

StarterPictures::~StarterPictures() {
  cancel();
}

void StarterPictures::cancel() {
  ++call_;
  thread_.request_stop();
}

void StarterPictures::make(const MeasuredFootage& from, const std::vector<Starter>& starters, QSize size, double at) {
  cancel();
  thread_ = guardedThread(
      inbox_, [this, previous = std::move(thread_), call = call_, from, starters, size, at](std::stop_token stop) mutable {
        previous = {};
        Evaluator evaluator(from.sources, 2, Urgency::Background);
        Converter converter;
        for (std::size_t i = 0; i < starters.size() && !stop.stop_requested(); ++i) {
          const PicturePlan plan = evaluator.plan(fitted(starters[i], from.footage()->video()),
                                                  {scaleOf(from.footage()->shape().size, size.width()), from.between});
          const auto picture = static_cast<std::int64_t>(at * static_cast<double>(plan.length() - 1));
          const auto made = evaluator.picture(plan, {picture}, stop);
          if (stop.stop_requested()) return;
          const auto say = [&](const Error& error) {
            inbox_.post([this, call, i, error] {
              if (call == call_) emit failed(i, QString::fromStdString(error.message));
            });
          };
          if (!made) {
            say(made.error());
            continue;
          }
          const auto shown = toScreen(converter, *made, within(plan.outgoing(), size));
          if (!shown) {
            say(shown.error());
            continue;
          }
          const QImage image = QImage(reinterpret_cast<const uchar*>(shown->pixels.data()), shown->size.width,
                                      shown->size.height, QImage::Format_ARGB32_Premultiplied)
                                   .copy();
          inbox_.post([this, call, i, image] {
            if (call == call_) emit this->made(i, image);
          });
        }
      });
}

}  // namespace molten

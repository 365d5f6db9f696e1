#include "app/session/footage_loader.h"

#include "core/picture/convert.h"
#include "core/thrown.h"

namespace molten {

QImage asImage(ScreenImage image) {
  auto* pixels = new std::vector<std::uint32_t>(std::move(image.pixels));
  bool opaque = true;
  for (std::size_t i = 0;
       opaque && i < static_cast<std::size_t>(image.size.width) * static_cast<std::size_t>(image.size.height); ++i)
    opaque = (*pixels)[i] >= 0xff000000u;
  return QImage(
      reinterpret_cast<uchar*>(pixels->data()), image.size.width, image.size.height, image.size.width * 4,
      opaque ? QImage::Format_RGB32 : QImage::Format_ARGB32_Premultiplied,
      [](void* held) { delete static_cast<std::vector<std::uint32_t>*>(held); }, pixels);
}

FootageLoader::FootageLoader(QObject* parent) : QObject(parent) {}

FootageLoader::~FootageLoader() {
  cancel();
}

void FootageLoader::cancel() {
  ++call_;
  thread_ = {};
}

void FootageLoader::loadRow(const Project& reel, const std::string& name) {
  begin([reel, name](const FootageProgress&, const std::stop_token& stop) { return rowAsFootage(reel, name, stop); });
}

void FootageLoader::load(const QString& path, std::optional<Rational> rate) {
  begin([file = path.toStdString(), rate](const FootageProgress& progress, const std::stop_token& stop) {
    FootageOptions options;
    options.rate = rate;
    return openSource(file, options, progress, stop);
  });
}

void FootageLoader::begin(Opening open) {
  cancel();
  const std::uint64_t call = call_;
  thread_ = guardedThread(inbox_, [this, call, open = std::move(open)](std::stop_token stop) {
    // What a call has to say arrives on the interface's thread, unless a newer call has begun.
    const auto tell = [this, call](auto say) {
      inbox_.post([this, call, say] {
        if (call == call_) say();
      });
    };
    FootageProgress progress;
    progress.firstPicture = [&](const Picture& picture) {
      Converter converter;
      auto image = toScreen(converter, picture, picture.shape().size);
      if (!image) return;
      const QImage shown = asImage(std::move(*image));
      tell([this, shown, shape = picture.shape()] { emit firstPicture(shown, shape); });
    };
    int told = -1;
    progress.indexed = [&](double part) {
      const int percent = static_cast<int>(part * 100);
      if (percent == told) return;
      told = percent;
      tell([this, part] { emit indexed(part); });
    };
    auto footage = orThrown([&] { return open(progress, stop); });
    if (footage)
      tell([this, opened = *footage] { emit this->opened(opened); });
    else if (!footage.error().cancelled)
      tell([this, sentence = QString::fromStdString(footage.error().message)] { emit failed(sentence); });
  });
}

}  // namespace molten

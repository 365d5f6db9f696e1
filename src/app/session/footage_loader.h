#pragma once
// Opens footage on a thread of its own. The newest call wins.

#include <QImage>
#include <QObject>
#include <functional>
#include <memory>
#include <thread>

#include "app/mailbox/mailbox.h"
#include "core/engine/project_footage.h"

namespace molten {

class FootageLoader : public QObject {
  Q_OBJECT

 public:
  explicit FootageLoader(QObject* parent = nullptr);
  ~FootageLoader() override;

  /// The shots of a reel, as one clip: see rowAsFootage().
  void loadRow(const Project& reel, const std::string& name);
  void load(const QString& path, std::optional<Rational> rate);
  void cancel();

 signals:
  void firstPicture(const QImage& image, const PictureShape& shape);
  void indexed(double part);
  void opened(std::shared_ptr<const Footage> footage);
  void failed(const QString& sentence);

 private:
  using Opening = std::function<Result<std::shared_ptr<const Footage>>(const FootageProgress&, const std::stop_token&)>;
  void begin(Opening open);

  Mailbox inbox_;
  std::jthread thread_;
  std::uint64_t call_ = 0;
};

/// A screen image as Qt's; the pixels move along.
QImage asImage(ScreenImage image);

}  // namespace molten

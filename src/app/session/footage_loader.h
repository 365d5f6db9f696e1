#pragma once
// Opens footage on a thread of its own. The newest call wins.

#include <QImage>
#include <QObject>
#include <memory>
#include <thread>

#include "app/mailbox/mailbox.h"
#include "core/media/footage.h"

namespace molten {

class FootageLoader : public QObject {
  Q_OBJECT

 public:
  explicit FootageLoader(QObject* parent = nullptr);
  ~FootageLoader() override;

  void load(const QString& path, std::optional<Rational> rate);
  void cancel();

 signals:
  void firstPicture(const QImage& image, const PictureShape& shape);
  void indexed(double part);
  void opened(std::shared_ptr<const Footage> footage);
  void failed(const QString& sentence);

 private:
  Mailbox inbox_;
  std::jthread thread_;
  std::uint64_t call_ = 0;
};

/// A screen image as Qt's; the pixels move along.
QImage asImage(ScreenImage image);

}  // namespace molten

#pragma once
// What starters make of the footage: small pictures, rendered in the background.

#include <QImage>
#include <QObject>
#include <QSize>
#include <map>
#include <memory>
#include <thread>
#include <vector>

#include "app/mailbox/mailbox.h"
#include "core/engine/seam.h"
#include "core/project/starter.h"

namespace molten {

class StarterPictures : public QObject {
  Q_OBJECT

 public:
  explicit StarterPictures(QObject* parent = nullptr);
  ~StarterPictures() override;

  /// One picture of each, in order, none larger than `size`, from `at` (0…1) of its result.
  void make(const MeasuredFootage& from, const std::vector<Starter>& starters, QSize size, double at);
  void cancel();

 signals:
  void made(std::size_t starter, const QImage& picture);
  void failed(std::size_t starter, const QString& sentence);

 private:
  Mailbox inbox_;
  std::uint64_t call_ = 0;
  std::jthread thread_;
};

}  // namespace molten

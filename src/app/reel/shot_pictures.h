#pragma once
// Small pictures of what shots begin with, made in the background.

#include <QImage>
#include <QObject>
#include <map>
#include <tuple>

#include "app/mailbox/newest.h"
#include "core/media/footage.h"

namespace molten {

/// A frame of footage, by its file.
struct ShotPicture {
  std::shared_ptr<const Footage> footage;
  std::int32_t frame = 0;
};

class ShotPictures : public QObject {
  Q_OBJECT

 public:
  explicit ShotPictures(QObject* parent = nullptr);
  ~ShotPictures() override;
  /// All that are to be seen; what is not known of them is made.
  void want(const std::vector<ShotPicture>& pictures);
  /// And one more, the first to be made; the last two of those are.
  void wantToo(const ShotPicture& picture);
  /// Null: not there yet.
  QImage find(const ShotPicture& picture) const;

 signals:
  void arrived();

 private:
  /// What is made is other footage of the same name whenever something in it changes.
  using Name = std::tuple<std::string, std::int32_t, const Footage*>;
  static Name nameOf(const ShotPicture& picture) {
    return {picture.footage->path(), picture.frame, picture.footage->madeFrom().empty() ? nullptr : picture.footage.get()};
  }
  void look();

  std::vector<ShotPicture> wanted_;
  std::vector<ShotPicture> too_;
  std::map<Name, QImage> known_;
  bool looking_ = false;
  Newest<std::vector<ShotPicture>, std::vector<std::pair<Name, QImage>>> made_;
};

}  // namespace molten

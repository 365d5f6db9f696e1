#include "app/reel/shot_pictures.h"

#include <algorithm>

#include "app/session/footage_loader.h"
#include "core/picture/convert.h"

namespace molten {
namespace {

/// Made before they are told.
constexpr std::size_t atATime = 4;
constexpr int smallHeight = 120;  ///< pixels

QImage smallPicture(const ShotPicture& of, std::stop_token stop) {
  auto reader = of.footage->newReader(1);
  if (!reader) return {};
  const auto picture = (*reader)->read(of.frame, {}, std::move(stop));
  if (!picture) return {};
  const PictureShape& shape = picture->shape();
  const double wide = smallHeight * shape.size.width * shape.pixelAspect.toDouble() / shape.size.height;
  Converter converter;
  auto image = toScreen(converter, *picture, {std::clamp(static_cast<int>(wide), 8, 8 * smallHeight), smallHeight}, Scaling::Screen);
  return image ? asImage(std::move(*image)) : QImage();
}

}  // namespace

ShotPictures::ShotPictures(QObject* parent)
    : QObject(parent),
      made_(
          [](const std::vector<ShotPicture>& wanted, std::stop_token stop) {
            std::vector<std::pair<Name, QImage>> all;
            for (const ShotPicture& one : wanted) all.emplace_back(nameOf(one), smallPicture(one, stop));
            return all;
          },
          [this](const std::vector<std::pair<Name, QImage>>& made) {
            looking_ = false;
            for (const auto& [name, image] : made) known_[name] = image;
            look();
            emit arrived();
          }) {}

ShotPictures::~ShotPictures() = default;

QImage ShotPictures::find(const ShotPicture& picture) const {
  const auto at = known_.find(nameOf(picture));
  return at == known_.end() ? QImage() : at->second;
}

void ShotPictures::want(const std::vector<ShotPicture>& pictures) {
  wanted_ = pictures;
  look();
}

void ShotPictures::wantToo(const ShotPicture& picture) {
  too_.push_back(picture);
  if (too_.size() > 2) too_.erase(too_.begin());
  look();
}

void ShotPictures::look() {
  if (looking_) return;
  std::vector<ShotPicture> lacking;
  for (const ShotPicture& one : too_)
    if (!known_.contains(nameOf(one))) lacking.push_back(one);
  for (const ShotPicture& one : wanted_)
    if (!known_.contains(nameOf(one)) && lacking.size() < atATime) lacking.push_back(one);
  if (lacking.empty()) return;
  looking_ = true;
  made_.ask(std::move(lacking));
}

}  // namespace molten

#pragma once
// Painting on the Picture.

#include <QObject>
#include <memory>

#include "app/picture/picture_view.h"
#include "app/session/session.h"
#include "core/field/painting.h"

namespace molten {

class PaintDials;
class Viewing;

/// Paints into the selected stage's painting, with the tool that is chosen in the Dials.
class PaintingHand : public QObject {
  Q_OBJECT

 public:
  PaintingHand(Session& session, PaintDials& tools, PictureView& picture, Viewing& viewing, QObject* parent = nullptr);

 private:
  std::optional<std::size_t> parameter() const;
  /// As it is; blank where nothing was painted yet.
  std::shared_ptr<const PaintedPicture> painting() const;
  void set(std::shared_ptr<const PaintedPicture> picture, const std::string& name);
  void begin(Place place);
  void paintTo(Place place);
  void end();
  void fillLasso();
  void lay(PictureState& state) const;

  Session& session_;
  PaintDials& tools_;
  Viewing& viewing_;
  std::unique_ptr<Stroke> stroke_;  ///< that is being drawn
  std::vector<Place> lasso_;        ///< likewise, in pixels of the painting
  std::shared_ptr<const PaintedPicture> beneath_;  ///< what a gradient is being drawn over
};

}  // namespace molten

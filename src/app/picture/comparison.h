#pragma once
// Comparing the picture with another one.

#include <QObject>
#include <array>

#include "app/picture/picture_view.h"
#include "app/session/session.h"

class QAction;
class QMenu;

namespace molten {

class Commands;
class Viewing;

/// How the Picture is compared, and with what: the footage, the chain without the selected stage, or version B.
class Comparison : public QObject {
  Q_OBJECT

 public:
  Comparison(Session& session, PictureView& picture, Viewing& viewing, QObject* parent = nullptr);
  void fill(Commands& commands, QMenu* menu);

 private:
  enum class With { Footage, WithoutStage, VersionB };
  Chain other() const;
  QString otherName() const;
  void refresh();

  Session& session_;
  PictureView& picture_;
  Viewing& viewing_;
  Comparing how_ = Comparing::Off;
  With with_ = With::Footage;
  std::array<QAction*, 4> hows_{};
  std::array<QAction*, 3> withs_{};
};

}  // namespace molten

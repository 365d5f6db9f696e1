#pragma once
// What the Picture shows.

#include <QObject>
#include <QTimer>
#include <functional>
#include <optional>
#include <vector>

#include "app/picture/picture_view.h"
#include "app/session/session.h"
#include "core/engine/stage_sides.h"

namespace molten {

class Player;
struct View;

/// Asks the player for the session's picture, or for the footage before the chain, and shows it with what the other
/// rooms lay on it: handles, marks, sentences.
class Viewing : public QObject {
  Q_OBJECT

 public:
  Viewing(Session& session, Player& player, PictureView& picture, QObject* parent = nullptr);

  /// A room's part of what lies on the Picture.
  void lay(std::function<void(PictureState&)> part) { parts_.push_back(std::move(part)); }
  /// The chain whose picture is to be compared; none while nothing is compared.
  void compareWith(std::function<std::optional<Chain>()> other) { other_ = std::move(other); }

  /// A chain that is shown in place of the session's, at a moment of it in seconds; none while that one is shown.
  struct Instead {
    Chain chain;
    Rational at = 0;
  };
  void showInstead(std::function<std::optional<Instead>()> instead) { instead_ = std::move(instead); }

  /// The stage of which both sides are wanted while the picture stands still; none: of no one.
  void askSides(std::function<std::optional<SidesOf>()> sides) { sides_ = std::move(sides); }

  /// The footage is shown as if there were no chain.
  void bypass(bool on);
  bool bypassed() const { return bypassed_; }
  /// Others put pictures into the view: nothing is asked of the player until that is over.
  void suspend(bool on);
  /// Says a sentence at the Picture's lower edge for a while.
  void remark(const QString& sentence);
  /// Another picture may be wanted, and other things on it.
  void refresh();
  /// Only what lies on the picture is another.
  void refreshLaid();

 signals:
  void shown();        ///< a picture
  void shownInFull();  ///< one that was not made smaller in haste
  /// With a picture for which they were asked; none: what was shown is of another one, and these are not there yet.
  void sidesShown(const std::optional<StageSides>& sides);
  void refreshed();    ///< another picture was asked for, or the playhead has moved

 private:
  PictureState state() const;
  std::optional<View> ofReel() const;
  View ofRow() const;
  View ofShot() const;

  Session& session_;
  Player& player_;
  PictureView& picture_;
  std::vector<std::function<void(PictureState&)>> parts_;
  std::function<std::optional<Chain>()> other_ = [] { return std::nullopt; };
  std::function<std::optional<Instead>()> instead_ = [] { return std::nullopt; };
  std::function<std::optional<SidesOf>()> sides_ = [] { return std::nullopt; };
  bool bypassed_ = false, suspended_ = false;
  QString trouble_;  ///< why there is no picture
  QString remark_;
  bool smallerForMemory_ = false, roughly_ = false;
  QTimer remarkTimer_;
};

}  // namespace molten

#pragma once
// Rendering from the window.

#include <QObject>
#include <memory>

#include "app/ask/ask.h"
#include "app/render/render_dialog.h"
#include "app/session/session.h"

class QMenu;

namespace molten {

class Commands;
class Playback;
class Player;

/// Opens the render dialog, one at a time, and remembers what was chosen in it.
class RenderActions : public QObject {
  Q_OBJECT

 public:
  /// `ask`: empty where nothing is asked.
  RenderActions(Session& session, Player& player, Playback& playback, Ask ask, QWidget& window);
  ~RenderActions() override;
  void fill(Commands& commands, QMenu* menu);
  void open();
  bool running() const { return dialog_ && dialog_->running(); }
  /// A render that goes on is called off.
  void end() { dialog_.reset(); }

 private:
  QString suggestedPath() const;

  Session& session_;
  Player& player_;
  Playback& playback_;
  Ask ask_;
  QWidget& window_;
  std::unique_ptr<RenderDialog> dialog_;
  RenderPlace mapPlace_;  ///< where a time map was rendered to last
};

}  // namespace molten

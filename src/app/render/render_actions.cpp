#include "app/render/render_actions.h"

#include <QFileInfo>
#include <QMenu>

#include "app/commands/commands.h"
#include "app/playback/playback.h"
#include "app/playback/player.h"

namespace molten {

RenderActions::RenderActions(Session& session, Player& player, Playback& playback, Ask ask, QWidget& window)
    : QObject(&window),
      session_(session),
      player_(player),
      playback_(playback),
      ask_(std::move(ask)),
      window_(window) {}

RenderActions::~RenderActions() = default;

void RenderActions::fill(Commands& commands, QMenu* menu) {
  commands.add(menu, tr("Render…"), QKeySequence("Ctrl+R"), [this] { open(); }, Needs::Footage);
}

/// Beside the project, or as long as that has no place beside the footage.
QString RenderActions::suggestedPath() const {
  const QString project = session_.document().path();
  const QFileInfo base(project.isEmpty() ? QString::fromStdString(session_.footage()->path()) : project);
  QString name = base.completeBaseName();
  name.replace('%', '-');
  return base.absolutePath() + "/" + name + (session_.length() == 1 ? "-molten.png" : "-molten.mp4");
}

void RenderActions::open() {
  if (!session_.footage()) return;
  if (running()) {
    dialog_->raise();
    return dialog_->activateWindow();
  }
  player_.stop();
  dialog_ = std::make_unique<RenderDialog>(session_.footage(), session_.project(), suggestedPath(), mapPlace_,
                                           playback_.memory() / 2, ask_, &window_);
  connect(dialog_.get(), &RenderDialog::settingsChosen, &session_.document(), &Document::setOutput);
  connect(dialog_.get(), &RenderDialog::mapPlaceChosen, this, [this](const RenderPlace& place) { mapPlace_ = place; });
  connect(dialog_.get(), &RenderDialog::begun, this, [this] { playback_.shareMemory(true); });
  connect(dialog_.get(), &RenderDialog::finished, this, [this] { playback_.shareMemory(false); });
  dialog_->show();
}

}  // namespace molten

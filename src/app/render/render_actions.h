#pragma once
// Rendering from the window.

#include <QObject>
#include <memory>

#include "app/ask/ask.h"
#include "app/render/render_dialog.h"
#include "app/render/render_queue.h"
#include "app/session/session.h"
#include "core/project/each.h"

class QMenu;

namespace molten {

class Commands;
class Playback;
class Player;

class RenderList;

/// Opens the form, remembers what was chosen in it, and keeps the queue and its list.
class RenderActions : public QObject {
  Q_OBJECT

 public:
  /// `ask`: empty where nothing is asked.
  /// `queueFolder`: of the list of renders; empty: the user's own.
  RenderActions(Session& session, Player& player, Playback& playback, Ask ask, const QString& queueFolder, QWidget& window);
  ~RenderActions() override;
  void fill(Commands& commands, QMenu* menu);
  void open();
  void openQueue();
  /// The sound alone, to a .wav or .flac that is asked for, or that is named.
  void chooseSoundFile();
  void writeSound(const QString& path);
  /// A project's result is rendered once, to be read in its place.
  void keep(const QString& project);
  /// Clips of a folder through the chain, each to a file of its own.
  void chooseEach();
  void renderEach(const QString& folder, const QString& output);
  const RenderQueue& queue() const { return *queue_; }
  /// What goes on stops; it goes on where it was when a window opens again.
  void end();

 signals:
  void footageWanted(const QString& path);
  /// How the queue stands, in few words; empty while nothing is rendered.
  void told(const QString& words);

 private:
  QString suggestedPath() const;
  /// The first shot's; nullptr: it cannot be had.
  std::shared_ptr<const Footage> footageOfRender() const;
  struct EachQuestion {
    QString folder, output;
    Project project;
  };
  void addToQueue(RenderSettings job, const QString& summary);
  void addEach(const EachQuestion& asked, const Result<std::vector<EachClip>>& clips);
  void openForm(const RenderWish& wish);
  void openAgain(const RenderEntry& entry);
  void over(const RenderEntry& entry);
  void tell();

  Session& session_;
  Player& player_;
  Playback& playback_;
  Ask ask_;
  QWidget& window_;
  RenderQueue* queue_;
  RenderList* list_;
  std::unique_ptr<RenderDialog> form_;
  RenderPlace mapPlace_;  ///< where a time map was rendered to last
  using EachAnswer = std::pair<EachQuestion, Result<std::vector<EachClip>>>;
  Newest<EachQuestion, EachAnswer> each_;  ///< which clips there are
};

}  // namespace molten

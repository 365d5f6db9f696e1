#pragma once
// Opening, saving and restoring.

#include <QObject>

#include "app/ask/ask.h"
#include "app/session/session.h"

class QMenu;
class QWidget;

namespace molten {

class Commands;

/// Projects and footage from files and into them. Asks before anything is lost.
class FileActions : public QObject {
  Q_OBJECT

 public:
  /// `asksToSave`: otherwise changes that are not saved are let go.
  FileActions(Session& session, const QString& autosaveFolder, Ask ask, bool asksToSave, QWidget& window);
  void fillProject(Commands& commands, QMenu* menu);
  void fillFootage(Commands& commands, QMenu* menu);

  /// A project, a starter or footage, as dropped or named on the command line.
  void open(const QString& path);
  /// The same, but footage begins another project.
  void openAnew(const QString& path);
  void openDialog();
  void openDemo();
  void replaceDialog();
  void replace(const QString& path);
  /// Sounds are chosen: soundsChosen() follows.
  void soundsDialog();
  /// False if what there is could not be written, or is not to be.
  bool save();
  /// Changes that are not saved are saved or let go, as is answered. False if work is to go on.
  bool settleChanges();
  /// Offers work that another run left behind.
  void offerLostWork();
  /// Changes are let go from now on.
  void stopAskingToSave() { asksToSave_ = false; }

 signals:
  void starterOpened(const QString& path);
  void soundsChosen(const QStringList& paths);

 private:
  void openList(const QString& path);
  QString proposedName() const;
  bool saveAs();
  bool saveTo(const QString& path);
  bool settleChangedFile();
  void remember(const QString& path);
  void blankDialog();
  void fillRecent(QMenu* menu);
  void fillDemos(Commands& commands, QMenu* menu);

  Session& session_;
  QString autosaveFolder_;
  Ask ask_;
  bool asksToSave_;
  QWidget& window_;
};

}  // namespace molten

#pragma once
// The open project: its steps of undo, its file, its autosave.

#include <QObject>
#include <QTimer>
#include <QUndoStack>
#include <memory>
#include <optional>

#include "core/files/read_file.h"
#include "core/project/project.h"
#include "core/result.h"

class QLockFile;

namespace molten {

/// A project that was open when the application ended without closing it.
struct LostWork {
  QString autosave;  ///< the file that holds it
  QString path;      ///< where the project itself is, or empty if it was never saved
  std::optional<FileStamp> stamp;  ///< of that file when it was known last
};

class Document : public QObject {
  Q_OBJECT

 public:
  /// Autosaves go to `autosaveFolder`.
  explicit Document(const QString& autosaveFolder, QObject* parent = nullptr);
  ~Document() override;

  const Project& project() const { return project_; }
  QUndoStack& undoStack() { return undo_; }
  /// Empty: never saved.
  const QString& path() const { return path_; }
  QString title() const;
  bool modified() const { return !undo_.isClean() || restored_; }

  /// One step of undo. Steps with the same merge key become one while a gesture lasts.
  void apply(const Edit& edit);
  /// What follows is a new step, even if it changes the same value.
  void endGesture() {
    ++gesture_;
    gestureTimer_.stop();
  }
  /// Ends the gesture when nothing has followed for a moment: for wheel and arrow keys.
  void endGestureSoon() { gestureTimer_.start(); }

  /// Another project, of nothing or as it is given; nothing of it can be taken back.
  void newProject(Project project = {});
  Status open(const QString& path);
  Status save(const QString& path);
  /// True if the file is another one now than when it was read or saved last: another window's, another program's.
  bool changedOnDisk() const;
  /// Remembers the last render's settings: part of the file, no step of undo.
  void setOutput(const OutputSettings& output);

  /// Work that another run left behind; none while that run still goes on.
  static std::optional<LostWork> findLostWork(const QString& autosaveFolder);
  Status restore(const LostWork& lost);
  static void discard(const LostWork& lost);
  /// Removes what runs that are no more have left without any work in it.
  static void clearLeftovers(const QString& autosaveFolder);
  /// The autosave stays when this object goes: the run is ended from outside.
  void keepForNextStart();
  /// Writes the autosave now instead of soon.
  void autosaveNow();

 signals:
  void changed();   ///< the project's contents
  void replaced();  ///< another project altogether
  void titleChanged();
  void autosaveFailed(const QString& sentence);

 private:
  friend class ProjectStep;
  void setProject(const Project& project);
  void start(Project project, const QString& path, const std::optional<FileStamp>& stamp, bool restored);
  void removeAutosave();

  Project project_;
  QString path_, autosave_;
  QUndoStack undo_;
  QTimer autosaveTimer_, gestureTimer_;
  std::unique_ptr<QLockFile> lock_;
  std::uint64_t gesture_ = 0;
  bool restored_ = false, kept_ = false;
  std::optional<FileStamp> stamp_;  ///< of the file when it was read or saved last
};

}  // namespace molten

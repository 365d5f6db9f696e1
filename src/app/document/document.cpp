#include "app/document/document.h"

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QLockFile>
#include <QUndoCommand>
#include <QUuid>
#include <functional>

#include "core/files/safe_file.h"
#include "core/project/project_file.h"
#include "core/project/unnamed_paintings.h"

namespace molten {

namespace {

/// The pictures that were painted in an autosaved project.
void removePaintingsOf(const QString& autosave) {
  const QFileInfo file(autosave);
  QDir folder = file.dir();
  for (const QString& name : folder.entryList({file.completeBaseName() + "-painted-*.png"}, QDir::Files))
    folder.remove(name);
}

/// The pictures that an autosaved project had before and does not name any more. The folder is the program's own, so that
/// nobody else needs them.
void removeOldPaintingsOf(const QString& autosave) {
  const QFileInfo file(autosave);
  const auto unnamed = unnamedPaintings(file.path().toStdString());
  if (!unnamed) return;
  for (const std::string& painting : *unnamed) {
    const QFileInfo old(QString::fromStdString(painting));
    if (old.fileName().startsWith(file.completeBaseName() + "-painted-")) QFile::remove(old.filePath());
  }
}

/// What stands beside an autosave: the file that it was of as that was known, `device number bytes seconds nanoseconds`
/// or `-`, and on the next line its name.
QByteArray originText(const QString& path, const std::optional<FileStamp>& stamp) {
  QString known = "-";
  if (stamp)
    known = QString("%1 %2 %3 %4 %5")
                .arg(stamp->identity.device)
                .arg(stamp->identity.number)
                .arg(stamp->bytes)
                .arg(stamp->seconds)
                .arg(stamp->nanoseconds);
  return (known + '\n' + path).toUtf8();
}

void readOrigin(const QByteArray& text, LostWork& lost) {
  const qsizetype line = text.indexOf('\n');
  // Written by an earlier version: the name alone.
  if (text.startsWith('/') || line < 0) {
    lost.path = QString::fromUtf8(text);
    lost.stamp = stampOf(lost.path.toStdString());
    return;
  }
  lost.path = QString::fromUtf8(text.mid(line + 1));
  const QList<QByteArray> numbers = text.left(line).split(' ');
  if (numbers.size() == 5)
    lost.stamp = FileStamp{{numbers[0].toULongLong(), numbers[1].toULongLong()},
                           numbers[2].toLongLong(),
                           numbers[3].toLongLong(),
                           numbers[4].toLongLong()};
}

}  // namespace

class ProjectStep : public QUndoCommand {
 public:
  ProjectStep(Document& document, const Edit& edit, std::uint64_t gesture)
      : document_(document), previous_(document.project()), after_(edit.after), key_(edit.mergeKey), gesture_(gesture) {
    setText(QString::fromStdString(edit.name));
  }
  void undo() override { document_.setProject(previous_); }
  void redo() override { document_.setProject(after_); }
  int id() const override { return key_.empty() ? -1 : static_cast<int>(std::hash<std::string>{}(key_)&0x7fffffff); }
  bool mergeWith(const QUndoCommand* other) override {
    const auto* later = static_cast<const ProjectStep*>(other);
    if (later->key_ != key_ || later->gesture_ != gesture_) return false;
    after_ = later->after_;
    setText(later->text());
    return true;
  }

 private:
  Document& document_;
  Project previous_, after_;
  std::string key_;
  std::uint64_t gesture_;
};

Document::Document(const QString& autosaveFolder, QObject* parent) : QObject(parent) {
  QDir().mkpath(autosaveFolder);
  autosave_ = autosaveFolder + "/" + QUuid::createUuid().toString(QUuid::WithoutBraces) + ".molten";
  // The lock tells other runs that this one still goes on.
  lock_ = std::make_unique<QLockFile>(autosave_ + ".lock");
  lock_->setStaleLockTime(0);
  lock_->tryLock();
  autosaveTimer_.setSingleShot(true);
  autosaveTimer_.setInterval(2000);
  connect(&autosaveTimer_, &QTimer::timeout, this, &Document::autosaveNow);
  gestureTimer_.setSingleShot(true);
  gestureTimer_.setInterval(800);
  connect(&gestureTimer_, &QTimer::timeout, this, &Document::endGesture);
  connect(&undo_, &QUndoStack::cleanChanged, this, &Document::titleChanged);
}

Document::~Document() {
  undo_.disconnect(this);
  if (!kept_) removeAutosave();
}

QString Document::title() const {
  return path_.isEmpty() ? tr("not saved yet") : QFileInfo(path_).fileName();
}

void Document::setProject(const Project& project) {
  // How a file is written is no step of undo and stays as it is; the piece's rate and length are.
  OutputSettings output = project_.output;
  output.rate = project.output.rate;
  output.length = project.output.length;
  project_ = project;
  project_.output = output;
  autosaveTimer_.start();
  emit changed();
}

void Document::apply(const Edit& edit) {
  if (edit.after == project_) return;
  undo_.push(new ProjectStep(*this, edit, gesture_));
  if (edit.mergeKey.empty()) endGesture();
}

void Document::setOutput(const OutputSettings& output) {
  project_.output = output;
  autosaveTimer_.start();
}

void Document::start(Project project, const QString& path, const std::optional<FileStamp>& stamp, bool restored) {
  removeAutosave();
  project_ = std::move(project);
  path_ = path;
  stamp_ = stamp;
  restored_ = restored;
  undo_.clear();
  endGesture();
  emit replaced();
  emit titleChanged();
}

void Document::newProject(Project project) {
  start(std::move(project), {}, {}, false);
}

Status Document::open(const QString& path) {
  // Taken before it is read: a change in between is one that is not known here.
  const auto stamp = stampOf(path.toStdString());
  auto project = loadProject(path.toStdString());
  if (!project) return project.error();
  molten::clearLeftovers(QFileInfo(path).absolutePath().toStdString());
  start(std::move(*project), QFileInfo(path).absoluteFilePath(), stamp, false);
  return {};
}

bool Document::changedOnDisk() const {
  return !path_.isEmpty() && stampOf(path_.toStdString()) != stamp_;
}

Status Document::save(const QString& path) {
  if (auto saved = saveProject(project_, path.toStdString()); !saved) return saved;
  path_ = QFileInfo(path).absoluteFilePath();
  stamp_ = stampOf(path_.toStdString());
  restored_ = false;
  undo_.setClean();
  removeAutosave();
  emit titleChanged();
  return {};
}

void Document::autosaveNow() {
  autosaveTimer_.stop();
  if (!modified()) return;
  // Paths are absolute in it, since it does not stand where the project does.
  const Status done = saveProject(project_, autosave_.toStdString(), Paths::Absolute);
  if (done) removeOldPaintingsOf(autosave_);
  QFile origin(autosave_ + ".path");
  if (done && origin.open(QIODevice::WriteOnly)) origin.write(originText(path_, stamp_));
  if (!done)
    emit autosaveFailed(tr("The project could not be autosaved: %1").arg(QString::fromStdString(done.error().message)));
}

void Document::removeAutosave() {
  autosaveTimer_.stop();
  QFile::remove(autosave_);
  QFile::remove(autosave_ + ".path");
  removePaintingsOf(autosave_);
}

void Document::keepForNextStart() {
  autosaveNow();
  kept_ = true;
}

void Document::clearLeftovers(const QString& autosaveFolder) {
  molten::clearLeftovers(autosaveFolder.toStdString());
  QDir folder(autosaveFolder);
  for (const QString& name : folder.entryList({"*.molten.lock"}, QDir::Files)) {
    const QString autosave = folder.filePath(name.chopped(5));
    if (QFileInfo::exists(autosave)) continue;  // there is work in it, to be offered
    QLockFile lock(folder.filePath(name));
    lock.setStaleLockTime(0);
    if (!lock.tryLock()) continue;
    folder.remove(autosave + ".path");
    removePaintingsOf(autosave);
    lock.unlock();
  }
}

std::optional<LostWork> Document::findLostWork(const QString& autosaveFolder) {
  const QFileInfoList found = QDir(autosaveFolder).entryInfoList({"*.molten"}, QDir::Files, QDir::Time);
  for (const QFileInfo& file : found) {
    QLockFile lock(file.filePath() + ".lock");
    lock.setStaleLockTime(0);
    if (!lock.tryLock()) continue;
    LostWork lost{file.filePath(), {}, {}};
    QFile origin(file.filePath() + ".path");
    if (origin.open(QIODevice::ReadOnly)) readOrigin(origin.readAll(), lost);
    return lost;
  }
  return std::nullopt;
}

Status Document::restore(const LostWork& lost) {
  auto project = loadProject(lost.autosave.toStdString());
  if (!project) return project.error();
  start(std::move(*project), lost.path, lost.stamp, true);
  autosaveNow();
  discard(lost);
  return {};
}

void Document::discard(const LostWork& lost) {
  for (const char* ending : {"", ".path", ".lock"}) QFile::remove(lost.autosave + ending);
  removePaintingsOf(lost.autosave);
}

}  // namespace molten

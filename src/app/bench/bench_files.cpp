// The Bench: its project's file.
#include <QCoreApplication>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QSettings>

#include "app/bench/bench.h"
#include "app/theme/parts.h"

namespace molten {

using theme::shown;

int Bench::ask(const QString& title, const QString& sentence, const QStringList& answers) {
  return (options_.ask ? options_.ask : askOver(this))(title, sentence, answers);
}

bool Bench::mayLeave() {
  if (!document_->modified() || !options_.askQuestions) return true;
  enum { Save, Discard };
  const int answer = ask(tr("Save first?"), tr("The project has changes that are not saved."),
                         {tr("Save"), tr("Discard"), tr("Cancel")});
  if (answer == Save) return save();
  return answer == Discard;
}

/// Asks what is to be done where the project's file was written by somebody else. True if it may be written over.
bool Bench::settleChangedFile() {
  if (!document_->changedOnDisk()) return true;
  const QFileInfo file(document_->path());
  enum { TakeTheirs, KeepMine, SaveBeside };
  const int answer =
      ask(tr("The file has changed"),
          file.exists() ? tr("%1 was changed since it was read here: by another window, or another program.")
                              .arg(file.fileName())
                        : tr("%1 is not there any more.").arg(file.fileName()),
          {tr("Take what is there"), tr("Keep mine"), tr("Save mine beside it"), tr("Cancel")});
  if (answer == KeepMine) return true;
  if (answer == TakeTheirs) {
    if (auto opened = document_->open(document_->path()); !opened) say(shown(opened.error().message));
  } else if (answer == SaveBeside) {
    QString beside;
    for (int n = 2; beside.isEmpty() || QFileInfo::exists(beside); ++n)
      beside = QString("%1/%2-%3.molten").arg(file.absolutePath(), file.completeBaseName()).arg(n);
    if (saveTo(beside)) say(tr("%1 is saved").arg(document_->title()));
  }
  return false;
}

void Bench::newProject() {
  if (mayLeave()) document_->newProject();
}

void Bench::openPath(const QString& path) {
  if (QFileInfo(path).suffix() == "molten-starter") return openStarter(path);
  if (QFileInfo(path).suffix() != "molten") {
    // Footage without a project makes one; into an open project it comes in place of what is there.
    useFootage(path);
    return;
  }
  if (!mayLeave()) return;
  if (auto opened = document_->open(path); !opened) {
    say(shown(opened.error().message));
    return;
  }
  remember(path);
}

void Bench::openDialog() {
  QSettings settings;
  const QString path =
      QFileDialog::getOpenFileName(this, tr("Open a project or footage"), settings.value("folder").toString(),
                                   tr("Projects and footage (*.molten *.mp4 *.mov *.mkv *.webm *.avi *.mxf *.ts *.m4v "
                                      "*.mpg *.png *.tif *.tiff *.jpg);;All files (*)"));
  if (path.isEmpty()) return;
  settings.setValue("folder", QFileInfo(path).absolutePath());
  openAnew(path);
}

void Bench::openFolder() {
  QSettings settings;
  const QString path = QFileDialog::getExistingDirectory(this, tr("Open a folder of numbered stills"),
                                                         settings.value("folder").toString());
  if (path.isEmpty()) return;
  settings.setValue("folder", QFileInfo(path).absolutePath());
  openAnew(path);
}

/// Other footage begins another project; to keep the chain there is Replace footage.
void Bench::openAnew(const QString& path) {
  if (QFileInfo(path).suffix().startsWith("molten") || document_->project().source.path.empty()) return openPath(path);
  if (!mayLeave()) return;
  document_->newProject();
  useFootage(path);
}

QString Bench::demoFolder() const {
  for (const QString& folder : {QCoreApplication::applicationDirPath() + "/../../demo",
                                QCoreApplication::applicationDirPath() + "/../share/molten-clock/demo"})
    if (QFileInfo::exists(folder + "/gather.molten")) return QDir(folder).canonicalPath();
  return {};
}

void Bench::openDemo() {
  if (const QString folder = demoFolder(); !folder.isEmpty()) return openPath(folder + "/gather.molten");
  say(tr("The demo is not beside the application; open footage of your own."));
}

bool Bench::save() {
  if (document_->path().isEmpty()) return saveAs();
  // Whatever was answered, there may be nothing left to save.
  if (!settleChangedFile()) return !document_->modified();
  if (!saveTo(document_->path())) return false;
  say(tr("%1 is saved").arg(document_->title()));
  return true;
}

bool Bench::saveTo(const QString& path) {
  if (auto saved = document_->save(path); !saved) {
    say(shown(saved.error().message));
    return false;
  }
  remember(path);
  return true;
}

bool Bench::saveAs() {
  QSettings settings;
  QString path = QFileDialog::getSaveFileName(this, tr("Save the project"), settings.value("folder").toString(),
                                              tr("Projects (*.molten)"));
  if (path.isEmpty()) return false;
  if (QFileInfo(path).suffix() != "molten") path += ".molten";
  if (!saveTo(path)) return false;
  settings.setValue("folder", QFileInfo(path).absolutePath());
  return true;
}

void Bench::replaceDialog() {
  QSettings settings;
  const QString path = QFileDialog::getOpenFileName(this, tr("Replace the footage; the chain stays"),
                                                    settings.value("folder").toString());
  if (path.isEmpty()) return;
  settings.setValue("folder", QFileInfo(path).absolutePath());
  useFootage(path);
}

void Bench::remember(const QString& path) {
  QSettings settings;
  QStringList recent = settings.value("recent").toStringList();
  const QString absolute = QFileInfo(path).absoluteFilePath();
  recent.removeAll(absolute);
  recent.prepend(absolute);
  settings.setValue("recent", QStringList(recent.mid(0, 8)));
}

void Bench::offerLostWork() {
  const auto lost = Document::findLostWork(options_.autosaveFolder);
  if (!lost) return;
  const QString name = lost->path.isEmpty() ? tr("a project that was never saved") : QFileInfo(lost->path).fileName();
  enum { Restore, Discard };
  const int answer =
      ask(tr("Restore?"),
          tr("Molten Clock did not close properly last time. Changes to %1 were kept. Restore them?").arg(name),
          {tr("Restore"), tr("Discard"), tr("Ask again next time")});
  if (answer == Restore) {
    if (auto restored = document_->restore(*lost); !restored) say(shown(restored.error().message));
  } else if (answer == Discard) {
    Document::discard(*lost);
  }
}

void Bench::endNow() {
  document_->keepForNextStart();
  render_.reset();
  options_.askQuestions = false;
  close();
}

}  // namespace molten

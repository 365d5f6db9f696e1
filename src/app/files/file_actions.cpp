#include "app/files/file_actions.h"

#include <QDir>
#include <QFileInfo>
#include <QInputDialog>
#include <QMenu>
#include <QSettings>

#include "app/commands/commands.h"
#include "app/files/demos.h"
#include "app/files/file_choice.h"
#include "app/theme/parts.h"
#include "core/picture/blank.h"
#include "core/project/listing.h"
#include "core/project/swap.h"

namespace molten {

using theme::shown;

FileActions::FileActions(Session& session, const QString& autosaveFolder, Ask ask, bool asksToSave, QWidget& window)
    : QObject(&window),
      session_(session),
      autosaveFolder_(autosaveFolder),
      ask_(std::move(ask)),
      asksToSave_(asksToSave),
      window_(window) {}

void FileActions::fillProject(Commands& commands, QMenu* menu) {
  const auto anew = [this] {
    if (settleChanges()) session_.document().newProject();
  };
  commands.add(menu, tr("New"), QKeySequence::New, anew);
  commands.add(menu, tr("Open…"), QKeySequence::Open, [this] { openDialog(); });
  QMenu* const recent = menu->addMenu(tr("Open recent"));
  connect(recent, &QMenu::aboutToShow, this, [this, recent] { fillRecent(recent); });
  fillDemos(commands, menu->addMenu(tr("Demonstrations")));
  menu->addSeparator();
  commands.add(menu, tr("Save"), QKeySequence::Save, [this] { save(); });
  commands.add(menu, tr("Save as…"), QKeySequence("Ctrl+Shift+S"), [this] { saveAs(); });
}

void FileActions::fillFootage(Commands& commands, QMenu* menu) {
  const auto folder = [this] {
    const QString path = chooseFolder(&window_, tr("Open a folder of numbered stills"));
    if (!path.isEmpty()) openAnew(path);
  };
  commands.add(menu, tr("Open footage…"), {}, [this] { openDialog(); });
  commands.add(menu, tr("Open a folder of stills…"), {}, folder);
  commands.add(menu, tr("Blank footage…"), {}, [this] { blankDialog(); });
  commands.add(menu, tr("Replace footage…"), QKeySequence("Ctrl+Shift+O"), [this] { replaceDialog(); }, Needs::Footage);
}

void FileActions::fillDemos(Commands& commands, QMenu* menu) {
  for (const Demo& demo : demos()) commands.add(menu, demo.shows, {}, [this, path = demo.path] { open(path); });
}

void FileActions::fillRecent(QMenu* menu) {
  menu->clear();
  for (const QString& path : QSettings().value("recent").toStringList())
    menu->addAction(QFileInfo(path).fileName(), this, [this, path] { open(path); })->setToolTip(path);
  menu->setToolTipsVisible(true);
  if (menu->isEmpty()) menu->addAction(tr("none yet"))->setEnabled(false);
}

// ---- opening

void FileActions::open(const QString& path) {
  if (QFileInfo(path).suffix() == "molten-starter") {
    emit starterOpened(path);
    return;
  }
  if (isListFile(path.toStdString())) return openList(path);
  // Footage without a project makes one; into an open project it comes in place of what is there.
  if (QFileInfo(path).suffix() != "molten") return session_.useFootage(path);
  if (!settleChanges()) return;
  if (auto opened = session_.document().open(path); !opened)
    emit session_.said(shown(opened.error().message));
  else
    remember(path);
}

/// Shots that another program has put in order. An edit list has no rate of its own: it is that of what is open, or 25.
void FileActions::openList(const QString& path) {
  std::vector<std::string> lost;
  const Rational rate = session_.footage() ? session_.shownPiece().rate : Rational(25);
  const auto listed = loadList(path.toStdString(), rate, lost);
  if (!listed) return emit session_.said(shown(listed.error().message));
  if (!settleChanges()) return;
  session_.document().newProject(*listed);
  if (!lost.empty()) emit session_.said(shown(inShort(lost)));
}

void FileActions::openDialog() {
  const QString path =
      chooseFile(&window_, tr("Open a project or footage"),
                 tr("Projects and footage (*.molten *.mp4 *.mov *.mkv *.webm *.avi *.mxf *.ts *.m4v "
                    "*.mpg *.png *.tif *.tiff *.jpg);;Lists of shots (*.otio *.edl *.csv);;All files (*)"));
  if (!path.isEmpty()) openAnew(path);
}

/// Other footage begins another project; to keep the chain there is Replace footage.
void FileActions::openAnew(const QString& path) {
  if (QFileInfo(path).suffix().startsWith("molten") || isListFile(path.toStdString()) || session_.whole().source.path.empty()) return open(path);
  if (!settleChanges()) return;
  session_.document().newProject();
  session_.useFootage(path);
}

void FileActions::openDemo() {
  const auto known = demos();
  if (!known.empty()) return open(known.front().path);
  emit session_.said(tr("The demo is not beside the application; open footage of your own."));
}

void FileActions::replaceDialog() {
  const QString path = chooseFile(&window_, tr("Replace the footage; the chain stays"), {},
                                  QFileInfo(shown(session_.project().source.path)).absolutePath());
  if (!path.isEmpty()) replace(path);
}

/// Where several shots have the same footage, for the one in hand or for all.
void FileActions::replace(const QString& path) {
  const std::size_t shots = session_.within().empty() ? shotsOf(session_.whole(), session_.project().source.path) : 1;
  enum { ThisShot, All };
  int answer = ThisShot;
  if (shots > 1)
    answer = ask_(tr("Replace in all shots?"), tr("%1 shots have this footage.").arg(shots), {tr("This shot"), tr("All %1").arg(shots), tr("Cancel")});
  if (answer == ThisShot || answer == All) session_.useFootage(path, answer == All);
}

void FileActions::soundsDialog() {
  const QString path = chooseFile(&window_, tr("Add a sound"),
                                  tr("Sounds and clips with sound (*.wav *.flac *.mp3 *.m4a *.ogg *.opus *.aac *.aif *.aiff *.mka "
                                     "*.mp4 *.mov *.mkv *.webm);;All files (*)"),
                                  QFileInfo(shown(session_.project().source.path)).absolutePath());
  if (!path.isEmpty()) emit soundsChosen({path});
}

/// Another project, of nothing that titles and other sources are laid into.
void FileActions::blankDialog() {
  bool chosen = false;
  const QString words = QInputDialog::getText(&window_, tr("Blank footage"), tr("Size, pictures a second and length of clear pictures:"),
                                              QLineEdit::Normal, shown(blankPath({}).substr(blankPrefix.size())), &chosen);
  if (!chosen) return;
  if (const auto blank = parseBlank(words.trimmed().toStdString())) return openAnew(shown(blankPath(*blank)));
  emit session_.said(tr("\"%1\" is no size, rate and length: write them like 1920x1080@25:10s.").arg(words));
}

void FileActions::remember(const QString& path) {
  QSettings settings;
  QStringList recent = settings.value("recent").toStringList();
  const QString absolute = QFileInfo(path).absoluteFilePath();
  recent.removeAll(absolute);
  recent.prepend(absolute);
  settings.setValue("recent", QStringList(recent.mid(0, 8)));
}

// ---- saving

bool FileActions::settleChanges() {
  if (!session_.document().modified() || !asksToSave_) return true;
  enum { Save, Discard };
  const int answer = ask_(tr("Save first?"), tr("The project has changes that are not saved."),
                          {tr("Save"), tr("Discard"), tr("Cancel")});
  if (answer == Save) return save();
  return answer == Discard;
}

/// Asks what is to be done where the project's file was written by somebody else. True if it may be written over.
bool FileActions::settleChangedFile() {
  Document& document = session_.document();
  if (!document.changedOnDisk()) return true;
  const QFileInfo file(document.path());
  enum { TakeTheirs, KeepMine, SaveBeside };
  const int answer =
      ask_(tr("The file has changed"),
           file.exists() ? tr("%1 was changed since it was read here: by another window, or another program.")
                               .arg(file.fileName())
                         : tr("%1 is not there any more.").arg(file.fileName()),
           {tr("Take what is there"), tr("Keep mine"), tr("Save mine beside it"), tr("Cancel")});
  if (answer == KeepMine) return true;
  if (answer == TakeTheirs) {
    if (auto opened = document.open(document.path()); !opened) emit session_.said(shown(opened.error().message));
  } else if (answer == SaveBeside) {
    QString beside;
    for (int n = 2; beside.isEmpty() || QFileInfo::exists(beside); ++n)
      beside = QString("%1/%2-%3.molten").arg(file.absolutePath(), file.completeBaseName()).arg(n);
    if (saveTo(beside)) emit session_.said(tr("%1 is saved").arg(document.title()));
  }
  return false;
}

bool FileActions::save() {
  Document& document = session_.document();
  if (document.path().isEmpty()) return saveAs();
  // Whatever was answered, there may be nothing left to save.
  if (!settleChangedFile()) return !document.modified();
  if (!saveTo(document.path())) return false;
  emit session_.said(tr("%1 is saved").arg(document.title()));
  return true;
}

bool FileActions::saveTo(const QString& path) {
  if (auto saved = session_.document().save(path); !saved) {
    emit session_.said(shown(saved.error().message));
    return false;
  }
  remember(path);
  return true;
}

/// Beside the footage and with its name, or what it is saved as already.
QString FileActions::proposedName() const {
  const Document& document = session_.document();
  if (!document.path().isEmpty()) return document.path();
  const QString source = shown(session_.whole().source.path);
  if (source.isEmpty() || namesBlank(source.toStdString())) return {};
  const QFileInfo footage(source);
  // Numbered stills are called by what stands before their number.
  QString name = footage.completeBaseName().section('%', 0, 0);
  while (name.endsWith('-') || name.endsWith('_')) name.chop(1);
  if (name.isEmpty()) name = footage.dir().dirName();
  QString path = footage.dir().filePath(name + ".molten");
  for (int n = 2; QFileInfo::exists(path); ++n) path = footage.dir().filePath(QString("%1-%2.molten").arg(name).arg(n));
  return path;
}

bool FileActions::saveAs() {
  QString path = chooseNewFile(&window_, tr("Save the project"), tr("Projects (*.molten)"), proposedName());
  if (path.isEmpty()) return false;
  if (QFileInfo(path).suffix() != "molten") path += ".molten";
  return saveTo(path);
}

void FileActions::offerLostWork() {
  const auto lost = Document::findLostWork(autosaveFolder_);
  if (!lost) return;
  const QString name = lost->path.isEmpty() ? tr("a project that was never saved") : QFileInfo(lost->path).fileName();
  enum { Restore, Discard };
  const int answer =
      ask_(tr("Restore?"),
           tr("Molten Clock did not close properly last time. Changes to %1 were kept. Restore them?").arg(name),
           {tr("Restore"), tr("Discard"), tr("Ask again next time")});
  if (answer == Restore) {
    if (auto restored = session_.document().restore(*lost); !restored)
      emit session_.said(shown(restored.error().message));
  } else if (answer == Discard) {
    Document::discard(*lost);
  }
}

}  // namespace molten

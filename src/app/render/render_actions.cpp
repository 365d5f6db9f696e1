#include "app/render/render_actions.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QMenu>

#include "app/commands/commands.h"
#include "app/playback/playback.h"
#include "app/playback/player.h"
#include "app/render/desktop_notice.h"
#include "app/render/render_list.h"
#include "app/session/beside.h"
#include "app/files/file_choice.h"
#include "core/project/swap.h"

namespace molten {

RenderActions::RenderActions(Session& session, Player& player, Playback& playback, Ask ask, const QString& queueFolder, QWidget& window)
    : QObject(&window),
      session_(session),
      player_(player),
      playback_(playback),
      ask_(std::move(ask)),
      window_(window),
      queue_(new RenderQueue(session, queueFolder, this)),
      list_(new RenderList(*queue_, &window)),
      each_([](const EachQuestion& asked, const std::stop_token& stop) { return EachAnswer{asked, eachClipOf(asked.folder.toStdString(), asked.output.toStdString(), stop)}; },
            [this](const EachAnswer& answer) { addEach(answer.first, answer.second); }) {
  connect(queue_, &RenderQueue::busyChanged, &playback_, [this](bool busy) { playback_.shareMemory(Playback::Sharer::Render, busy); });
  connect(queue_, &RenderQueue::changed, this, &RenderActions::tell);
  // What is played comes first.
  connect(&player_, &Player::begins, queue_, [this] { queue_->setHeld(true); });
  connect(&player_, &Player::stopped, queue_, [this] { queue_->setHeld(false); });
  connect(queue_, &RenderQueue::over, this, &RenderActions::over);
  connect(list_, &RenderList::footageWanted, this, &RenderActions::footageWanted);
  connect(list_, &RenderList::againWanted, this, &RenderActions::openAgain);
}

RenderActions::~RenderActions() = default;

void RenderActions::fill(Commands& commands, QMenu* menu) {
  commands.add(
      menu, tr("Render…"), QKeySequence("Ctrl+R"), [this] { open(); }, Needs::Footage);
  commands.add(menu, tr("Render the sound alone…"), {}, [this] { chooseSoundFile(); }, Needs::Footage);
  commands.add(menu, tr("Render a folder of clips…"), {}, [this] { chooseEach(); }, Needs::Footage);
  commands.add(menu, tr("Render queue"), QKeySequence("Ctrl+Shift+R"), [this] { openQueue(); });
}

void RenderActions::openQueue() {
  list_->bringUp();
}

void RenderActions::end() {
  form_.reset();
  queue_->end();
}

QString RenderActions::suggestedPath() const {
  const QFileInfo base(besideWhat(session_));
  QString name = base.completeBaseName();
  name.replace('%', '-');
  return base.absolutePath() + "/" + name + (session_.length() == 1 ? "-molten.png" : "-molten.mp4");
}

std::shared_ptr<const Footage> RenderActions::footageOfRender() const {
  return session_.isReel() ? session_.reel().footageOf(session_.whole().source) : session_.footage();
}

void RenderActions::open() {
  if (!session_.footage()) return;
  if (!session_.within().empty())
    return emit session_.said(tr("A render is of the whole shot: leave the chain of %1 first (Ctrl+Up).").arg(QString::fromStdString(titleOf(session_.branching()))));
  player_.stop();
  const auto footage = footageOfRender();
  if (!footage) return emit session_.said(tr("The first shot's footage cannot be read: find it or take the shot out of the reel."));
  openForm({footage, session_.whole(), suggestedPath(), mapPlace_, playback_.memory() / 2});
  connect(form_.get(), &RenderDialog::settingsChosen, &session_.document(), &Document::setOutput);
  connect(form_.get(), &RenderDialog::mapPlaceChosen, this, [this](const RenderPlace& place) { mapPlace_ = place; });
}

void RenderActions::chooseSoundFile() {
  const QFileInfo beside(suggestedPath());
  const QString path = QFileDialog::getSaveFileName(&window_, tr("File for the sound"), beside.path() + "/" + beside.completeBaseName() + ".wav",
                                                    tr("WAV, every sample (*.wav);;FLAC, every sample in less room (*.flac)"));
  if (!path.isEmpty()) writeSound(path);
}

void RenderActions::writeSound(const QString& path) {
  RenderSettings job;
  job.footage = footageOfRender();
  job.project = session_.whole();
  if (!job.footage) return;
  const QString ending = QFileInfo(path).suffix().toLower();
  job.project.output.path = (ending == "wav" || ending == "flac" ? path : path + ".wav").toStdString();
  job.memoryBytes = playback_.memory() / 2;
  addToQueue(std::move(job), tr("The sound alone, %1 s").arg(session_.shownPiece().seconds().toDouble(), 0, 'f', 2));
  list_->bringUp();
}

void RenderActions::keep(const QString& project) {
  queue_->setMemory(playback_.memory() / 2);
  queue_->keep(project);
  list_->bringUp();
}

void RenderActions::chooseEach() {
  if (session_.isReel()) return emit session_.said(tr("A folder of clips goes through the chain of one shot, and this is a reel of several: open one of them by itself."));
  const QString folder = chooseFolder(&window_, tr("A folder of clips, each to go through this chain"));
  if (folder.isEmpty()) return;
  const QString to = chooseFolder(&window_, tr("A folder for the results"));
  if (to.isEmpty()) return;
  const QFileInfo last(QString::fromStdString(session_.whole().output.path));
  const bool stills = last.fileName().contains('%');
  renderEach(folder, to + (stills ? "/%s-%05d." : "/%s.") + (last.suffix().isEmpty() ? "mp4" : last.suffix()));
}

void RenderActions::renderEach(const QString& folder, const QString& output) {
  each_.ask({folder, output, session_.whole()});
}

void RenderActions::addEach(const EachQuestion& asked, const Result<std::vector<EachClip>>& clips) {
  if (!clips) return emit session_.said(QString::fromStdString(clips.error().message));
  std::size_t there = 0;
  for (const EachClip& clip : *clips) there += QFileInfo::exists(QString::fromStdString(clip.output));
  enum { Replace };
  if (there > 0 && ask_ && ask_(tr("Replace?"), tr("%1 of the %2 results are there already.").arg(there).arg(clips->size()), {tr("Replace them"), tr("Cancel")}) != Replace)
    return;
  for (const EachClip& clip : *clips) {
    RenderSettings job;
    job.project = withClip(asked.project, clip.path);
    job.project.output.path = clip.output;
    job.memoryBytes = playback_.memory() / 2;
    addToQueue(std::move(job), tr("%1 through this chain").arg(QFileInfo(QString::fromStdString(clip.path)).fileName()));
  }
  list_->bringUp();
}

void RenderActions::addToQueue(RenderSettings job, const QString& summary) {
  queue_->setMemory(job.memoryBytes);
  queue_->add(std::move(job), summary);
}

void RenderActions::openForm(const RenderWish& wish) {
  form_ = std::make_unique<RenderDialog>(wish, *queue_, ask_, &window_);
  connect(form_.get(), &RenderDialog::jobChosen, this, &RenderActions::addToQueue);
  connect(form_.get(), &QDialog::accepted, list_, &RenderList::bringUp);
  form_->show();
}

/// The same footage and chain, whatever is open now.
void RenderActions::openAgain(const RenderEntry& entry) {
  // Of what was found in the list its settings are not known here: it is tried again as it is.
  if (!entry.job.footage) return queue_->resume(entry.number);
  const RenderSettings& job = entry.job;
  RenderWish wish{job.footage, job.project, {}, mapPlace_, job.memoryBytes, job.timeMap};
  if (job.timeMap) {
    wish.ofMap = {entry.path(), QString::fromStdString(job.project.output.codec)};
    // What its pictures would be called has not been said.
    wish.project.output.path.clear();
    wish.project.output.codec.clear();
    wish.suggested = QFileInfo(entry.path()).absolutePath() + "/result.mp4";
  }
  openForm(wish);
  connect(form_.get(), &RenderDialog::jobChosen, queue_, [this, number = entry.number] { queue_->remove(number); });
}

void RenderActions::over(const RenderEntry& entry) {
  const QString name = QFileInfo(entry.path()).fileName();
  const bool written = entry.state == RenderEntry::State::Written;
  if (!window_.isActiveWindow() && entry.state != RenderEntry::State::Cancelled)
    noticeOnDesktop(written ? tr("%1 is written").arg(name) : tr("%1 was not rendered").arg(name), entry.sentence);
  // What reads it may read the file from now on.
  if (!entry.keeps.isEmpty() && entry.state == RenderEntry::State::Written) session_.fileHasChanged(QFileInfo(entry.keeps).canonicalFilePath().toStdString());
  if (entry.state == RenderEntry::State::Failed)
    emit session_.said((entry.keeps.isEmpty() ? tr("%1 was not rendered: %2") : tr("The result of %1 was not kept: %2")).arg(name, entry.sentence));
  else if (entry.state == RenderEntry::State::Written && !entry.keeps.isEmpty())
    emit session_.said(tr("The result of %1 is kept").arg(name));
  else if (entry.state == RenderEntry::State::Written && !list_->isVisible())
    emit session_.said(tr("%1 is written; Ctrl+Shift+R shows where").arg(name));
}

void RenderActions::tell() {
  const RenderEntry* const running = queue_->running();
  if (!running) return emit told({});
  const RenderProgress& progress = running->progress;
  const auto percent = progress.total > 0 ? progress.done * 100 / progress.total : 0;
  const auto waiting = queue_->waiting();
  emit told(waiting > 0 ? tr("Rendering %1 % · %2 wait").arg(percent).arg(waiting) : tr("Rendering %1 %").arg(percent));
}

}  // namespace molten

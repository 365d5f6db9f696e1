#include "app/live/live_keeping.h"

#include <QDateTime>
#include <QDir>
#include <QFileInfo>
#include <QStandardPaths>

#include "app/session/beside.h"
#include "core/files/safe_file.h"
#include "core/thrown.h"

namespace molten {
namespace {

std::size_t placeOf(LiveKeeping::What what) {
  return what == LiveKeeping::What::Shown ? 0 : 1;
}

/// Of what is kept to be worked on: hardly to be told from what came.
constexpr int keptQuality = 12;

}  // namespace

LiveKeeping::LiveKeeping(Session& session, QObject* parent) : QObject(parent), session_(session) {}

LiveKeeping::~LiveKeeping() {
  stopAll();
}

QString LiveKeeping::freePath(const QString& what, const QString& ending) const {
  const QString project = session_.document().path();
  const QFileInfo base(project);
  const QString films = QStandardPaths::writableLocation(QStandardPaths::MoviesLocation);
  const QString folder = project.isEmpty() ? (QDir(films).exists() ? films : QDir::homePath()) : base.absolutePath();
  const QString name = (project.isEmpty() ? tr("live") : base.completeBaseName()) + " " + what + QDateTime::currentDateTime().toString(" yyyy-MM-dd hh.mm.ss");
  QString path = folder + "/" + name + ending;
  for (int i = 2; QFileInfo::exists(path); ++i) path = folder + "/" + name + QString(" (%1)").arg(i) + ending;
  return path;
}

std::shared_ptr<LiveRecording> LiveKeeping::recorder(What what) const {
  const std::scoped_lock lock(mutex_);
  return recorders_[placeOf(what)];
}

void LiveKeeping::errand(std::function<void()> work) {
  {
    const std::scoped_lock lock(errandsMutex_);
    errands_.push_back(std::move(work));
    errandsChanged_.notify_all();
  }
  if (runner_.joinable()) return;
  runner_ = std::jthread([this](std::stop_token stop) {
    for (;;) {
      std::function<void()> next;
      {
        std::unique_lock lock(errandsMutex_);
        errandsChanged_.wait(lock, stop, [&] { return !errands_.empty(); });
        if (errands_.empty()) return;
        next = std::move(errands_.front());
        errands_.pop_front();
      }
      guarded(inbox_, next);
    }
  });
}

bool LiveKeeping::records(What what) const {
  return recorder(what) != nullptr;
}

void LiveKeeping::made(const LivePicture& picture) {
  if (const auto recording = recorder(What::Shown)) recording->add(picture.picture, picture.number, picture.rate);
  const std::scoped_lock lock(mutex_);
  last_ = picture.picture;
}

void LiveKeeping::came(const CameraFrame& frame, std::int32_t number, Rational rate) {
  if (const auto recording = recorder(What::Incoming)) recording->add(frame.picture, number, rate);
}

void LiveKeeping::record(What what, bool on, const QString& wanted) {
  if (on == records(what)) return;
  if (!on) {
    std::shared_ptr<LiveRecording> ended;
    {
      const std::scoped_lock lock(mutex_);
      ended = std::exchange(recorders_[placeOf(what)], nullptr);
    }
    // Its last pictures may still wait for the encoder.
    errand([this, ended] {
      const Status status = ended->finish();
      const auto state = ended->state();
      inbox_.post([this, status, state, path = QString::fromStdString(ended->path())] {
        emit said(status ? tr("%1 s recorded: %2").arg(state.seconds, 0, 'f', 1).arg(path) : QString::fromStdString(status.error().message));
      });
    });
    return emit changed();
  }
  if (!run_) return emit said(tr("Live is off: there is nothing to record."));
  const QString path = wanted.isEmpty() ? freePath(what == What::Shown ? tr("live") : tr("camera"), ".mp4") : wanted;
  if (const auto may = SafeFile::mayCreate(path.toStdString()); !may) return emit said(QString::fromStdString(may.error().message));
  {
    const std::scoped_lock lock(mutex_);
    recorders_[placeOf(what)] = std::make_shared<LiveRecording>(path.toStdString());
  }
  emit changed();
}

void LiveKeeping::stopAll() {
  {
    const std::scoped_lock lock(mutex_);
    for (auto& recording : recorders_) recording.reset();
  }
  keeper_ = {};
  // What has been begun is written to its end.
  runner_ = {};
  keepingAt_ = -1;
}

void LiveKeeping::keepLast() {
  const auto ring = run_ ? run_->ring() : nullptr;
  if (!ring) return emit said(tr("Live is off, or the camera has given no picture yet: there is nothing to keep."));
  if (keeping()) return;
  keepingAt_ = 0;
  auto frames = std::make_shared<std::vector<LiveRing::Kept>>(ring->all());
  OutputSpec spec;
  spec.path = freePath(tr("kept"), ".mp4").toStdString();
  spec.quality = keptQuality;
  keeper_ = guardedThread(inbox_, [this, frames, spec, rate = ring->rate()](std::stop_token stop) {
    const auto tell = [this, told = -1.0](double done) mutable {
      if (done < told + 0.02) return;
      told = done;
      inbox_.post([this, done] {
        if (keepingAt_ >= 0) keepingAt_ = done, emit changed();
      });
    };
    const Status status = orThrown([&] { return keepAsClip(*frames, rate, spec, tell, stop); });
    inbox_.post([this, status, path = QString::fromStdString(spec.path)] {
      keepingAt_ = -1;
      emit changed();
      if (status)
        emit kept(path);
      else if (!status.error().cancelled)
        emit said(QString::fromStdString(status.error().message));
    });
  });
  emit changed();
}

void LiveKeeping::still() {
  Picture picture;
  {
    const std::scoped_lock lock(mutex_);
    picture = last_;
  }
  if (!run_ || !picture) return emit said(tr("Live is off, or the camera has given no picture yet: there is no still."));
  OutputSpec spec;
  spec.path = freePath(tr("still"), ".png").toStdString();
  spec.shape = picture.shape();
  spec.single = true;
  errand([this, spec, picture] {
    const Status status = [&]() -> Status {
      auto writer = PictureWriter::open(spec);
      if (!writer) return writer.error();
      if (auto put = (*writer)->write(picture); !put) return put;
      return (*writer)->finish();
    }();
    inbox_.post([this, status, path = QString::fromStdString(spec.path)] { emit said(status ? tr("A still of now: %1").arg(path) : QString::fromStdString(status.error().message)); });
  });
}

QString LiveKeeping::line() const {
  QStringList parts;
  const auto tell = [&](What what, const QString& words) {
    const auto recording = recorder(what);
    if (!recording) return;
    const auto state = recording->state();
    if (state.failed) return void(parts << QString::fromStdString(state.failed->message));
    parts << words.arg(state.seconds, 0, 'f', 1) + (state.leftOut > 0 ? tr(", %1 left out").arg(state.leftOut) : QString());
  };
  tell(What::Shown, tr("Recording what is shown: %1 s"));
  tell(What::Incoming, tr("Recording what comes in: %1 s"));
  if (keeping()) parts << tr("Keeping the last seconds: %1 %").arg(keepingAt_ * 100, 0, 'f', 0);
  return parts.join(" · ");
}

}  // namespace molten

#pragma once
// What is said about the footage: damage that was met, and what other footage does to the chain.

#include <QObject>
#include <QStringList>
#include <QTimer>
#include <optional>

#include "app/session/session.h"
#include "core/project/swap.h"

namespace molten {

class LogView;
class MisfitView;
class Playback;

/// Says each thing once, keeps it in the Log, and shows where damaged frames are seen.
class FootageNotices : public QObject {
  Q_OBJECT

 public:
  FootageNotices(Session& session, Playback& playback, LogView& log, QWidget& window);

 private:
  /// What is so with the footage that there is.
  struct Holding {
    bool endless = false;
    QStringList notes;
    VideoDescription video;
    Project whole;
  };
  /// Shots that have new footage, and what they had.
  struct Swapped {
    std::string path;
    VideoDescription was;
    std::vector<std::size_t> shots;
  };
  struct WhereQuestion {
    std::shared_ptr<const ChainReading> reading;
    Piece piece;
    std::vector<std::int32_t> frames;
  };
  Holding now() const;
  void tellWhatNoLongerFits();
  std::vector<Misfit> misfitsNow() const;
  void lookForFaults();
  void tellChanged(const std::shared_ptr<const Footage>& footage);
  void showWhere(const std::vector<std::int64_t>& pictures);

  Session& session_;
  Playback& playback_;
  LogView& log_;
  std::optional<Holding> replaced_;  ///< of the footage that is being replaced; none: nothing is
  Newest<WhereQuestion, std::vector<std::int64_t>> where_;
  /// Whether the footage in hand has changed on the disk: what is in memory is not decoded again, and would not tell.
  Newest<std::shared_ptr<const Footage>, std::shared_ptr<const Footage>> changed_;
  QTimer faultTimer_, changeTimer_;
  MisfitView* view_;
  std::optional<Swapped> swapped_;  ///< what is in sight in the view is about
};

}  // namespace molten

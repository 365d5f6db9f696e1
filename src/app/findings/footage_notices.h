#pragma once
// What is said about the footage: damage that was met, and what other footage does to the chain.

#include <QObject>
#include <QStringList>
#include <QTimer>
#include <optional>

#include "app/session/session.h"

namespace molten {

class LogView;
class Playback;

/// Says each thing once, keeps it in the Log, and shows where damaged frames are seen.
class FootageNotices : public QObject {
  Q_OBJECT

 public:
  FootageNotices(Session& session, Playback& playback, LogView& log, QObject* parent = nullptr);

 private:
  /// What is so with the footage that there is.
  struct Holding {
    bool endless = false, trimmed = false;
    QStringList notes;
  };
  struct WhereQuestion {
    std::shared_ptr<const ChainReading> reading;
    Piece piece;
    std::vector<std::int32_t> frames;
  };
  Holding now() const;
  void tellWhatNoLongerFits();
  void lookForFaults();
  void showWhere(const std::vector<std::int64_t>& pictures);

  Session& session_;
  Playback& playback_;
  LogView& log_;
  std::optional<Holding> replaced_;  ///< of the footage that is being replaced; none: nothing is
  Newest<WhereQuestion, std::vector<std::int64_t>> where_;
  QTimer faultTimer_;
};

}  // namespace molten

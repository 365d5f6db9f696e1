#pragma once
// What stands in the deck's place while the Bench is live.

#include <QString>
#include <QWidget>
#include <vector>

#include "app/live/live_keeping.h"
#include "app/mailbox/newest.h"
#include "core/engine/live_run.h"

class QComboBox;
class QMenu;
class QPushButton;
class QToolButton;

namespace molten {

class RingBar;
class ValueField;
namespace theme {
class OneLine;
}

/// The camera, the ring, what is recorded, and how it goes. Says what hands want; LiveRoom does it.
class LivePanel : public QWidget {
  Q_OBJECT

 public:
  explicit LivePanel(QWidget* parent = nullptr);

  struct Told {
    CameraChoice camera;
    RingSettings ring;
    LiveState state;
    QString line;       ///< how it goes
    QString trouble;    ///< sentences; empty: none
    QString kept;       ///< what is recorded and kept
    bool recordsShown = false, recordsIncoming = false, keeping = false;
  };
  void tell(const Told& told);
  QSize sizeHint() const override;

 signals:
  void cameraChosen(const CameraChoice& camera);
  void ringChosen(const RingSettings& ring);
  void endWanted();
  void fullScreenWanted();
  void recordWanted(LiveKeeping::What what, bool on);
  void keepWanted();
  void stillWanted();

 protected:
  void showEvent(QShowEvent*) override;

 private:
  void makeCameraRow(QLayout* into);
  void makeRingRow(QLayout* into);
  void makeKeepingRow(QLayout* into);
  void fillCameras();
  void fillModes();
  void fillTroubles();
  void chooseClip();
  void choose(const std::function<void(CameraChoice&)>& change);
  void chooseRing(const std::function<void(RingSettings&)>& change);

  Told told_;
  std::vector<CameraOffer> offers_;
  QComboBox *cameras_, *sizes_, *rates_;
  QToolButton* troubles_;
  QMenu* troublesMenu_;
  ValueField* seconds_;
  QComboBox *every_, *smaller_, *colour_;
  RingBar* ring_;
  QPushButton *shown_, *incoming_, *keep_;
  theme::OneLine *line_, *kept_, *trouble_;
  Newest<int, std::vector<CameraOffer>> looking_;  // last: it ends before the rest goes
};

}  // namespace molten

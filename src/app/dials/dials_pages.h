#pragma once
// What stands in the Dials.

#include <QObject>

#include "app/session/in_hand.h"

class QStackedWidget;

namespace molten {

class Dials;
class FollowedShots;
class FootageDials;
class OutputDials;
class SmallPictureMaker;

/// Shows the selected tile's page: a stage's dials, the footage's or the output's; or a selected sound's. Makes edits of what is
/// set there, keys too.
class DialsPages : public QObject {
  Q_OBJECT

 public:
  struct Views {
    QStackedWidget& pages;
    Dials& stage;
    OutputDials& output;
    FootageDials& footage;
  };
  DialsPages(Session& session, FollowedShots& followed, SmallPictureMaker& pictures, const Views& views,
             QObject* parent = nullptr);
  void refresh();

 signals:
  void stageShown();  ///< what is measured of it may be another

 private:
  void connectStage();
  void connectEnds();
  void showHeld(const InHand& held);
  void showFootage();
  void showOutput();
  void showOutside();
  void edit(const InHand& held, bool gesture, const InHand::Change& change);
  void set(std::size_t parameter, const ParameterValue& value, bool gesture);
  void toggleKey(std::size_t parameter);
  void removeKeys(std::size_t parameter);
  void setDrivesOf(std::size_t parameter, const Drives& drives, const QString& name, bool gesture);
  void showMoment();
  /// What is told there is mended by a click.
  void mend(Figure figure);
  void trim();
  /// Frames that enter the selected stage as frames of the footage, as nearly as whole pictures tell.
  std::int32_t footageFrame(std::int32_t frame) const;

  Session& session_;
  FollowedShots& followed_;
  SmallPictureMaker& pictures_;
  Views views_;
};

}  // namespace molten

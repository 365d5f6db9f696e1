#pragma once
// What is done with the reel: its strip, its menu.

#include <QImage>
#include <QObject>
#include <QStringList>
#include <optional>

#include "app/mailbox/newest.h"
#include "app/session/session.h"

class QAction;
class QMenu;

namespace molten {

class Commands;
class CutPair;
class NearCuts;
class ReelStrip;
class ShotPictures;

/// Adds, orders, trims, splits and switches shots, and sets the cuts between them.
class ReelActions : public QObject {
  Q_OBJECT

 public:
  ReelActions(Session& session, ReelStrip& strip, QWidget& window);

  void fill(Commands& commands, QMenu* menu);
  /// Footage, in that order, each a shot of its own; at the end, or to stand from a number on.
  void add(const QStringList& files, std::optional<std::size_t> at = std::nullopt);
  /// What other programs read: the shots, or what every picture reads, by the path's ending.
  void writeList(const QString& path);

 private:
  void connectStrip();
  void refresh();
  void refreshPlayhead();
  void addDialog();
  void listDialog();
  void split();
  void rename();
  void trim(std::size_t shot, bool end, double seconds);
  void typeThrough(std::size_t shot, const Cut& now);
  void pullCut(std::size_t shot, double right, double down);
  /// What a shot ends with, or begins with.
  QImage pictureOf(std::size_t shot, bool end);
  void showPair();
  void showMotion();
  void moveToBetter();
  QString throughWords(const RunThrough& through) const;
  void takeNext(int by);
  void moveBy(int by);
  void setCutAfter(std::size_t shot, const Cut& cut);
  void fillCutMenu(QMenu& menu, std::size_t shot);
  /// An edit of the reel, with the shot in hand still in hand.
  void apply(const Edit& edit) { session_.applyToReel(edit, session_.shot()); }
  QString summary() const;

  Session& session_;
  ReelStrip& strip_;
  QWidget& window_;
  struct ListQuestion {
    QString path;
    Project project;
    std::optional<VideoDescription> first;
    DescribeSource describe;
  };
  ShotPictures* pictures_;
  CutPair* pair_;
  NearCuts* near_;
  std::optional<std::size_t> wantsBetter_;  ///< the cut that is to be moved as soon as it is known where to
  QList<QAction*> ofShot_;       ///< what a shot's menu shows
  QAction *on_ = nullptr, *fills_ = nullptr, *alone_ = nullptr, *stops_ = nullptr;
  QMenu* cut_ = nullptr;
  std::optional<ShotPlace> trimmed_;  ///< where the shot stood when its end was taken hold of
  /// A cut, as it was when it was taken hold of.
  struct Pulled {
    std::size_t shot;
    Cut cut;
  };
  std::optional<Pulled> pulled_;
  Newest<ListQuestion, QStringList> lists_;  ///< what is to be said when one is written
  QString trimming_;                  ///< what is said meanwhile
};

}  // namespace molten

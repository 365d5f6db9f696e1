#pragma once
// Results as footage: stages that become a source, and sources that are projects.

#include <QObject>

#include "app/session/session.h"

class QMenu;
class QWidget;

namespace molten {

class Commands;

class SourceActions : public QObject {
  Q_OBJECT

 public:
  SourceActions(Session& session, QWidget& window);
  void fill(Commands& commands, QMenu* menu);

 signals:
  void projectWanted(const QString& path);  ///< to be opened
  void keepWanted(const QString& path);     ///< a project's result

 private:
  void turnIntoSource();
  void takeApart();
  void clear();
  QString source() const;

  Session& session_;
  struct ApartQuestion {
    Project whole;  ///< as it is when that is asked
    std::string path;
  };
  struct ApartAnswer {
    ApartQuestion asked;
    Result<Project> source;
  };
  Newest<ApartQuestion, ApartAnswer> apart_;
};

}  // namespace molten

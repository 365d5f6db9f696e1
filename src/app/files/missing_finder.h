#pragma once
// Looks after files that the project names and that are not there.

#include <QObject>

#include "app/session/session.h"
#include "core/project/missing_files.h"

class QMenu;
class QWidget;

namespace molten {

class Commands;
class MissingView;

/// Lists them when a project is opened, and asks where they are. The disk is asked on another thread.
class MissingFinder : public QObject {
  Q_OBJECT

 public:
  MissingFinder(Session& session, QWidget& window);
  void fill(Commands& commands, QMenu* menu);

 private:
  struct Question {
    Project project;
    std::optional<std::pair<std::string, std::string>> found;  ///< what was missing, and what it is now
    bool shows = false, told = false;                          ///< the list; and that nothing is missing
  };
  struct Answer {
    Question to;
    std::vector<MissingFile> missing;
    std::optional<Edit> edit;
  };
  static Answer answer(const Question& question, const std::stop_token& stop);
  void take(const Answer& answer);
  void find(const QString& path);

  Session& session_;
  MissingView* view_;
  Newest<Question, Answer> newest_;
};

}  // namespace molten

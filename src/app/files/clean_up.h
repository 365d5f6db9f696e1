#pragma once
// Project › Clean up…: files beside the project that nothing names any more.

#include <QObject>
#include <string>
#include <vector>

#include "app/ask/ask.h"
#include "app/mailbox/newest.h"
#include "app/session/session.h"

class QMenu;
class QWidget;

namespace molten {

class Commands;

/// Lists the paintings in the project's folder that no project, starter or backup there names, and moves them to the
/// desktop's trash if the user says so. Saving never removes anything. The folder is read on a thread of its own.
class CleanUp : public QObject {
  Q_OBJECT

 public:
  CleanUp(Session& session, Ask ask, QWidget& window);
  void fill(Commands& commands, QMenu* menu);

 private:
  struct Found {
    std::string folder;
    Result<std::vector<std::string>> paintings;
  };
  void look();
  void offer(const Found& found);

  Session& session_;
  Ask ask_;
  Newest<std::string, Found> found_;
};

}  // namespace molten

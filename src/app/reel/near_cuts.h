#pragma once
// Looks at how shots move at a cut, and for a better one near by, in the background.

#include <QObject>
#include <optional>

#include "app/session/session.h"
#include "core/engine/cut_motion.h"

namespace molten {

class NearCuts : public QObject {
  Q_OBJECT

 public:
  explicit NearCuts(Session& session, QObject* parent = nullptr);
  /// At the cut after a shot; arrived() follows, unless something newer is asked. False where there is nothing to look at: it is the
  /// last shot, or one of both cannot be had.
  bool look(std::size_t shot);
  /// Why that cannot be known; empty: it can, or nobody has looked.
  std::string trouble(std::size_t shot) const;
  /// What was found of that cut as it is now; none: nothing yet.
  const CutChoice* found(std::size_t shot) const;
  /// The better cut, or nothing where there is none.
  std::optional<Edit> edit(std::size_t shot) const;

 signals:
  void arrived();

 private:
  struct Question {
    std::size_t shot = 0;
    Project asked;  ///< as it is
    CutSide out, in;
  };
  struct Answer {
    Question asked;
    Result<CutChoice> choice;
  };
  std::optional<CutSide> sideOf(std::size_t shot, bool end) const;
  bool isNow(const Question& question) const;

  Session& session_;
  std::optional<Question> looking_;
  std::optional<Answer> known_;
  Newest<Question, Answer> newest_;
};

}  // namespace molten

#pragma once
// The Log: what was damaged, missing or changed, said once in a sentence elsewhere, kept here.

#include <QDialog>
#include <cstdint>
#include <vector>

class QLabel;
class QVBoxLayout;

namespace molten {

struct LogLine {
  QString about;                     ///< a later line about the same takes its place
  QString sentence;
  std::vector<std::int32_t> frames;  ///< of the footage, rising; none: nowhere to be shown
  friend bool operator==(const LogLine&, const LogLine&) = default;
};

class LogView : public QDialog {
  Q_OBJECT

 public:
  explicit LogView(QWidget* parent);
  /// True if it says something that was not said before.
  bool put(const LogLine& line);
  void clear();
  const std::vector<LogLine>& lines() const { return lines_; }

 signals:
  /// Where they stand in the piece is to be marked.
  void whereAsked(const std::vector<std::int32_t>& frames);

 private:
  void build();

  std::vector<LogLine> lines_;
  QWidget* holder_;
  QLabel* none_;
};

}  // namespace molten

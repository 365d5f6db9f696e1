#pragma once
// A small field on the chart to type a number into, which says what it would do while one types.

#include <QFrame>
#include <functional>

class QLabel;
class QLineEdit;

namespace molten {

class ChartPrompt : public QFrame {
  Q_OBJECT

 public:
  /// `effect`: what a text would do, or nothing if it is no such number.
  using Effect = std::function<std::optional<QString>(const QString& text)>;
  /// `wanted`: what is said of any other.
  ChartPrompt(const QString& question, const QString& text, const QString& wanted, Effect effect, QWidget* parent);
  QLineEdit* field() { return field_; }
  QString effectShown() const;

 signals:
  void answered(const QString& text);
  void dismissed();

 protected:
  bool eventFilter(QObject* object, QEvent* event) override;

 private:
  void typed();
  Effect effect_;
  QString wanted_;
  QLineEdit* field_;
  QLabel* words_;
  bool done_ = false;
};

}  // namespace molten

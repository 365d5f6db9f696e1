#pragma once
// The chain's beginning: what lies between two frames of the footage, and the rate of footage that has none of its own.

#include <QWidget>

#include "app/theme/value_field.h"
#include "core/media/footage.h"
#include "core/project/project.h"

class QPushButton;

namespace molten {

class FootageDials : public QWidget {
  Q_OBJECT

 public:
  explicit FootageDials(QWidget* parent = nullptr);
  /// `lines`: what else is worth knowing.
  void showFootage(const Footage& footage, const Source& source, const QStringList& lines);
  /// All shots of a reel, of which nothing is set here.
  void showReel(const QStringList& lines);

 signals:
  void betweenChosen(InBetween between);
  void rateTyped(Rational rate);

 private:
  Taken takeRate(const QString& typed);

  QLabel *name_, *words_, *betweenNote_, *rateNote_;
  std::vector<QPushButton*> between_;  ///< in the order of InBetween
  QWidget *betweenCard_, *rateCard_;
  ValueField* rate_;
};

}  // namespace molten

#pragma once
// The chain's end: the piece's picture rate and length.

#include <QWidget>
#include <optional>

#include "app/theme/value_field.h"
#include "core/project/piece.h"

class QPushButton;

namespace molten {

class OutputDials : public QWidget {
  Q_OBJECT

 public:
  explicit OutputDials(QWidget* parent = nullptr);
  /// `words`: what else is worth knowing.
  void showPiece(const Piece& piece, Rational footageRate, const QString& words);

 signals:
  void rateChosen(std::optional<Rational> rate);       ///< none: the footage's
  void lengthChosen(std::optional<Rational> seconds);  ///< none: it follows the chain

 private:
  Taken takeRate(const QString& typed);
  Taken takeLength(const QString& typed);

  Piece piece_;
  QLabel* words_;
  QPushButton *footageRate_, *follows_, *fixed_;
  ValueField *rate_, *length_;
  QLabel *rateNote_, *lengthNote_;
};

}  // namespace molten

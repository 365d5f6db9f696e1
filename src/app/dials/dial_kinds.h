#pragma once
// A dial for each kind of parameter, made from its description.

#include <QWidget>
#include <functional>
#include <optional>

#include "app/theme/value_field.h"
#include "core/stages/parameter.h"

namespace molten {

/// What sets a parameter, and how it is shown a value.
struct Dial {
  QWidget* widget = nullptr;
  std::function<void(const ParameterValue&)> show;
};

/// What a dial is used with.
struct DialHand {
  std::function<void(const ParameterValue& value, bool gesture)> change;  ///< gesture: more of the same may follow
  std::function<void()> letGo;                                           ///< a gesture is over
  Rational rate = 25;                                                    ///< frames that are typed are of this rate
  int names = 96;                                                        ///< width of the column of names, in pixels
};

/// Requires any kind but a painting.
Dial dialFor(const ParameterDescription& parameter, const DialHand& hand);

/// Takes what is typed for a parameter: changes its value, or says why not.
std::function<Taken(const QString&)> takerOf(const ParameterDescription& parameter, Rational rate,
                                             std::function<void(const ParameterValue&)> change);

/// Pictures a second as a person types them: `24`, `29,97 fps`, `30000/1001`.
std::optional<Rational> typedRate(const QString& words);

/// Widgets in a row; nullptr: what room there is.
QWidget* rowOf(std::initializer_list<QWidget*> widgets, int spacing = 0);

}  // namespace molten

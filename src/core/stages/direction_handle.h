#pragma once
// A handle on the Picture that says which way something goes.

#include "core/field/field_shape.h"
#include "core/stages/stage.h"

namespace molten {

/// Where it stands: a quarter of the picture's height from a centre, `degrees` clockwise from the right.
Place directionPlace(Place centre, double degrees, Size picture);
/// The way from a centre to a place, in whole degrees of −180…180; ways that are nearly straight up, across or between
/// the two are so. At the centre itself it is 0.
double directionDegrees(Place centre, Place to, Size picture);
/// The line from the centre to the handle.
FieldLine directionLine(Place centre, double degrees, Size picture);
/// What goes that way, seen from above: the line across it through a place, to the edges of the picture or beyond.
FieldLine crossLine(Place through, double degrees, Size picture);

}  // namespace molten

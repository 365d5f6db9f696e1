#include "core/field/round_fields.h"

#include <cmath>
#include <numbers>

#include "core/wide.h"

namespace molten {
namespace {

struct Line {
  double x, stepX, y;  ///< the first site and the step to the next, from the centre, in picture heights
};

MOLTEN_WIDE void rings(Line at, double cosine, double sine, double stretch, double inner, double span, float* out,
                       int count) {
  for (int i = 0; i < count; ++i) {
    const double dx = at.x + i * at.stepX;
    const double along = dx * cosine + at.y * sine, aside = (at.y * cosine - dx * sine) / stretch;
    out[i] = heldWithin((__builtin_sqrt(along * along + aside * aside) - inner) / span);
  }
}

/// atan(rise / run), from 0 to an eighth of a turn, to the last bits, as Moshier's Cephes library has it: a rational
/// function, above 0.66 of what is left after an eighth of a turn. Requires 0 <= rise <= run, run > 0.
inline double arcTangent(double rise, double run) {
  const bool far = rise > 0.66 * run;
  const double x = (far ? rise - run : rise) / (far ? rise + run : run), z = x * x;
  const double p =
      (((-8.750608600031904122785e-1 * z - 1.615753718733365076637e1) * z - 7.500855792314704667340e1) * z -
       1.228866684490136173410e2) *
          z -
      6.485021904942025371773e1;
  const double q =
      ((((z + 2.485846490142306297962e1) * z + 1.650270098316988542046e2) * z + 4.328810604912902668951e2) * z +
       4.853903996359136964868e2) *
          z +
      1.945506571482613964425e2;
  return x + x * z * p / q + (far ? std::numbers::pi / 4 : 0);
}

MOLTEN_WIDE void angles(Line at, double angle, double turn, float* out, int count) {
  constexpr double quarter = std::numbers::pi / 2, whole = 2 * std::numbers::pi;
  for (int i = 0; i < count; ++i) {
    const double dx = at.x + i * at.stepX, dy = at.y;
    const double ax = dx < 0 ? -dx : dx, ay = dy < 0 ? -dy : dy;
    const double most = ax > ay ? ax : ay, least = ax > ay ? ay : ax;
    double a = arcTangent(least, most > 0 ? most : 1);
    a = ay > ax ? quarter - a : a;
    a = dx < 0 ? 2 * quarter - a : a;
    a = dy < 0 ? whole - a : a;
    double turns = a / whole - angle;
    turns -= __builtin_floor(turns);
    const double f = turns / turn;
    out[i] = static_cast<float>(f > 1 ? 1 : f);
  }
}

}  // namespace

RadialField::RadialField(Place centre, double inner, double outer, double stretch, double angle,
                         const FieldFrame& frame)
    : cx_(centre.x * frame.size.width),
      cy_(centre.y * frame.size.height),
      across_(frame.pixelAspect / frame.size.height),
      down_(1.0 / frame.size.height),
      cos_(std::cos(angle * 2 * std::numbers::pi)),
      sin_(std::sin(angle * 2 * std::numbers::pi)),
      stretch_(stretch),
      inner_(inner),
      outer_(outer) {}

void RadialField::row(const PlaneSites& sites, int y, std::span<float> out) const {
  const Line line{(sites.x0 - cx_) * across_, sites.stepX * across_, (sites.y0 + y * sites.stepY - cy_) * down_};
  // A span of nothing is a border: so short that no pixel stands in it.
  const double span = outer_ == inner_ ? 1e-12 : outer_ - inner_;
  rings(line, cos_, sin_, stretch_, inner_, span, out.data(), static_cast<int>(out.size()));
}

SweepField::SweepField(Place centre, double angle, double turn, const FieldFrame& frame)
    : cx_(centre.x * frame.size.width),
      cy_(centre.y * frame.size.height),
      across_(frame.pixelAspect / frame.size.height),
      down_(1.0 / frame.size.height),
      angle_(angle),
      turn_(turn) {}

void SweepField::row(const PlaneSites& sites, int y, std::span<float> out) const {
  const Line line{(sites.x0 - cx_) * across_, sites.stepX * across_, (sites.y0 + y * sites.stepY - cy_) * down_};
  angles(line, angle_, turn_, out.data(), static_cast<int>(out.size()));
}

}  // namespace molten

// Response curves: within 0…1 wherever they are asked.
#include "core/field/response_curve.h"
#include "core/project/project.h"
#include "fuzz/text.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  using namespace molten;
  const auto stage = parseStage("time-field:response=" + fuzz::textOf(bytes, count), 25);
  if (!stage) return 0;
  const auto& parameters = stage->kind->description().parameters;
  for (std::size_t i = 0; i < parameters.size(); ++i)
    if (const auto* points = std::get_if<CurvePoints>(&stage->values[i])) {
      const ResponseCurve curve(*points);
      for (int k = 0; k <= 16; ++k) {
        const double value = curve.at(k / 16.0);
        fuzz::require(value >= -1e-9 && value <= 1 + 1e-9);
      }
    }
  return 0;
}

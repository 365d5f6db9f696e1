#pragma once
// The field of a chain as pictures, and back: time maps.

#include <functional>
#include <stop_token>

#include "core/engine/source_material.h"
#include "core/files/safe_file.h"
#include "core/project/project.h"
#include "core/stages/chain_reading.h"

namespace molten {

/// What a time map's numbers are: how far from now each pixel reads.
enum class TimeMapUnit { Seconds, Frames };

/// What stands beside the pictures, as `name.time-map.json`: the values that black and white stand for.
struct TimeMapScale {
  TimeMapUnit unit = TimeMapUnit::Seconds;
  double least = 0, most = 0;  ///< in the unit; black and white of integer pictures
  double rate = 25;            ///< of the footage, in frames a second
  bool floating = false;       ///< the pictures hold the values themselves
  std::string files;           ///< `map-%05d.png`, beside it
};

/// Makes the pictures of a time map. `now` is what a pixel that is not displaced reads.
class TimeMapMaker {
 public:
  /// `moments`: of the `count` pictures of the whole piece, so that the scale is the same for all parts of it.
  TimeMapMaker(const Chain& chain, const std::shared_ptr<const Footage>& footage,
               std::shared_ptr<SourceMaterial> material, const PlanSettings& settings, TimeMapUnit unit,
               const std::function<Moment(std::int64_t)>& moments, std::int64_t count);

  const TimeMapScale& scale() const { return scale_; }
  /// The shape of its pictures: gray, of 16 bits or floating.
  PictureShape shape(bool floating) const;
  Result<Picture> picture(const Moment& moment, bool floating);

 private:
  std::shared_ptr<SourceMaterial> material_;
  ChainReading reading_;
  TimeMapScale scale_;
};

/// `map-%05d.png` gives `map.time-map.json`.
std::string timeMapScalePath(const std::string& pattern);
/// Under a temporary name, to get its own together with the pictures.
Result<SafeFile> writeTimeMapScale(const TimeMapScale& scale, const std::string& pattern);
/// A Time Field that reads a time map: of its scale's file, or any of its pictures. Fails with a sentence.
Result<Stage> stageOfTimeMap(const std::string& path);

}  // namespace molten

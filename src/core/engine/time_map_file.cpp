#include "core/engine/time_map_file.h"

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "core/media/av_handles.h"
#include "core/files/read_file.h"
#include "core/files/safe_file.h"
#include "core/project/json_text.h"
#include "core/stages/time_field.h"

namespace molten {
namespace {

namespace fs = std::filesystem;
using Json = nlohmann::ordered_json;

constexpr std::size_t mostBytes = 1u << 20;
constexpr const char* ending = ".time-map.json";
constexpr double white = 65535;

double perUnit(TimeMapUnit unit, double rate) {
  return unit == TimeMapUnit::Seconds ? 1 / rate : 1;
}

/// `map` of `map-00012` and `map-%05d`.
std::string baseOf(const std::string& stem) {
  std::string base = stem.substr(0, stem.find('%'));
  while (!base.empty() && base.back() >= '0' && base.back() <= '9') base.pop_back();
  while (!base.empty() && (base.back() == '-' || base.back() == '_' || base.back() == '.')) base.pop_back();
  return base.empty() ? "time" : base;
}

}  // namespace

TimeMapMaker::TimeMapMaker(const Chain& chain, const std::shared_ptr<const Footage>& footage,
                           std::shared_ptr<SourceMaterial> material, const PlanSettings& settings, TimeMapUnit unit,
                           const std::function<Moment(std::int64_t)>& moments, std::int64_t count)
    : material_(std::move(material)),
      reading_(chain, footage->video(settings.between), std::make_shared<MaterialAt>(material_, settings), {},
               footage->clock()) {
  // Bounds of all pictures: nothing that is written may lie outside of them, and 0 must lie within.
  double least = 0, most = 0;
  const std::int64_t step = std::max<std::int64_t>(1, count / 20'000);
  for (std::int64_t k = 0; k < count; k += step) {
    const MomentReads reads = reading_.at(moments(k).pictures());
    least = std::min(least, reads.least - reads.now), most = std::max(most, reads.most - reads.now);
  }
  scale_.unit = unit;
  scale_.rate = reading_.source().rate.toDouble();
  scale_.least = least * perUnit(unit, scale_.rate);
  scale_.most = most * perUnit(unit, scale_.rate);
}

PictureShape TimeMapMaker::shape(bool floating) const {
  PictureShape shape;
  shape.format = {ColourModel::Gray, floating ? 32 : 16, 0, 0, false, floating};
  shape.size = reading_.source().size;
  shape.pixelAspect = reading_.source().pixelAspect;
  shape.colour.range = AVCOL_RANGE_JPEG;
  return shape;
}

Result<Picture> TimeMapMaker::picture(const Moment& moment, bool floating) {
  Picture picture(shape(floating));
  const double now = reading_.at(moment.pictures()).now;
  const double unit = perUnit(scale_.unit, scale_.rate), span = scale_.most - scale_.least;
  PlaneSites sites;
  sites.width = picture.shape().size.width, sites.height = picture.shape().size.height;
  RowReads row;
  for (int y = 0; y < sites.height; ++y) {
    reading_.row(moment, sites, y, row);
    for (std::size_t x = 0; x < row.offsets.size(); ++x) {
      // Where nothing is read nothing is displaced.
      const double value = std::isnan(row.offsets[x]) ? 0 : (row.at(x) - now) * unit;
      if (floating)
        reinterpret_cast<float*>(picture.writableRow(0, y))[x] = static_cast<float>(value);
      else
        reinterpret_cast<std::uint16_t*>(picture.writableRow(0, y))[x] = static_cast<std::uint16_t>(
            span > 0 ? std::clamp((value - scale_.least) / span, 0.0, 1.0) * white + 0.5 : 0);
    }
  }
  if (const auto trouble = material_->troubleWith(reading_.stages())) return *trouble;
  return picture;
}

std::string timeMapScalePath(const std::string& pattern) {
  const fs::path path(pattern);
  return (path.parent_path() / (baseOf(path.stem().string()) + ending)).string();
}

Result<SafeFile> writeTimeMapScale(const TimeMapScale& scale, const std::string& pattern) {
  const Json json{{"unit", scale.unit == TimeMapUnit::Seconds ? "seconds" : "frames"},
                  {"least", scale.least},
                  {"most", scale.most},
                  {"rate", scale.rate},
                  {"values", scale.floating ? "as they are" : "black to white"},
                  {"files", fs::path(pattern).filename().string()}};
  return SafeFile::of(timeMapScalePath(pattern), json.dump(2) + "\n");
}

Result<Stage> stageOfTimeMap(const std::string& path) {
  const std::string scalePath = path.ends_with(ending) ? path : timeMapScalePath(path);
  auto text = readWhole(scalePath, mostBytes);
  if (!text)
    return Error{fileName(path) + " has no scale beside it (" + fileName(scalePath) +
                 "), so what its values mean is not known. Choose it as a Time Field's picture instead."};
  const Json json = parseJson(*text).value_or(Json());
  const auto number = [&](const char* key) { return json.is_object() && json.contains(key) && json[key].is_number(); };
  if (!number("least") || !number("most") || !number("rate") || !json.contains("files") || !json["files"].is_string() ||
      !json.contains("unit") || !json.contains("values"))
    return Error{fileName(scalePath) + " is no time map's scale, or it is damaged."};
  const double rate = json["rate"].get<double>(), least = json["least"].get<double>(),
               most = json["most"].get<double>();
  const bool frames = json["unit"] == "frames", floating = json["values"] == "as they are";
  const fs::path files = fs::path(json["files"].get<std::string>()).filename();
  const double perSecond = frames ? rate : 1;
  if (!(rate > 0) || !(least <= 0) || !(most >= 0) || most / perSecond > 3600 || -least / perSecond > 3600)
    return Error{fileName(scalePath) + " is no time map's scale, or it is damaged."};
  const std::optional<Reach> levels = floating ? std::optional(Reach{least, most > least ? most : least + 1}) : std::nullopt;
  return timeFieldOfPicture((fs::absolute(scalePath).parent_path() / files).lexically_normal().string(),
                            -least / perSecond, most / perSecond, levels);
}

}  // namespace molten

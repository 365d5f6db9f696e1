#include "app/render/presets.h"

#include <QObject>
#include <QSettings>
#include <algorithm>

#include "core/media/picture_writer.h"

namespace molten {
namespace {

constexpr const char* place = "render presets";

std::vector<RenderPreset> own() {
  std::vector<RenderPreset> all;
  QSettings settings;
  const int count = settings.beginReadArray(place);
  for (int i = 0; i < count; ++i) {
    settings.setArrayIndex(i);
    all.push_back({settings.value("name").toString(), settings.value("codec").toString(), settings.value("quality", -1).toInt(),
                   settings.value("part", 1).toInt(), true});
  }
  settings.endArray();
  return all;
}

void keepAll(const std::vector<RenderPreset>& all) {
  QSettings settings;
  settings.remove(place);
  settings.beginWriteArray(place, static_cast<int>(all.size()));
  for (int i = 0; const RenderPreset& one : all) {
    settings.setArrayIndex(i++);
    settings.setValue("name", one.name);
    settings.setValue("codec", one.codec);
    settings.setValue("quality", one.quality);
    settings.setValue("part", one.part);
  }
  settings.endArray();
}

}  // namespace

std::vector<RenderPreset> renderPresets() {
  std::vector<RenderPreset> all{{QObject::tr("A loop on a page"), "gif", -1, 2},
                                {QObject::tr("An upload"), "h264", 18, 1},
                                {QObject::tr("A cut elsewhere"), "prores", 3, 1},
                                {QObject::tr("A master"), "ffv1", -1, 1},
                                {QObject::tr("Stills for a grader"), "exr", -1, 1}};
  for (RenderPreset& one : own()) all.push_back(std::move(one));
  std::erase_if(all, [](const RenderPreset& one) {
    const bool part = one.part == 1 || one.part == 2 || one.part == 4;
    return !part || std::none_of(codecs().begin(), codecs().end(), [&](auto& codec) { return codec.id == one.codec.toStdString(); });
  });
  return all;
}

void keepPreset(RenderPreset preset) {
  preset.own = true;
  auto all = own();
  const auto at = std::find_if(all.begin(), all.end(), [&](auto& one) { return one.name == preset.name; });
  if (at == all.end())
    all.push_back(std::move(preset));
  else
    *at = std::move(preset);
  keepAll(all);
}

void removePreset(const QString& name) {
  auto all = own();
  std::erase_if(all, [&](const RenderPreset& one) { return one.name == name; });
  keepAll(all);
}

}  // namespace molten

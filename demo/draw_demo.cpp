// Draws a demonstration clip: draw-demo CLIP OUTPUT [FRAME]. OUTPUT ends in .mp4, or is name-%05d.png for stills; with
// FRAME only that one is drawn. draw-demo projects FOLDER writes the projects, draw-demo sounds FOLDER the sounds.
#include <tbb/parallel_for.h>

#include <cstdio>
#include <filesystem>
#include <string>

#include "core/media/picture_writer.h"
#include "scene.h"
#include "sounds.h"

namespace {

using namespace molten;

/// Linear light to 16 bits for a screen, bright colours rolling off softly.
std::uint16_t coded(float light) {
  const float soft = light < 0.6f ? light : 0.6f + 0.4f * (1 - std::exp(-(light - 0.6f) / 0.4f));
  const float value = soft <= 0.0031308f ? 12.92f * std::max(0.0f, soft) : 1.055f * std::pow(soft, 1 / 2.4f) - 0.055f;
  return static_cast<std::uint16_t>(std::clamp(value, 0.0f, 1.0f) * 65535 + 0.5f);
}

Picture draw(const demo::Clip& clip, const PictureShape& shape, int frame) {
  Picture picture(shape);
  const bool bytes = shape.format.bits == 8;
  const auto scene = clip.at(static_cast<float>(frame) / static_cast<float>(clip.fps));
  tbb::parallel_for(0, clip.height, [&](int y) {
    const auto put = [&](int plane, int x, std::uint16_t value) {
      std::uint8_t* const row = picture.writableRow(plane, y);
      if (bytes)
        row[x] = static_cast<std::uint8_t>((value + 128) / 257);
      else
        reinterpret_cast<std::uint16_t*>(row)[x] = value;
    };
    for (int x = 0; x < clip.width; ++x) {
      // Four places a pixel, for edges without stairs.
      demo::Light light;
      for (const float dy : {0.25f, 0.75f})
        for (const float dx : {0.25f, 0.75f})
          light = light + scene((static_cast<float>(x) + dx) / static_cast<float>(clip.height),
                                (static_cast<float>(y) + dy) / static_cast<float>(clip.height)) *
                              0.25f;
      put(0, x, coded(light.g));
      put(1, x, coded(light.b));
      put(2, x, coded(light.r));
    }
  });
  return picture;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc == 3 && std::string(argv[1]) == "projects")
    return demo::writeProjects(std::filesystem::absolute(argv[2]).lexically_normal().string()) ? 0 : 1;
  if (argc == 3 && std::string(argv[1]) == "sounds")
    return demo::writeSounds(std::filesystem::absolute(argv[2]).lexically_normal().string()) ? 0 : 1;
  const demo::Clip clips[] = {demo::gather(), demo::tour(),   demo::trolley(),
                              demo::yard(),   demo::sparks(), demo::ladle(), demo::inspector(), demo::poses()};
  const demo::Clip* clip = nullptr;
  for (const auto& known : clips)
    if (argc >= 3 && known.name == argv[1]) clip = &known;
  if (!clip) {
    std::fprintf(stderr, "draw-demo CLIP OUTPUT [FRAME]; CLIP is one of: gather, tour, trolley, yard, sparks, ladle, inspector, poses\n");
    return 2;
  }
  OutputSpec spec;
  spec.path = argv[2];
  spec.quality = 20;
  spec.shape.format = {ColourModel::Rgb, 16, 0, 0, false, false};
  spec.shape.size = {clip->width, clip->height};
  spec.shape.colour = {AVCOL_RANGE_JPEG, AVCOL_SPC_RGB, AVCOL_PRI_BT709, AVCOL_TRC_BT709, AVCHROMA_LOC_UNSPECIFIED};
  spec.rate = clip->fps;
  const int only = argc > 3 ? std::stoi(argv[3]) : -1;
  if (spec.path.ends_with(".png")) {
    spec.quality = -1;
    spec.codec = "png";
    spec.shape.format.bits = 8;
  }
  if (only >= 0) spec.first = only;
  spec.sound = clip->name == "ladle" && only < 0;
  auto writer = PictureWriter::open(spec);
  Status done = writer ? Status{} : Status{writer.error()};
  for (int n = only >= 0 ? only : 0; done && n < (only >= 0 ? only + 1 : clip->frames); ++n)
    done = (*writer)->write(draw(*clip, spec.shape, n));
  if (done && spec.sound) done = (*writer)->write(demo::ladleSound());
  if (done) done = (*writer)->finish();
  if (!done) std::fprintf(stderr, "draw-demo: %s\n", done.error().message.c_str());
  return done ? 0 : 1;
}

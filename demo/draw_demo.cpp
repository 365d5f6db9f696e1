// Draws a demonstration clip: draw-demo CLIP OUTPUT [FRAME]. With FRAME only that one, as name-%05d.png.
#include <tbb/parallel_for.h>

#include <cstdio>
#include <string>

#include "core/media/picture_writer.h"
#include "scene.h"

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
  const auto scene = clip.at(static_cast<float>(frame) / static_cast<float>(clip.fps));
  tbb::parallel_for(0, clip.height, [&](int y) {
    std::uint16_t* rows[3];
    for (int p = 0; p < 3; ++p) rows[p] = reinterpret_cast<std::uint16_t*>(picture.writableRow(p, y));
    for (int x = 0; x < clip.width; ++x) {
      // Four places a pixel, for edges without stairs.
      demo::Light light;
      for (const float dy : {0.25f, 0.75f})
        for (const float dx : {0.25f, 0.75f})
          light = light + scene((static_cast<float>(x) + dx) / static_cast<float>(clip.height),
                                (static_cast<float>(y) + dy) / static_cast<float>(clip.height)) *
                              0.25f;
      rows[0][x] = coded(light.g);
      rows[1][x] = coded(light.b);
      rows[2][x] = coded(light.r);
    }
  });
  return picture;
}

}  // namespace

int main(int argc, char** argv) {
  const demo::Clip clips[] = {demo::gather()};
  const demo::Clip* clip = nullptr;
  for (const auto& known : clips)
    if (argc >= 3 && known.name == argv[1]) clip = &known;
  if (!clip) {
    std::fprintf(stderr, "draw-demo CLIP OUTPUT [FRAME]; CLIP is one of: gather\n");
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
  if (only >= 0) {
    spec.quality = -1;
    spec.codec = "png";
    spec.first = only;
  }
  auto writer = PictureWriter::open(spec);
  Status done = writer ? Status{} : Status{writer.error()};
  for (int n = only >= 0 ? only : 0; done && n < (only >= 0 ? only + 1 : clip->frames); ++n)
    done = (*writer)->write(draw(*clip, spec.shape, n));
  if (done) done = (*writer)->finish();
  if (!done) std::fprintf(stderr, "draw-demo: %s\n", done.error().message.c_str());
  return done ? 0 : 1;
}

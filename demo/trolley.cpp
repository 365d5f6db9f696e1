// The trolley: the camera goes along with a trolley of bottles, past the mouths of the annealing ovens.
#include "scene.h"

namespace demo {
namespace {

constexpr float seconds = 8, floorY = 0.86f, ovenEvery = 1.05f;

struct Scene {
  float now, way;  ///< way: how far the camera has come

  explicit Scene(float s) : now(s) {
    // It is pushed off, rolls, and slows down a little past the middle.
    way = 0.15f + 0.62f * s + 0.10f * std::sin(2 * pi * s / 5.3f) - 0.10f * smooth(0.6f, 0.0f, s);
  }

  float glow(float number) const {
    return 0.75f + 0.16f * std::sin(now * (2.1f + 0.37f * number) + number * 5) +
           0.09f * std::sin(now * 9.3f + number * 2.7f);
  }

  /// The wall of the ovens, which passes by.
  Light wall(float x, float y) const {
    const float brickRow = std::floor(y / 0.045f);
    const float bx = x + (std::fmod(brickRow, 2.0f) == 0 ? 0.0f : 0.055f);
    const float brick = std::floor(bx / 0.11f), inX = bx - brick * 0.11f, inY = y - brickRow * 0.045f;
    const float joint = std::min({inX, 0.11f - inX, inY, 0.045f - inY});
    const float shade = 0.75f + 0.25f * std::sin(brick * 12.9f + brickRow * 78.2f);
    Light c = mix(Light{0.035f, 0.032f, 0.034f}, Light{0.12f, 0.07f, 0.055f} * shade, smooth(0.002f, 0.006f, joint));
    const float number = std::floor(x / ovenEvery);
    const float dx = x - (number + 0.5f) * ovenEvery, dy = y - 0.46f;
    // An arched mouth, and the fire behind it.
    const float arch =
        dy < 0 ? std::sqrt(dx * dx + dy * dy * 1.2f) - 0.27f : std::max(std::abs(dx) - 0.27f, dy - 0.22f);
    c = mix(c, Light{0.20f, 0.17f, 0.15f} * (0.8f + 0.2f * std::sin(std::atan2(dy, dx) * 26)),
            smooth(0.055f, 0.050f, arch) * smooth(-0.004f, 0.002f, arch));
    const float heat = glow(number);
    const float lick = 0.03f * std::sin(dx * 31 + now * 5.1f + number) + 0.02f * std::sin(dx * 57 - now * 8.3f);
    Light fire = mix(Light{0.35f, 0.05f, 0.015f}, Light{1.5f, 0.62f, 0.16f}, smooth(-0.30f, 0.20f, dy + lick)) * heat;
    // Rods of the grate stand before the fire.
    const float rod = std::abs(std::fmod(dx + 10, 0.09f) - 0.045f);
    fire = fire * (0.25f + 0.75f * smooth(0.006f, 0.010f, rod));
    c = mix(c, fire, smooth(0.003f, -0.003f, arch));
    // Warm light on the bricks around, and a number plate over each mouth.
    c = c + Light{0.30f, 0.11f, 0.03f} * (heat * smooth(0.42f, 0.0f, arch) * smooth(-0.003f, 0.003f, arch) * 0.55f);
    const float plate = std::max(std::abs(dx) - 0.05f, std::abs(dy + 0.36f) - 0.022f);
    if (plate < 0) {
      const int dots = static_cast<int>(std::fmod(number, 5.0f)) + 1;
      const float at = (dx + 0.05f) / 0.1f * static_cast<float>(dots);
      const float dot =
          std::sqrt(square((at - std::floor(at) - 0.5f) * 0.1f / static_cast<float>(dots)) + square(dy + 0.36f));
      c = mix(Light{0.34f, 0.30f, 0.24f}, Light{0.03f, 0.03f, 0.03f}, smooth(0.009f, 0.007f, dot));
    }
    // A post of iron between each two ovens.
    const float post = std::abs(dx) - ovenEvery / 2 + 0.035f;
    return mix(c, Light{0.10f, 0.12f, 0.13f} * (0.5f + 8 * std::max(0.0f, post)), smooth(-0.002f, 0.002f, post));
  }

  Light ground(float x, float y) const {
    const float deep = (y - floorY) / (1 - floorY);
    const float tile = std::abs(std::fmod(x / (0.5f + 0.5f * deep) + 40, 0.24f) - 0.12f);
    Light c = Light{0.055f, 0.052f, 0.052f} * (0.6f + 0.7f * deep) * (0.7f + 0.3f * smooth(0.002f, 0.006f, tile));
    const float number = std::floor(x / ovenEvery), dx = x - (number + 0.5f) * ovenEvery;
    c = c + Light{0.34f, 0.12f, 0.03f} * (glow(number) * smooth(0.42f, 0.05f, std::abs(dx)) * (0.75f - 0.5f * deep));
    const float rail = std::abs(deep - 0.34f);
    return mix(c, Light{0.30f, 0.29f, 0.28f}, smooth(0.05f, 0.03f, rail) * 0.7f);
  }

  /// One of the bottles: how much of it is here, and its light, which lets some of what is behind through.
  Light bottle(Light behind, float dx, float dy, int kind) const {
    if (dy > 0 || dy < -0.25f || std::abs(dx) > 0.05f) return behind;
    const float up = -dy / 0.25f;
    const float half = 0.043f - 0.030f * smooth(0.55f, 0.78f, up) + 0.005f * smooth(0.94f, 0.96f, up);
    const float u = dx / half;
    if (std::abs(u) >= 1) return behind;
    static constexpr Light tints[] = {
        {0.20f, 0.62f, 0.42f}, {0.75f, 0.38f, 0.10f}, {0.25f, 0.42f, 0.75f}, {0.62f, 0.60f, 0.55f}};
    const Light tint = tints[kind % 4];
    Light c = behind * tint * 1.25f + tint * 0.05f;
    c = c * (0.35f + 0.65f * std::sqrt(1 - u * u));
    const float shine = smooth(0.12f, 0.04f, std::abs(u + 0.45f)) * smooth(0.04f, 0.10f, up);
    c = c + Light{0.75f, 0.55f, 0.40f} * (0.55f * shine);
    return mix(behind, c, smooth(1.0f, 0.92f, std::abs(u)));
  }

  /// The trolley keeps its place in the picture, trembling and swinging a little.
  Light trolley(Light c, float sx, float sy) const {
    const float x = sx - 0.89f - 0.035f * std::sin(2 * pi * now / 6.1f);
    const float y = sy - 0.004f * std::sin(now * 23 + 2) - 0.003f * std::sin(now * 37);
    // Two shelves of bottles between four posts.
    for (int shelf = 0; shelf < 2; ++shelf) {
      const float at = shelf == 0 ? 0.44f : 0.73f;
      for (int i = 0; i < 5; ++i) {
        const float sway = 0.012f * std::sin(now * 4.3f + static_cast<float>(i * 2 + shelf * 3));
        const float bx = -0.22f + 0.11f * static_cast<float>(i);
        c = bottle(c, x - bx - sway * (at - y) * 3, y - at, i + shelf * 2);
      }
      const float board = std::max(std::abs(x) - 0.31f, std::abs(y - at - 0.014f) - 0.014f);
      c = mix(c, Light{0.26f, 0.20f, 0.13f} * (1.3f - 30 * std::max(0.0f, y - at - 0.01f)),
              smooth(0.002f, -0.002f, board));
    }
    for (const float px : {-0.30f, 0.30f}) {
      const float post = std::max(std::abs(x - px) - 0.009f, std::abs(y - 0.45f) - 0.33f);
      c = mix(c, Light{0.38f, 0.39f, 0.40f} * (1 - 40 * (x - px)), smooth(0.002f, -0.002f, post));
    }
    const float handle =
        std::max(std::abs(std::sqrt(square(x + 0.33f) + square(y - 0.20f)) - 0.045f) - 0.007f, x + 0.30f);
    c = mix(c, Light{0.38f, 0.39f, 0.40f}, smooth(0.002f, -0.002f, handle));
    // Wheels that turn as far as the way goes.
    for (const float wx : {-0.21f, 0.21f}) {
      const float dx = x - wx, dy = y - 0.835f, r = std::sqrt(dx * dx + dy * dy);
      if (r > 0.07f) continue;
      const float angle = std::atan2(dy, dx) - way / 0.06f;
      const float spoke = std::abs(std::sin(angle * 2)) * r;
      const float iron = std::max(smooth(0.012f, 0.009f, std::abs(r - 0.052f)),
                                  smooth(0.008f, 0.005f, spoke) * smooth(0.054f, 0.050f, r));
      c = mix(c, Light{0.30f, 0.28f, 0.26f}, std::max(iron, smooth(0.016f, 0.013f, r)));
    }
    return c;
  }

  Light at(float sx, float sy) const {
    const float x = sx + way,
                shadow = smooth(0.36f, 0.10f, std::abs(sx - 0.89f)) * smooth(0.05f, 0.0f, std::abs(sy - 0.885f));
    Light c = sy < floorY ? wall(x, sy) : ground(x, sy) * (1 - 0.7f * shadow);
    c = trolley(c, sx, sy);
    return c * (1 - 0.4f * smooth(0.5f, 1.15f, std::sqrt(square(sx - 0.89f) + square(sy - 0.5f))));
  }
};

}  // namespace

Clip trolley() {
  return {"trolley", 1280, 720, 24, static_cast<int>(seconds * 24), [](float s) {
            return [scene = Scene(s)](float x, float y) { return scene.at(x, y); };
          }};
}

}  // namespace demo
